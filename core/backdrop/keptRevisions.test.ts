import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { keptRevisions, type DatedRevision } from './keptRevisions'

const HOUR = 3_600_000
const DAY = 24 * HOUR
const NOW = Date.UTC(2026, 10, 27, 12)
const revisions = (agesMs: readonly number[]): DatedRevision[] =>
  [...agesMs].sort((a, b) => b - a).map((age, index) => ({ revision: index + 1, atMs: NOW - age }))
const kept = (agesMs: readonly number[]): number[] =>
  [...keptRevisions(revisions(agesMs), NOW)].sort((a, b) => a - b)

describe('revisions that age', () => {
  it('are all kept for a day', () =>
    expect(kept([0, 1000, 2000, 3 * HOUR, DAY - 1])).toEqual([1, 2, 3, 4, 5]))
  it('are kept one an hour for a month: the last of each hour, and the first of all', () => {
    const minute = 60_000
    // Three revisions within one hour two days ago, one in the hour after.
    expect(kept([2 * DAY, 2 * DAY - minute, 2 * DAY - 2 * minute, 2 * DAY - HOUR, 0])).toEqual([
      1, 3, 4, 5,
    ])
  })
  it('are kept one a day after that', () =>
    expect(kept([40 * DAY, 40 * DAY - HOUR, 40 * DAY - 2 * HOUR, 41 * DAY, 0])).toEqual([1, 4, 5]))
  it('keep the newest however old it is', () =>
    expect(kept([90 * DAY, 90 * DAY - 1, 90 * DAY - 2])).toEqual([1, 3]))
  it('of nothing are nothing', () => expect(kept([])).toEqual([]))
})

it('are thinned to the same whether every day or once', () => {
  fc.assert(
    fc.property(fc.array(fc.integer({ min: 0, max: 80 * DAY }), { maxLength: 60 }), (ages) => {
      const all = revisions(ages)
      let daily = all
      for (let days = 80; days >= 0; days--) {
        const at = NOW - days * DAY
        const known = daily.filter((each) => each.atMs <= at)
        const stay = keptRevisions(known, at)
        daily = daily.filter((each) => each.atMs > at || stay.has(each.revision))
      }
      // The newest of some day was kept for being the newest; everything else agrees.
      const once = keptRevisions(all, NOW)
      expect([...once].every((revision) => daily.some((each) => each.revision === revision))).toBe(
        true,
      )
      expect(keptRevisions(daily, NOW)).toEqual(once)
    }),
    { seed: 41, numRuns: 60 },
  )
})
