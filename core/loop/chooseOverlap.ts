import { medianStep } from '../picture/frameDifference'

/** What a blended seam's length is chosen from: the cut's own motion, straight. */
export interface CutMotion {
  /** Mean ΔE from each output frame of the cut to the next: one fewer than frames. */
  readonly steps: readonly number[]
  /** The figure of a straight seam; null where nothing moves. */
  readonly straightRatio: number | null
}

const MIN_SECONDS = 0.3
const MAX_SECONDS = 2
const MAX_SHARE = 1 / 3
/** How much longer than necessary a blend may get to end at a calm moment. */
const LEEWAY_SECONDS = 0.8

/**
 * The length of a blended seam, in seconds. The blend must not change the picture faster than the
 * motion does: its steepest step is 1.5 / X of the jump (the slope of `3u² − 2u³` at its middle),
 * that of the motion is `jump / ratio`, so X is 1.5 times the straight seam's ratio, in frames;
 * limited to 0.3 to 2 seconds and a third of the cut. Of the lengths up to 0.8 seconds longer, the
 * first whose loop point falls on a step no larger than the median is taken, else the calmest:
 * something quick may be passing where the loop would end.
 */
export function chooseOverlap({ steps, straightRatio }: CutMotion, fps: number): number {
  const frames = steps.length + 1
  const max = Math.max(1, Math.min(Math.round(MAX_SECONDS * fps), Math.floor(frames * MAX_SHARE)))
  const needed = Math.min(
    max,
    Math.max(Math.round(MIN_SECONDS * fps), Math.ceil(1.5 * (straightRatio ?? 0))),
  )
  const median = medianStep(steps) ?? 0
  const leeway = Math.round(LEEWAY_SECONDS * fps)
  // If the blend already has the maximum length, a shorter one may end more calmly.
  const tried =
    needed < max
      ? Array.from(
          { length: Math.min(max, needed + leeway) - needed + 1 },
          (_, longer) => needed + longer,
        )
      : Array.from({ length: Math.min(leeway, needed - 1) + 1 }, (_, shorter) => needed - shorter)
  // The loop point is between the cut's frames `frames − X − 1` and `frames − X`.
  const stepAtEnd = (overlap: number): number => steps[frames - overlap - 1] ?? Infinity
  // A loop point as calm as the median step cannot be seen.
  const best =
    tried.find((overlap) => stepAtEnd(overlap) <= median) ??
    tried.reduce((calmest, overlap) =>
      stepAtEnd(overlap) < stepAtEnd(calmest) ? overlap : calmest,
    )
  return Math.max(0.04, Math.round((best / fps) * 1000) / 1000)
}
