import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { seededNumbers } from '../testing/samples'
import type { RateControl } from './RateControl'
import { ProbeCurve } from './ProbeCurve'
import {
  frameWeights,
  QuantizerRateControl,
  windowWeights,
  type QuantizerTarget,
} from './QuantizerRateControl'
import { anchorsFor } from './ranks'
import { BitrateRateControl, type BitrateTarget } from './BitrateRateControl'

const FRAMES = 120
const CURVE = new ProbeCurve(
  [60, 100, 150, 200, 255].map((setting) => ({
    setting,
    keyBytes: 40_000 * 2 ** (-setting / 40),
    frameBytes: 8000 * 2 ** (-setting / 40),
    ssim: 1 - setting / 2000,
    psnr: 50 - setting / 15,
  })),
  'quantizer',
)
const PLAIN: QuantizerTarget = {
  frames: FRAMES,
  budgetBytes: 60_000,
  curve: CURVE,
  finest: 40,
  coarsest: 255,
  ranks: { anchors: null, join: null, finest: 40 },
  weights: windowWeights([], FRAMES),
  known: false,
}

/**
 * Runs a pace whose encoder answers `late` frames later, but at once where it is waited for; gives
 * settings and sizes.
 */
function run(
  rateControl: RateControl,
  sizeOf: (k: number, setting: number) => number,
  frames = FRAMES,
  late = 4,
) {
  const settings: number[] = []
  const sizes: number[] = []
  let told = 0
  for (let k = 0; k < frames; k++) {
    for (const due = rateControl.waits() ? k : k - late; told < due; told++)
      rateControl.took(sizes[told]!)
    settings.push(rateControl.next())
    sizes.push(Math.round(sizeOf(k, settings[k]!)))
  }
  for (; told < frames; told++) rateControl.took(sizes[told]!)
  return { settings, sizes, bytes: sizes.reduce((sum, size) => sum + size, 0) }
}

const asTold = (k: number, setting: number): number =>
  k === 0 ? CURVE.keyBytes(setting) : CURVE.frameBytes(setting)

describe('a pace by quantizer', () => {
  it('has one quantizer for all frames where all come as told', () => {
    const { settings, bytes } = run(new QuantizerRateControl(PLAIN), asTold)
    const inner = settings.slice(4, 100)
    expect(Math.max(...inner) - Math.min(...inner)).toBeLessThanOrEqual(3)
    expect(bytes / PLAIN.budgetBytes).toBeGreaterThan(0.97)
    expect(bytes).toBeLessThanOrEqual(PLAIN.budgetBytes)
  })
  it('pays for a cut, but takes it for no sign of what follows', () => {
    const cut = (k: number, setting: number): number => asTold(k, setting) * (k === 50 ? 10 : 1)
    const { settings, bytes } = run(new QuantizerRateControl(PLAIN), cut)
    // Nine frames' worth is spread over the seventy that are left: some steps, not a jump.
    expect(settings[62]! - settings[48]!).toBeLessThan(16)
    expect(bytes).toBeLessThanOrEqual(PLAIN.budgetBytes)
  })
  it('is not led astray by a still beginning that the probe knows of', () => {
    const still = (k: number, setting: number): number => asTold(k, setting) * (k < 40 ? 0.1 : 1.45)
    const spread = (weights: readonly number[]): number => {
      const { settings } = run(new QuantizerRateControl({ ...PLAIN, weights }), still)
      const inner = settings.slice(4, 100).sort((a, b) => a - b)
      return inner.at(-1)! - inner[0]!
    }
    expect(spread(windowWeights([0.1, 1.45, 1.45], FRAMES))).toBeLessThan(
      spread(windowWeights([], FRAMES)),
    )
  })
  it('codes anchors finer, and learns what they cost', () => {
    const anchors = anchorsFor(CURVE, 255, 10)!
    const order: QuantizerTarget = { ...PLAIN, ranks: { ...PLAIN.ranks, anchors } }
    const { settings, bytes } = run(
      new QuantizerRateControl(order),
      (k, setting) => asTold(k, setting) * (k > 0 && k % 10 === 0 ? 3 : 0.8),
    )
    for (const k of [20, 50, 90]) expect(settings[k]!).toBeLessThan(settings[k + 1]! - 10)
    expect(bytes).toBeLessThanOrEqual(order.budgetBytes)
    expect(bytes / order.budgetBytes).toBeGreaterThan(0.96)
  })
  it('goes no finer by leaps at the end, whatever is left', () => {
    const { settings } = run(
      new QuantizerRateControl(PLAIN),
      (k, setting) => asTold(k, setting) * (k > 90 ? 0.05 : 1),
    )
    for (let k = 100; k < FRAMES; k++)
      expect(settings[k - 1]! - settings[k]!).toBeLessThanOrEqual(6)
  })
  it('is even at once where an earlier pass tells what each frame weighs', () => {
    const wild = (k: number, setting: number): number =>
      asTold(k, setting) * (1 + 0.9 * Math.sin(k / 9))
    const first = run(new QuantizerRateControl(PLAIN), wild)
    const weights = frameWeights(first.sizes, first.settings, CURVE)
    const second = run(new QuantizerRateControl({ ...PLAIN, weights, known: true }), wild)
    const spread = ({ settings }: typeof first): number =>
      Math.max(...settings.slice(4, 100)) - Math.min(...settings.slice(4, 100))
    expect(spread(second)).toBeLessThan(spread(first))
    expect(spread(second)).toBeLessThanOrEqual(8)
  })
  it('stays in its bounds for any encoder (seed 51)', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 1e6 }),
        fc.integer({ min: 500, max: 2_000_000 }),
        fc.integer({ min: 0, max: 8 }),
        fc.integer({ min: 1, max: 200 }),
        (seed, budgetBytes, late, frames) => {
          const random = seededNumbers(seed)
          const { settings } = run(
            new QuantizerRateControl({
              ...PLAIN,
              frames,
              budgetBytes,
              weights: windowWeights([0.2, 2, 0.8], frames),
              ranks: { ...PLAIN.ranks, anchors: anchorsFor(CURVE, 255, 7) },
            }),
            (k, setting) => asTold(k, setting) * random() * 3,
            frames,
            late,
          )
          for (const setting of settings)
            expect(Number.isInteger(setting) && setting >= 40 && setting <= 255).toBe(true)
        },
      ),
      { seed: 51, numRuns: 60 },
    )
  })
})

describe('a pace by bit rate', () => {
  const order: BitrateTarget = {
    frames: FRAMES,
    framesPerSecond: 25,
    budgetBytes: 120_000,
    max: 5_000_000,
    firstBoost: 6,
    before: null,
    ramp: (k) => (k === 0 ? 1 : Math.max(0, 1 - (FRAMES - 1 - k) / 12)),
  }
  const obedient = (_: number, rate: number): number => rate / 8 / 25
  it('asks most for the first frame, and more again before the join, but for the very last frames', () => {
    const { settings } = run(new BitrateRateControl(order), obedient)
    expect(settings[0]! / settings[30]!).toBeGreaterThan(4)
    expect(Math.max(...settings.slice(105)) / settings[100]!).toBeGreaterThan(1.5)
    expect(settings.at(-1)! / settings[100]!).toBeLessThan(1.2)
  })
  it('has frames left to pay with when a risen rate makes the encoder spend many frames’ worth on one', () => {
    let spent = false
    const surging = (k: number, rate: number): number => {
      const surges = !spent && k > 90 && rate > 1.7 * 8 * 25 * 900
      spent ||= surges
      return Math.max(300, obedient(k, rate)) * (surges ? 3 : spent ? 0.9 : 1)
    }
    const { bytes } = run(new BitrateRateControl(order), surging)
    expect(spent).toBe(true)
    expect(bytes).toBeLessThanOrEqual(order.budgetBytes)
  })
  it.each([12, 24, 40, 60, 90])(
    'ends a loop of %i frames no finer than it went, whatever its join was given',
    (frames) => {
      const ramp = (k: number): number =>
        k === 0 ? 1 : Math.max(0, 1 - (frames - 1 - k) / Math.min(12, frames * 0.15))
      const short = { ...order, frames, budgetBytes: frames * 1000, ramp }
      const { settings, bytes } = run(new BitrateRateControl(short), obedient, frames)
      expect(bytes).toBeLessThanOrEqual(short.budgetBytes * 1.005)
      expect(settings.at(-1)! / settings[Math.floor(frames / 2)]!).toBeLessThan(1.25)
    },
  )
  it('knows from the pass before what the encoder makes of a rate in each part of the loop', () => {
    const uneven = (k: number, rate: number): number => obedient(k, rate) * (k < 60 ? 0.6 : 1.3)
    const plain = { ...order, ramp: null }
    const first = run(new BitrateRateControl(plain), uneven)
    const second = run(
      new BitrateRateControl({ ...plain, before: { asked: first.settings, sizes: first.sizes } }),
      uneven,
    )
    expect(Math.abs(second.bytes / order.budgetBytes - 0.993)).toBeLessThan(0.01)
    // What it asks for is the same throughout: it is not surprised half way.
    const inner = second.settings.slice(10, 100)
    expect(Math.max(...inner) / Math.min(...inner)).toBeLessThan(1.25)
    expect(
      Math.max(...first.settings.slice(10, 100)) / Math.min(...first.settings.slice(10, 100)),
    ).toBeGreaterThan(1.5)
  })
  it('follows what an encoder makes of a rate by four tenths of each stride', () => {
    const plain = { ...order, firstBoost: 1, ramp: null }
    const rateControl = new BitrateRateControl(plain)
    // One stride of five frames takes twice what was asked for; all others what was asked for.
    const asked: number[] = []
    for (let k = 0; k < 16; k++) {
      asked.push(rateControl.next())
      rateControl.took((asked[k]! / 8 / 25) * (k >= 10 && k < 15 ? 2 : 1))
    }
    const [before, after] = [asked[14]!, asked[15]!]
    const left = (plain.budgetBytes * 0.993 - (before / 8 / 25) * 20) / (FRAMES - 15)
    expect(after / (left * 8 * 25)).toBeCloseTo(1 / 1.4, 2)
  })
  it('asks for the last frames one by one', () => {
    const rateControl = new BitrateRateControl(order)
    const watched = Array.from({ length: FRAMES }, () => (rateControl.next(), rateControl.waits()))
    expect(watched.indexOf(true)).toBeGreaterThan(FRAMES * 0.75)
    expect(watched.lastIndexOf(false)).toBeLessThan(watched.indexOf(true))
  })
  it('changes the rate only every few frames: each change costs an encoder something', () => {
    const { settings } = run(
      new BitrateRateControl(order),
      (k, rate) => obedient(k, rate) * (1 + 0.2 * Math.sin(k)),
    )
    const changes = settings
      .slice(1, 100)
      .filter((rate, at) => at > 0 && rate !== settings[at]).length
    expect(changes).toBeLessThan(30)
  })
  it.each([
    [120, 1],
    [120, 0.7],
    [120, 1.3],
    [40, 1],
    [40, 0.8],
  ])(
    'fills the budget of %i frames where the encoder makes %d of what it is asked for',
    (frames, answer) => {
      const budgetBytes = frames * 1000
      const { bytes } = run(
        new BitrateRateControl({ ...order, frames, budgetBytes, ramp: null }),
        (k, rate) => obedient(k, rate) * answer,
        frames,
      )
      expect(bytes / budgetBytes).toBeGreaterThan(0.93)
      expect(bytes / budgetBytes).toBeLessThan(1.03)
    },
  )
  it('never asks for more than anybody sees, nor for less than an encoder knows (seed 52)', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 1e6 }),
        fc.integer({ min: 1000, max: 5_000_000 }),
        fc.integer({ min: 1, max: 300 }),
        (seed, budgetBytes, frames) => {
          const random = seededNumbers(seed)
          const { settings } = run(
            new BitrateRateControl({ ...order, frames, budgetBytes, ramp: null }),
            (k, rate) => obedient(k, rate) * random() * 2,
            frames,
          )
          for (const rate of settings) expect(rate >= 20_000 && rate <= order.max).toBe(true)
        },
      ),
      { seed: 52, numRuns: 60 },
    )
  })
})
