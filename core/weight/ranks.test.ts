import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { ProbeCurve } from './ProbeCurve'
import { anchorInterval, anchorsFor, quantizerOf, rankOf, type Ranks } from './ranks'

/**
 * A curve whose other frames' bytes fall `faster` times as fast as key frames' towards the coarse
 * end.
 */
function curveFalling(faster: number): ProbeCurve {
  return new ProbeCurve(
    [60, 110, 160, 210, 255].map((setting) => ({
      setting,
      keyBytes: 60_000 * 2 ** (-setting / 50),
      frameBytes: 9000 * 2 ** ((-setting * faster) / 50),
      ssim: 1 - setting / 2500,
      psnr: 50 - setting / 15,
    })),
    'quantizer',
  )
}

const RANKS: fc.Arbitrary<Ranks> = fc.record({
  anchors: fc.option(
    fc.record({
      first: fc.double({ min: 0, max: 70, noNaN: true }),
      later: fc.double({ min: 0, max: 40, noNaN: true }),
      every: fc.option(fc.integer({ min: 2, max: 40 })),
    }),
  ),
  join: fc
    .option(
      fc.record({
        share: fc.double({ min: 0.4, max: 1, noNaN: true }),
        from: fc.integer({ min: 1, max: 300 }),
      }),
    )
    .map(
      (join) =>
        join && {
          share: join.share,
          ramp: (k: number) => (k === 0 ? 1 : Math.min(1, Math.max(0, (k - join.from) / 12))),
        },
    ),
  finest: fc.double({ min: 1, max: 60, noNaN: true }),
})

describe('which frames others lean on', () => {
  it('are the finer the less is new in each frame, and none where all is new', () => {
    const lifts = [0.9, 1.05, 1.15, 1.25, 1.3, 1.4].map(
      (faster) => anchorsFor(curveFalling(faster), 255, 10)?.later ?? 0,
    )
    expect(lifts).toEqual([...lifts].sort((a, b) => b - a))
    expect(lifts[0]).toBeGreaterThan(20)
    expect(lifts.at(-1)).toBe(0)
  })
  it('grow with an encoder’s range, and keep the interval that it showed', () => {
    const [narrow, wide] = [
      anchorsFor(curveFalling(1), 63, 20)!,
      anchorsFor(curveFalling(1), 255, 20)!,
    ]
    expect(wide.first / narrow.first).toBeCloseTo(255 / 63, 6)
    expect([narrow.every, wide.every]).toEqual([20, 20])
    expect(wide.first).toBeGreaterThan(wide.later)
  })
  it('are unknown where the probe has too few points', () => {
    expect(
      anchorsFor(
        new ProbeCurve(
          [
            { setting: 100, keyBytes: 900, frameBytes: 90, ssim: 0.9, psnr: 40 },
            { setting: 200, keyBytes: 300, frameBytes: 30, ssim: 0.8, psnr: 33 },
          ],
          'quantizer',
        ),
        255,
        10,
      ),
    ).toBeNull()
  })
  it('are found in a stream that keeps one in so many (seed 101)', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 2, max: 30 }),
        fc.integer({ min: 1, max: 6 }),
        (every, turns) => {
          // A key frame replaces all slots, an anchor its own and the last one's, any other only
          // the last one's.
          const slots = Array.from({ length: every * turns + 1 }, (_, k) =>
            k === 0 ? 0xff : k % every === 0 ? 0b11 : 0b1,
          )
          expect(anchorInterval(slots)).toBe(every)
          if (turns > 2) expect(anchorInterval(slots.with(every * 2, 0b1))).toBeNull()
        },
      ),
      { seed: 101, numRuns: 100 },
    )
  })
  it('are not made up for a stream without a habit', () => {
    expect(anchorInterval([0xff, 1, 1, 1, 1, 1])).toBeNull()
    expect(anchorInterval([])).toBeNull()
    expect(anchorInterval([null, null, null])).toBeNull()
  })
})

describe('the quantizer of a frame', () => {
  it('is never coarser than that of plain frames, nor finer than anybody sees, but towards the join (seed 102)', () => {
    fc.assert(
      fc.property(
        RANKS,
        fc.double({ min: 1, max: 255, noNaN: true }),
        fc.nat(320),
        (ranks, base, k) => {
          const quantizer = quantizerOf(base, k, ranks)
          expect(quantizer).toBeLessThanOrEqual(base)
          if (!ranks.join || ranks.join.ramp(k) === 0)
            expect(quantizer).toBeGreaterThanOrEqual(Math.min(base, ranks.finest))
          else
            expect(quantizer).toBeGreaterThanOrEqual(
              Math.min(base * ranks.join.share, ranks.finest) - 1e-9,
            )
        },
      ),
      { seed: 102, numRuns: 400 },
    )
  })
  it('follows that of plain frames: coarser where those are coarser (seed 103)', () => {
    fc.assert(
      fc.property(
        RANKS,
        fc.double({ min: 1, max: 250, noNaN: true }),
        fc.double({ min: 0, max: 5, noNaN: true }),
        fc.nat(320),
        (ranks, base, more, k) => {
          expect(quantizerOf(base + more, k, ranks)).toBeGreaterThanOrEqual(
            quantizerOf(base, k, ranks) - 1e-9,
          )
        },
      ),
      { seed: 103, numRuns: 400 },
    )
  })
  it('is that of plain frames wherever a frame is nothing to others (seed 104)', () => {
    fc.assert(
      fc.property(
        RANKS,
        fc.double({ min: 60, max: 255, noNaN: true }),
        fc.integer({ min: 1, max: 320 }),
        (ranks, base, k) => {
          if (rankOf(k, ranks) === 'plain') expect(quantizerOf(base, k, ranks)).toBe(base)
          expect(rankOf(0, ranks)).toBe('first')
        },
      ),
      { seed: 104, numRuns: 300 },
    )
  })
})
