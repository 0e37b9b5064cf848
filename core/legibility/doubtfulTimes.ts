import type { ContrastRow } from './worstOf'

/** How far apart times are at least that are looked at closer. */
const APART_SECONDS = 0.2
/** So many of the worst are. */
const WORST = 2
/**
 * And up to so many in all that may as well be the worst: a trace is up to 5 % off, so that in a
 * loop that hardly moves all times are as good. Spread, as its errors stay for a while.
 */
const MOST = 5
const DOUBT = 1.05

/** When a text may be hardest to read, by figures of a trace: what is to be looked at closer. */
export function doubtfulTimes(rows: readonly ContrastRow[], text: number): number[] {
  const ranked = rows
    .flatMap(({ seconds, places }) => {
      const ratio = places[text]?.ratio
      return ratio === undefined ? [] : { seconds, ratio }
    })
    .sort((one, other) => one.ratio - other.ratio)
  const times: number[] = []
  const away = (seconds: number): number =>
    Math.min(Infinity, ...times.map((time) => Math.abs(time - seconds)))
  for (const { seconds } of ranked)
    if (times.length < WORST && away(seconds) >= APART_SECONDS) times.push(seconds)
  const doubtful = ranked.filter(({ ratio }) => ratio <= ranked[0]!.ratio * DOUBT)
  while (times.length < MOST) {
    const farthest = Math.max(0, ...doubtful.map(({ seconds }) => away(seconds)))
    const next = doubtful.find(({ seconds }) => away(seconds) === farthest)
    if (!next || farthest < APART_SECONDS) break
    times.push(next.seconds)
  }
  return times
}
