import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { searchQuality, type QualityGoal } from './searchQuality'

/** An encoder whose bytes and similarity rise with its step; counts its tries. */
function encoder(bytes: (step: number) => number, ssim: (step: number) => number) {
  const tried: number[] = []
  return {
    tried,
    encode: (step: number) => (
      tried.push(step),
      Promise.resolve({ step, bytes: bytes(step), ssim: ssim(step) })
    ),
  }
}
const GOAL: QualityGoal = { maxBytes: 10_000, enoughSsim: 0.99, steps: 32 }

describe('the search for a poster’s quality', () => {
  it('stops at what nobody sees, however many bytes are left', async () => {
    const { encode, tried } = encoder(
      (step) => step * 100,
      (step) => 0.9 + step * 0.005,
    )
    expect(await searchQuality(encode, GOAL)).toMatchObject({ step: 18 })
    expect(tried.length).toBeLessThanOrEqual(6)
    expect(new Set(tried).size).toBe(tried.length)
  })
  it('takes the finest that fits where the ceiling comes first', async () => {
    const { encode } = encoder(
      (step) => step * 1000,
      (step) => 0.5 + step * 0.001,
    )
    expect(await searchQuality(encode, GOAL)).toMatchObject({ step: 10, bytes: 10_000 })
  })
  it('takes the coarsest where nothing fits', async () => {
    const { encode } = encoder(
      (step) => 50_000 + step,
      () => 0.9,
    )
    expect(await searchQuality(encode, GOAL)).toMatchObject({ step: 0 })
  })
  it('takes the finest of all where nothing is good enough and all fits', async () => {
    const { encode } = encoder(
      () => 100,
      () => 0.5,
    )
    expect(await searchQuality(encode, GOAL)).toMatchObject({ step: 31 })
  })
  it.each([
    [18, 2],
    [17, 3],
    [19, 4],
    [31, 9],
  ])('needs few tries from a step near the outcome: from %i', async (near, most) => {
    const { encode, tried } = encoder(
      (step) => step * 100,
      (step) => 0.9 + step * 0.005,
    )
    expect(await searchQuality(encode, { ...GOAL, near })).toMatchObject({ step: 18 })
    expect(tried.length).toBeLessThanOrEqual(most)
    expect(new Set(tried).size).toBe(tried.length)
  })
  it('finds what trying every step finds (seed 21)', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.integer({ min: 100, max: 3000 }),
        fc.double({ min: 0.0005, max: 0.02, noNaN: true }),
        fc.integer({ min: 500, max: 60_000 }),
        fc.option(fc.integer({ min: 0, max: 31 }), { nil: undefined }),
        async (slope, gain, maxBytes, near) => {
          const { encode } = encoder(
            (step) => 400 + step * slope,
            (step) => Math.min(1, 0.9 + step * gain),
          )
          const all = await Promise.all(Array.from({ length: 32 }, (_, step) => encode(step)))
          const fitting = all.filter(({ bytes }) => bytes <= maxBytes)
          const best = fitting.find(({ ssim }) => ssim >= 0.99) ?? fitting.at(-1) ?? all[0]!
          const goal = { ...GOAL, maxBytes, ...(near !== undefined && { near }) }
          expect((await searchQuality(encode, goal)).step).toBe(best.step)
        },
      ),
      { seed: 21 },
    )
  })
})
