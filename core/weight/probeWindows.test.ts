import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { isProbedWhole, probeWindows, withCuts } from './probeWindows'

/** Steps of a loop by a rule; the first is none. */
const steps = (frames: number, at: (k: number) => number): number[] =>
  Array.from({ length: frames }, (_, k) => (k === 0 ? 0 : at(k)))
const starts = (of: readonly number[]): number[] =>
  probeWindows(of).windows.map((window) => window[0]!)

describe('the frames that a probe encodes', () => {
  it('are all of a loop that is hardly longer', () => {
    expect(probeWindows(steps(36, () => 1)).windows).toEqual([
      Array.from({ length: 36 }, (_, k) => k),
    ])
    expect(probeWindows(steps(1, () => 1)).windows).toEqual([[0]])
    expect(isProbedWhole(36)).toBe(true)
    expect(isProbedWhole(37)).toBe(false)
  })
  it('are the middle of each third where it moves evenly, or not at all', () => {
    expect(starts(steps(120, () => 0.8))).toEqual([14, 54, 94])
    expect(starts(steps(120, () => 0))).toEqual([14, 54, 94])
  })
  it('move as much as their third does', () => {
    // Every third is calm but for its last ten frames.
    const uneven = steps(180, (k) => (k % 60 >= 50 ? 6 : 0.2))
    for (const window of probeWindows(uneven).windows) {
      const mean = window.slice(1).reduce((sum, k) => sum + uneven[k]!, 0) / 11
      expect(mean).toBeGreaterThan(0.9)
      expect(mean).toBeLessThan(1.5)
    }
  })
  it('have no cut in them, which is counted by itself', () => {
    const cut = steps(120, (k) => (k === 59 ? 40 : 0.5))
    const { windows, cuts } = probeWindows(cut)
    expect(cuts).toBe(1)
    for (const window of windows) expect(window.slice(1)).not.toContain(59)
    expect(withCuts({ keyBytes: 12_000, frameBytes: 100 }, 1, 120)).toBeCloseTo(200, 6)
    expect(withCuts({ keyBytes: 12_000, frameBytes: 100 }, 0, 120)).toBe(100)
  })
  it('begin with a cut where a shot is as short as a window: nothing is counted twice', () => {
    // Cuts every eleven frames: no window is without one.
    const many = steps(66, (k) => (k % 11 === 0 ? 30 : 0.3))
    const { windows, cuts } = probeWindows(many)
    const inside = windows.flatMap((window) => window.slice(1).filter((k) => k % 11 === 0)).length
    expect(cuts + inside).toBe(5)
  })
  it('lie one after another within the loop, for any motion (seed 119)', () => {
    fc.assert(
      fc.property(
        fc.array(fc.double({ min: 0, max: 60, noNaN: true }), { minLength: 1, maxLength: 400 }),
        (motion) => {
          const { windows, cuts } = probeWindows(motion)
          const numbers = windows.flat()
          expect(numbers).toEqual([...new Set(numbers)].sort((a, b) => a - b))
          expect(numbers[0]).toBeGreaterThanOrEqual(0)
          expect(numbers.at(-1)).toBeLessThan(motion.length)
          expect(numbers).toHaveLength(isProbedWhole(motion.length) ? motion.length : 36)
          expect(cuts).toBeGreaterThanOrEqual(0)
        },
      ),
      { seed: 119, numRuns: 200 },
    )
  })
})
