import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { forecast } from './forecast'
import { VISUALLY_LOSSLESS_SSIM, type PassJob, type WeightGoal } from './passes'
import { ProbeCurve } from './ProbeCurve'

const POINTS = [
  [60, 0.996],
  [120, 0.985],
  [180, 0.96],
  [255, 0.9],
].map(([setting, ssim]) => ({
  setting: setting!,
  keyBytes: 60_000 * 2 ** (-setting! / 40),
  frameBytes: 9000 * 2 ** (-setting! / 40),
  ssim: ssim!,
  psnr: 52 - setting! / 20,
}))
const job = (
  goal: WeightGoal,
): Pick<PassJob, 'goal' | 'curve' | 'bounds' | 'frames' | 'overhead'> => ({
  goal,
  curve: new ProbeCurve(POINTS, 'quantizer'),
  bounds: { finest: 15, coarsest: 255 },
  frames: 200,
  overhead: () => 2000,
})
const within = (bytes: number) => forecast(job({ kind: 'budget', bytes }))

describe('what a file is expected to come to', () => {
  it('fills its budget, container and all, and is liker the more it may take', () => {
    for (const budget of [80_000, 120_000, 200_000]) {
      expect(within(budget).bytes).toBeLessThanOrEqual(budget + 1)
      expect(within(budget).bytes).toBeGreaterThan(budget * 0.98)
    }
    expect(within(200_000).ssim).toBeGreaterThan(within(80_000).ssim)
    expect(within(200_000).isVisuallyLossless).toBe(false)
  })
  it('stops at the ceiling of quality', () => {
    const { bytes, ssim, isVisuallyLossless } = within(5_000_000)
    expect(isVisuallyLossless).toBe(true)
    expect(bytes).toBeLessThan(1_000_000)
    expect(ssim).toBeGreaterThan(VISUALLY_LOSSLESS_SSIM)
  })
  it('never tells more bytes than the budget unless the coarsest setting takes them, whatever the clip (seed 61)', () => {
    const points = fc.array(
      fc.record({
        setting: fc.integer({ min: 20, max: 255 }),
        keyBytes: fc.integer({ min: 200, max: 300_000 }),
        frameBytes: fc.integer({ min: 20, max: 60_000 }),
        ssim: fc.double({ min: 0.5, max: 0.999, noNaN: true }),
        psnr: fc.double({ min: 25, max: 55, noNaN: true }),
      }),
      { minLength: 2, maxLength: 5 },
    )
    fc.assert(
      fc.property(
        points,
        fc.integer({ min: 5000, max: 4_000_000 }),
        fc.integer({ min: 12, max: 900 }),
        (probed, bytes, frames) => {
          const any = {
            ...job({ kind: 'budget', bytes }),
            curve: new ProbeCurve(probed, 'quantizer'),
            frames,
          }
          const told = forecast(any)
          const min = any.curve.loopBytes(255, frames) + 2000
          expect(told.bytes).toBeLessThanOrEqual(Math.max(bytes, min) + 1)
          expect(told.bytes).toBeGreaterThan(0)
          expect(told.ssim).toBeLessThanOrEqual(1)
          if (told.isVisuallyLossless) expect(told.bytes).toBeLessThan(bytes)
        },
      ),
      { seed: 61, numRuns: 300 },
    )
  })
  it('is over a budget below the floor', () => expect(within(10_000).bytes).toBeGreaterThan(10_000))
  it('holds a likeness at whatever bytes it takes', () => {
    const { bytes, ssim, isVisuallyLossless } = forecast(job({ kind: 'quality', ssim: 0.96 }))
    expect(ssim).toBeCloseTo(0.96, 4)
    expect(bytes).toBeCloseTo(2000 + 60_000 * 2 ** (-180 / 40) + 199 * 9000 * 2 ** (-180 / 40), -2)
    expect(isVisuallyLossless).toBe(false)
  })
})
