import { traceDistance, traceVelocityDistance, type FrameTrace } from './FrameTrace'

/** Where and how long a loop may be, in seconds of the source. */
export interface LoopRange {
  readonly from: number
  readonly to: number
  readonly min: number
  readonly max: number
}

/** Two moments that look alike and continue alike: `[start, end)` makes a loop. */
export interface LoopCandidate {
  readonly start: number
  readonly end: number
  /** Distance of positions plus λ times that of velocities, in ΔE; lower is better. */
  readonly cost: number
}

/**
 * Weight of the continuation against the picture: a change of motion at the loop point is as
 * visible as a jump.
 */
const LAMBDA = 1
/**
 * Loops closer to each other than this at both ends count as one. Source: docs/method.md (seam).
 */
const DISTINCT_SECONDS = 0.5

/**
 * The best loops within a range, best first, at least half a second apart. Compares every pair of
 * moments with an allowed distance and keeps only the best, so memory does not grow with the number
 * of pairs. `onProgress` gets the share done (0 to 1) at intervals and may throw to stop. Source:
 * docs/method.md (seam), search.
 */
export function findLoops(
  trace: FrameTrace,
  range: LoopRange,
  count: number,
  onProgress: (done: number) => void = () => undefined,
): LoopCandidate[] {
  const { seconds } = trace
  // The last moment has no following one to compare.
  const last = seconds.length - 1
  const best: LoopCandidate[] = []
  for (let i = 0; i < last; i++) {
    if (i % 64 === 0) onProgress(i / Math.max(1, last))
    if (seconds[i]! < range.from - 1e-6) continue
    for (let j = i + 1; j < last; j++) {
      const length = seconds[j]! - seconds[i]!
      if (length < range.min - 1e-6) continue
      if (length > range.max + 1e-6 || seconds[j]! > range.to + 1e-6) break
      const limit = best.length < count ? Infinity : best[best.length - 1]!.cost
      const position = traceDistance(trace, i, j)
      // Most pairs are excluded by their position alone.
      if (position >= limit) continue
      const cost = position + LAMBDA * traceVelocityDistance(trace, i, j)
      if (cost < limit) keep(best, { start: seconds[i]!, end: seconds[j]!, cost }, count)
    }
  }
  onProgress(1)
  return best
}

/** Whether two loops look the same. */
export function isSameLoop(
  one: Pick<LoopCandidate, 'start' | 'end'>,
  other: Pick<LoopCandidate, 'start' | 'end'>,
): boolean {
  return (
    Math.abs(one.start - other.start) < DISTINCT_SECONDS &&
    Math.abs(one.end - other.end) < DISTINCT_SECONDS
  )
}

/** Inserts a candidate in order; of those that count as one loop only the best is kept. */
function keep(best: LoopCandidate[], candidate: LoopCandidate, count: number): void {
  if (best.some((held) => held.cost <= candidate.cost && isSameLoop(held, candidate))) return
  for (let at = best.length - 1; at >= 0; at--)
    if (isSameLoop(best[at]!, candidate)) best.splice(at, 1)
  const place = best.findIndex((held) => held.cost > candidate.cost)
  best.splice(place === -1 ? best.length : place, 0, candidate)
  if (best.length > count) best.length = count
}

/** A frame near an end of a candidate, described finely. */
export interface DescribedFrame<T> {
  readonly seconds: number
  readonly description: T
}

/** A loop whose ends lie on frames. */
export interface RefinedLoop {
  readonly start: number
  readonly end: number
  /** Distance of the two frames that lie a loop apart, in the unit of `distance`. */
  readonly jump: number
}

/**
 * Moves both ends of a loop to the best nearby frames: the first frame shown and the frame after
 * the last must be alike, and so must their neighbours. `starts` and `ends` are runs of frames in
 * order; null if no pair has an allowed length.
 */
export function refineLoop<T>(
  starts: readonly DescribedFrame<T>[],
  ends: readonly DescribedFrame<T>[],
  distance: (one: T, other: T) => number,
  { min, max }: Pick<LoopRange, 'min' | 'max'>,
): RefinedLoop | null {
  let best: (RefinedLoop & { cost: number }) | null = null
  for (let i = 1; i + 1 < starts.length; i++) {
    for (let j = 1; j + 1 < ends.length; j++) {
      const length = ends[j]!.seconds - starts[i]!.seconds
      if (length < min - 1e-6 || length > max + 1e-6) continue
      const jump = distance(starts[i]!.description, ends[j]!.description)
      const cost =
        jump +
        (distance(starts[i - 1]!.description, ends[j - 1]!.description) +
          distance(starts[i + 1]!.description, ends[j + 1]!.description)) /
          2
      if (!best || cost < best.cost)
        best = { start: starts[i]!.seconds, end: ends[j]!.seconds, jump, cost }
    }
  }
  return best && { start: best.start, end: best.end, jump: best.jump }
}
