import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { parseHex } from '../picture/srgb'
import { frameContrast } from '../scrim/frameContrast'
import { evenScrim } from '../scrim/Scrim'
import { failsAgainFrom, weakestStrength } from './weakestStrength'

const reads = (passes: (strength: number) => boolean) => (strength: number) =>
  Promise.resolve(passes(strength))

/** Nothing is ever known to have failed: every strength is asked for as a whole. */
const always = reads(() => true)

describe('the weakest strength', () => {
  it.each([
    [0, 0],
    [0.01, 0.01],
    [0.474, 0.48],
    [1, 1],
    [1.1, null],
  ])('is the first hundredth that serves, where all from %d on do', async (from, found) => {
    const test = reads((strength) => strength >= from)
    expect(await weakestStrength({ known: always, whole: test })).toBe(found)
  })
  it('asks for all moments a few times only: those that have failed are known (seed 3)', () =>
    fc.assert(
      fc.asyncProperty(
        fc.array(fc.integer({ min: 0, max: 100 }), { minLength: 1, maxLength: 8 }),
        async (limits) => {
          const failed = new Set<number>()
          let asked = 0
          const found = await weakestStrength({
            known: reads((strength) =>
              [...failed].every((limit) => strength * 100 >= limit - 1e-9),
            ),
            // As measuring does, it tells the worst moment.
            whole: reads((strength) => {
              asked += 1
              const worst = Math.max(...limits)
              if (strength * 100 >= worst - 1e-9) return true
              failed.add(worst)
              return false
            }),
          })
          expect(found).toBe(Math.max(...limits) / 100)
          expect(asked).toBeLessThanOrEqual(3)
        },
      ),
      { seed: 3 },
    ))
  it('is found where a stronger one is too much, as of a grey under white words', async () => {
    const test = reads((strength) => strength >= 0.34 && strength < 0.45)
    expect(await weakestStrength({ known: test, whole: test })).toBe(0.34)
  })
  it('tells what it tries', async () => {
    const tried: number[] = []
    const test = reads((strength) => strength >= 0.05)
    await weakestStrength({ known: test, whole: test }, (strength) => tried.push(strength))
    expect(tried).toEqual([0, 0.01, 0.03, 0.07, 0.05, 0.04, 0.05, 0.04])
  })
  it('of a drawn clip is the weakest: two hundredths less fail in some frame (seed 11)', () =>
    fc.assert(
      fc.asyncProperty(
        fc.array(fc.integer({ min: 40, max: 255 }), { minLength: 1, maxLength: 6 }),
        fc.integer({ min: 2, max: 12 }),
        async (greys, needed) => {
          const frames = greys.map((grey) => ({
            data: new Uint8Array(16 * 16 * 4).fill(grey),
            width: 16,
            height: 16,
          }))
          const box = { x: 0, y: 0, width: 16, height: 16 }
          const passes = (strength: number): boolean =>
            frames.every(
              (frame) =>
                frameContrast(frame, evenScrim('#000000', strength), box, parseHex('#ffffff'))! >=
                needed,
            )
          const test = reads(passes)
          const found = (await weakestStrength({ known: always, whole: test }))!
          expect(passes(found)).toBe(true)
          if (found >= 0.02) expect(passes(found - 0.02)).toBe(false)
        },
      ),
      { seed: 11, numRuns: 40 },
    ))
})

describe('the strength from which copy fails again', () => {
  const from = (passes: (strength: number) => boolean, enough: number, looks: number) =>
    failsAgainFrom({ known: reads(passes), whole: reads(passes) }, enough, looks)
  it('is none where more is better', async () => {
    expect(await from((strength) => strength >= 0.3, 0.3, 1)).toBeNull()
    expect(await from((strength) => strength >= 0.3, 0.3, 4)).toBeNull()
  })
  it.each([
    [0.45, 1],
    [0.83, 1],
    [0.31, 4],
    [1, 1],
  ])('is the first hundredth at which it does: %d', async (limit, looks) =>
    expect(await from((strength) => strength >= 0.3 && strength < limit - 1e-9, 0.3, looks)).toBe(
      limit,
    ),
  )
  it('is found between looks that pass if there are enough of them', async () => {
    const gap = (strength: number): boolean => strength < 0.6 || strength > 0.7
    expect(await from(gap, 0.3, 1)).toBeNull()
    expect(await from(gap, 0.3, 4)).toBe(0.6)
  })
  it('has nothing to look at above full strength', async () =>
    expect(await from(() => false, 1, 4)).toBeNull())
  it('is found of moments that only fail at more strength', async () => {
    const failed = new Set<number>()
    const fails = (strength: number): boolean => strength >= 0.9
    expect(
      await failsAgainFrom(
        {
          known: reads((strength) => failed.size === 0 || !fails(strength)),
          whole: reads((strength) => {
            if (fails(strength)) failed.add(strength)
            return !fails(strength)
          }),
        },
        0.2,
        1,
      ),
    ).toBe(0.9)
  })
})
