import type { ContrastRow } from './worstOf'

/** How far apart times are at least that are looked at closer. */
const APART_SECONDS = 0.2
/** So many of the worst are. */
const WORST = 2
/**
 * And some that may as well be the worst: a trace is up to 5 % off, so that in a loop that hardly
 * moves all times are as good. Spread, as its errors stay for a while; the same for all texts, as a
 * frame that is composed for one serves the others.
 */
const SPREAD = [0.1, 0.3, 0.5, 0.7, 0.9]
const DOUBT = 1.05

/** When a text may be hardest to read, by figures of a trace: what is to be looked at closer. */
export function doubtfulTimes(rows: readonly ContrastRow[], text: number): number[] {
  const ranked = rows
    .flatMap(({ seconds, places }) => {
      const ratio = places[text]?.ratio
      return ratio === undefined ? [] : { seconds, ratio }
    })
    .sort((one, other) => one.ratio - other.ratio)
  const [worst] = ranked
  if (!worst) return []
  const times: number[] = []
  const away = (seconds: number): number =>
    Math.min(Infinity, ...times.map((time) => Math.abs(time - seconds)))
  for (const { seconds } of ranked)
    if (times.length < WORST && away(seconds) >= APART_SECONDS) times.push(seconds)
  for (const share of SPREAD) {
    const { seconds, places } = rows[Math.floor(share * rows.length)]!
    const ratio = places[text]?.ratio ?? Infinity
    if (ratio <= worst.ratio * DOUBT && away(seconds) >= APART_SECONDS) times.push(seconds)
  }
  return times
}
