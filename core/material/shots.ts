/*
 * Where a clip breaks: hard cuts, and ends that are black, held or faded. Frames count from 0;
 * differences are ΔE between a frame and the previous one.
 */

/** Frames around a cut whose differences it is compared with. */
const AROUND = 12
const MIN_CUT = 4
const CUT_TIMES_MEDIAN = 5

/** The middle value; 0 of nothing. */
export function median(values: readonly number[]): number {
  const sorted = [...values].sort((a, b) => a - b)
  return sorted.length === 0
    ? 0
    : (sorted[sorted.length >> 1]! + sorted[(sorted.length - 1) >> 1]!) / 2
}

/**
 * Frames that begin a new shot: a single difference far above those around it. `steps[k]` is
 * between frames k − 1 and k; `steps[0]` is 0.
 */
export function findCuts(steps: readonly number[]): number[] {
  const cuts: number[] = []
  for (let at = 1; at < steps.length; at++) {
    const step = steps[at]!
    if (step < MIN_CUT) continue
    const around = [
      ...steps.slice(Math.max(1, at - AROUND), at),
      ...steps.slice(at + 1, at + 1 + AROUND),
    ]
    const beside = Math.max(steps[at - 1] ?? 0, steps[at + 1] ?? 0)
    // A flash differs twice in succession; a cut once.
    if (
      step > CUT_TIMES_MEDIAN * median(around) &&
      step > 2.5 * (at === 1 || at === steps.length - 1 ? 0 : beside)
    )
      cuts.push(at)
  }
  return cuts
}

/**
 * What a clip's ends hold. Frames are half-open: `start` frames at the beginning, those from `end`
 * on at the end.
 */
export interface Ends {
  readonly black: { readonly start: number; readonly end: number }
  readonly still: { readonly start: number; readonly end: number }
  readonly fade: { readonly start: number; readonly end: number }
}

/**
 * Mean lightness (OKLab, 0 to 1) below which a frame counts as black, and how bright its brightest
 * cell may be.
 */
const BLACK_MEAN = 0.1
const BLACK_PEAK = 0.25
/**
 * A held picture changes from frame to frame by less than this share of the clip's usual step, or
 * by less than this absolute amount in any clip.
 */
const HELD_STEP_SHARE = 0.15
const MIN_STEP = 0.003
/**
 * Encoders refine the first frames of a held picture in jumps: single differences among quiet ones
 * do not count.
 */
const SMOOTHED_FRAMES = 4

/**
 * Looks at both ends. `brightness` and `peaks` are the mean and largest lightness of each frame.
 * Runs of less than `least` frames are none.
 */
export function findEnds(
  steps: readonly number[],
  brightness: readonly number[],
  peaks: readonly number[],
  min: number,
): Ends {
  const count = steps.length
  const isBlack = (frame: number): boolean =>
    brightness[frame]! < BLACK_MEAN && peaks[frame]! < BLACK_PEAK
  const held = Math.max(MIN_STEP, HELD_STEP_SHARE * median(steps))
  const isStill = (frame: number): boolean =>
    median(steps.slice(Math.max(0, frame - SMOOTHED_FRAMES), frame + SMOOTHED_FRAMES + 1)) < held
  let blackStart = 0
  while (blackStart < count && isBlack(blackStart)) blackStart += 1
  let blackEnd = count
  while (blackEnd > 0 && isBlack(blackEnd - 1)) blackEnd -= 1
  let stillStart = 1
  while (stillStart < count && isStill(stillStart)) stillStart += 1
  let stillEnd = count
  while (stillEnd > 1 && isStill(stillEnd - 1)) stillEnd -= 1
  const wholly = stillStart >= count || blackStart >= count
  const keep = (frames: number): number => (wholly || frames < min ? 0 : frames)
  const black = { start: keep(blackStart), end: count - keep(count - blackEnd) }
  return {
    black,
    // The frame before the first change is part of the held picture.
    still: {
      start: stillStart <= min ? 0 : keep(stillStart),
      end: count - keep(count - stillEnd),
    },
    fade: wholly
      ? { start: 0, end: count }
      : {
          start: fadeLength(brightness, min),
          end: count - fadeLength([...brightness].reverse(), min),
        },
  }
}

/**
 * Frames from an end whose brightness rises steadily out of black to what is usual; 0 where there
 * is no fade.
 */
function fadeLength(brightness: readonly number[], min: number): number {
  const usual = median(brightness)
  if (usual < 2 * BLACK_MEAN || brightness[0]! > usual * 0.35) return 0
  let frame = 0
  while (frame < brightness.length && brightness[frame]! < usual * 0.9) frame += 1
  const dark = brightness.findIndex((value) => value > BLACK_MEAN)
  const ramp = brightness.slice(Math.max(0, dark - 1), frame)
  const rising = ramp.filter(
    (value, index) => index > 0 && value >= ramp[index - 1]! - 0.005,
  ).length
  return frame < brightness.length && ramp.length >= min && rising >= 0.9 * (ramp.length - 1)
    ? frame
    : 0
}
