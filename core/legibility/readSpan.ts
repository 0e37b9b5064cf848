/** A span of moments, by their places in order; the end is not in it. */
export interface MomentSpan {
  readonly first: number
  readonly end: number
}

/**
 * The longest run of moments in which nothing fails; the first of equal ones, null where all do.
 * `fails` tells of each moment in order.
 */
export function longestRead(fails: readonly boolean[]): MomentSpan | null {
  let best: MomentSpan | null = null
  let first = 0
  for (let at = 0; at <= fails.length; at++) {
    if (at < fails.length && !fails[at]) continue
    if (at - first > (best ? best.end - best.first : 0)) best = { first, end: at }
    first = at + 1
  }
  return best
}
