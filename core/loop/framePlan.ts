import { frameAt, type Presentation } from '../media/presentation'
import { toNumber, type Fraction } from './Fraction'

/** An interval `[start, end)` of a source's presentation time, in ticks of its own timescale. */
export interface Cut {
  readonly timescale: number
  readonly start: number
  readonly end: number
}

/** What decides which source frame each output frame shows. */
export interface LoopSettings {
  readonly cut: Cut
  /** 0.25 to 4; above 1 is faster. */
  readonly speed: number
  readonly frameRate: Fraction
}

/** How many frames the loop has: `round((end − start)·f/s)`, at least one. Source: docs/method.md, "Time". */
export function frameCount({ cut, speed, frameRate }: LoopSettings): number {
  return Math.max(1, Math.round(((cut.end - cut.start) * frameRate.num) / (cut.timescale * frameRate.den * speed)))
}

/** Length of the loop in seconds: its frames over its rate, so exactly what is delivered. */
export function loopSeconds(settings: LoopSettings): number {
  return frameCount(settings) / toNumber(settings.frameRate)
}

/**
 * For each output frame the number of the source frame (by presentation order) it shows: the last at
 * or before `start + k·s/f`. Numbers never fall. Source: docs/method.md, "Time".
 */
export function framePlan(settings: LoopSettings, presentation: Pick<Presentation, 'times' | 'timescale'>): number[] {
  const { cut, speed, frameRate } = settings
  const scale = presentation.timescale / cut.timescale
  return Array.from({ length: frameCount(settings) }, (_, k) => {
    const ticks = cut.start * scale + (k * speed * presentation.timescale * frameRate.den) / frameRate.num
    // A millionth of a tick forgives the rounding of the division; it can never reach the next frame.
    return frameAt(presentation, ticks + 1e-6)
  })
}

/** The least length of a cut, in output frames. */
const LEAST_FRAMES = 2

/**
 * A cut with both ends laid on frames of the source, in order, inside `[0, length]`, and long enough to move.
 * `moved` says which end gives way when they meet.
 */
export function snapCut(cut: Cut, presentation: Presentation, moved: 'start' | 'end' | 'both'): Cut {
  const scale = presentation.timescale / cut.timescale
  const boundaries = [...presentation.times, presentation.length]
  const nearest = (ticks: number): number => {
    const before = frameAt({ times: boundaries }, ticks)
    const after = Math.min(boundaries.length - 1, before + 1)
    return ticks - boundaries[before]! <= boundaries[after]! - ticks ? before : after
  }
  const last = boundaries.length - 1
  let start = Math.min(nearest(cut.start * scale), last)
  let end = nearest(cut.end * scale)
  const least = Math.min(LEAST_FRAMES, last)
  if (end - start < least) {
    if (moved === 'start') start = Math.max(0, end - least)
    end = Math.min(last, Math.max(end, start + least))
    start = Math.min(start, end - least)
  }
  return { timescale: presentation.timescale, start: boundaries[start]!, end: boundaries[end]! }
}
