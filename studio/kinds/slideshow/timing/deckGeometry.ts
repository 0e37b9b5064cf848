import { MIN_HOLD_SECONDS, type Cycle } from '../../../../core/kinds/slideshow/cycle'
import { MAX_HOLD_SECONDS } from '../../../../core/kinds/slideshow/Slideshow'
import { MAX_TRANSITION_SECONDS } from '../../../../core/kinds/slideshow/transition'

/** Steps of the ruler, in seconds. */
const RULER_STEPS = [0.5, 1, 2, 3, 5, 10, 15, 30, 60, 120]
/** The least distance of two marks of the ruler, in pixels. */
const MIN_MARK_PX = 64

/** The moments of a ruler that is `width` pixels long for `seconds`. */
export function rulerMarks(seconds: number, width: number): number[] {
  const step =
    RULER_STEPS.find((each) => (each / seconds) * width >= MIN_MARK_PX) ??
    RULER_STEPS[RULER_STEPS.length - 1]!
  return Array.from({ length: Math.floor(seconds / step + 1e-9) + 1 }, (_, index) => index * step)
}

const rounded = (seconds: number): number => Math.round(seconds * 20) / 20

/** A hold after its edge was dragged by some seconds. */
export const draggedHold = (hold: number, by: number): number =>
  Math.min(MAX_HOLD_SECONDS, Math.max(MIN_HOLD_SECONDS, rounded(hold + by)))

/** A transition after its ramp was dragged by some seconds. */
export const draggedTransition = (seconds: number, by: number): number =>
  Math.min(MAX_TRANSITION_SECONDS, Math.max(0, rounded(seconds + by)))

/** The place that a slide dropped at a moment takes, counted from 0. */
export function placeAt({ spans }: Cycle, time: number): number {
  const middles = spans.map(({ fullFrom, leavesFrom }) => (fullFrom + leavesFrom) / 2)
  const at = middles.findIndex((middle) => time < middle)
  return at < 0 ? spans.length - 1 : at
}

/** The moment that a step leads to: the next slide fully shown, or the one before. */
export function steppedTime({ spans, seconds }: Cycle, time: number, way: 1 | -1): number {
  const starts = spans.map(({ fullFrom }) => fullFrom)
  if (way > 0) return starts.find((start) => start > time + 1e-3) ?? 0
  return starts.findLast((start) => start < time - 1e-3) ?? starts[starts.length - 1] ?? seconds
}

/** One frame of 30 a second earlier or later, within the cycle. */
export function framedTime({ seconds }: Cycle, time: number, way: 1 | -1): number {
  return (((time + way / 30) % seconds) + seconds) % seconds
}
