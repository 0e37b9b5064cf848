import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { ceilingRate, nextRate, type Attempt } from './rateControl'
import { renditionSize } from './renditionSize'

/** Runs the control against an encoder that answers a rate with bytes; returns what was kept and how often it encoded. */
function simulate(encoder: (bitsPerSecond: number) => number, budget: number, seconds: number, ceiling: number) {
  const attempts: Attempt[] = []
  for (;;) {
    const decision = nextRate(attempts, budget, seconds, ceiling)
    if (decision.kind === 'keep') return { kept: attempts[decision.index]!, passes: attempts.length }
    attempts.push({ bitsPerSecond: decision.bitsPerSecond, bytes: Math.round(encoder(decision.bitsPerSecond)) })
    if (attempts.length > 10) throw new Error('never ends')
  }
}

describe('rate control', () => {
  it('lands inside the budget at once with an honest encoder', () => {
    const { kept, passes } = simulate((rate) => (rate * 8) / 8, 1_000_000, 8, 1e9)
    expect(passes).toBe(1)
    expect(kept.bytes).toBeLessThanOrEqual(1_000_000)
  })
  it('corrects an encoder that overshoots by a quarter', () => {
    const { kept, passes } = simulate((rate) => rate * 1.27, 1_000_000, 8, 1e9)
    expect(kept.bytes).toBeLessThanOrEqual(1_000_000)
    expect(kept.bytes).toBeGreaterThan(900_000)
    expect(passes).toBe(2)
  })
  it('does not ask again of an encoder that has reached its best', () => expect(simulate(() => 300_000, 1_000_000, 8, 1e9).passes).toBe(1))
  it('stops at the ceiling instead of spending what nobody sees', () => {
    const { kept } = simulate((rate) => rate, 50_000_000, 8, 2_000_000)
    expect(kept.bitsPerSecond).toBe(2_000_000)
  })
  it('keeps the smallest when a floor lies above the budget', () => {
    const { kept, passes } = simulate((rate) => Math.max(700_000, rate), 400_000, 8, 1e9)
    expect(kept.bytes).toBe(700_000)
    expect(passes).toBeLessThanOrEqual(3)
  })
  it('ends within three passes and keeps what fits, if anything did (seed 9)', () => {
    fc.assert(fc.property(fc.double({ min: 0.5, max: 1.6, noNaN: true }), fc.double({ min: 0, max: 800_000, noNaN: true }), fc.integer({ min: 100_000, max: 5_000_000 }), (gain, floor, budget) => {
      const seen: number[] = []
      const { kept, passes } = simulate((rate) => {
        const bytes = Math.max(floor, rate * gain)
        seen.push(Math.round(bytes))
        return bytes
      }, budget, 8, 1e9)
      expect(passes).toBeLessThanOrEqual(3)
      if (seen.some((bytes) => bytes <= budget)) expect(kept.bytes).toBeLessThanOrEqual(budget)
    }), { seed: 9 })
  })
  it('allows more bits for larger and faster pictures', () => expect(ceilingRate('vp9', 1920, 1080, 30)).toBeGreaterThan(ceilingRate('vp9', 1280, 720, 30)))
})

describe('rendition size', () => {
  it.each([[1920, 1080, 1280, 1280, 720], [1920, 1080, 3840, 1920, 1080], [641, 361, 1280, 640, 360], [1080, 1920, 641, 642, 1142], [100, 3, 50, 50, 2]])('of %i × %i at %i is %i × %i', (width, height, wanted, w, h) => {
    expect(renditionSize({ width, height }, wanted)).toEqual({ width: w, height: h })
  })
})
