import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  BLEND_MODES,
  blendEnvelope,
  blendOver,
  blendRange,
  blendSamples,
  isLinear,
  type BlendMode,
} from './blend'

const byte = fc.integer({ min: 0, max: 255 })
const share = fc.integer({ min: 0, max: 100 }).map((value) => value / 100)
const color = fc.record({ r: byte, g: byte, b: byte })
const mode = fc.constantFrom(...BLEND_MODES)
const GREY = { r: 102, g: 102, b: 102 }

describe('blend modes', () => {
  // By the formulas of the standard, for one channel: 0.4 below, 0.8 and 0.2 above.
  it.each([
    ['normal', 0.8, 0.2],
    ['multiply', 0.32, 0.08],
    ['darken', 0.4, 0.2],
    ['screen', 0.88, 0.52],
    ['lighten', 0.8, 0.4],
    ['overlay', 0.64, 0.16],
    ['soft-light', 0.5395, 0.256],
    ['hard-light', 0.76, 0.16],
    ['difference', 0.4, 0.2],
    ['exclusion', 0.56, 0.44],
  ] as const)('work on each channel: %s', (blend, bright, dark) => {
    const over = (value: number): number =>
      blendOver(blend, { r: value * 255, g: 0, b: 0, alpha: 1 }, GREY).r / 255
    expect(over(0.8)).toBeCloseTo(bright, 3)
    expect(over(0.2)).toBeCloseTo(dark, 3)
  })
  it('that tint keep the lightness that is below, or take the one above', () => {
    const [below, above] = [
      { r: 200, g: 120, b: 40 },
      { r: 40, g: 80, b: 160, alpha: 1 },
    ]
    const lightness = ({ r, g, b }: typeof below): number => 0.3 * r + 0.59 * g + 0.11 * b
    const spread = ({ r, g, b }: typeof below): number => Math.max(r, g, b) - Math.min(r, g, b)
    const [tinted, saturated, lit] = (['color', 'saturation', 'luminosity'] as const).map((blend) =>
      blendOver(blend, above, below),
    )
    expect(lightness(tinted!)).toBeCloseTo(lightness(below), 6)
    expect(tinted!.b).toBeGreaterThan(tinted!.r)
    expect(lightness(saturated!)).toBeCloseTo(lightness(below), 6)
    expect(spread(saturated!)).toBeCloseTo(120, 6)
    expect(lightness(lit!)).toBeCloseTo(lightness(above), 6)
    expect(blendOver('saturation', above, GREY).g).toBeCloseTo(GREY.g, 6)
  })
  it('never leave 0 to 255, and change nothing at no strength', () =>
    fc.assert(
      fc.property(mode, color, color, share, (blend, under, over, alpha) => {
        const seen = blendOver(blend, { ...over, alpha }, under)
        for (const channel of Object.values(seen)) {
          expect(channel).toBeGreaterThanOrEqual(-1e-9)
          expect(channel).toBeLessThanOrEqual(255 + 1e-9)
        }
        expect(blendOver(blend, { ...over, alpha: 0 }, under)).toEqual(under)
      }),
    ))
  it('in which means may be blended give the mean of what they blend', () =>
    fc.assert(
      fc.property(mode, color, color, color, share, (blend, one, other, over, alpha) => {
        fc.pre(isLinear(blend))
        const mean = (a: typeof one, b: typeof one) => ({
          r: (a.r + b.r) / 2,
          g: (a.g + b.g) / 2,
          b: (a.b + b.b) / 2,
        })
        const blended = [one, other].map((under) => blendOver(blend, { ...over, alpha }, under))
        const found = blendOver(blend, { ...over, alpha }, mean(one, other))
        expect(found.g).toBeCloseTo(mean(blended[0]!, blended[1]!).g, 6)
      }),
    ))
  it('make the same of many samples under one colour as of each alone', () => {
    const count = 800
    const under = Float32Array.from({ length: 3 * count }, (_, at) => ((at * 7919) % 2551) / 10)
    const color = { r: 150, g: 37, b: 240 }
    const over = Float32Array.from({ length: 4 * count }, (_, at) =>
      at % 4 === 3 ? (at % 101) / 100 : [color.r, color.g, color.b][at % 4]!,
    )
    for (const mode of BLEND_MODES) {
      const seen = under.slice()
      blendSamples(seen, mode, over, count)
      for (let sample = 0; sample < count; sample++) {
        const [r, g, b] = under.subarray(3 * sample, 3 * sample + 3) as unknown as number[]
        const layer = { ...color, alpha: over[4 * sample + 3]! }
        const alone = blendOver(mode, layer, { r: r!, g: g!, b: b! })
        expect(Math.abs(seen[3 * sample]! - alone.r)).toBeLessThan(0.1)
        expect(Math.abs(seen[3 * sample + 1]! - alone.g)).toBeLessThan(0.1)
        expect(Math.abs(seen[3 * sample + 2]! - alone.b)).toBeLessThan(0.1)
      }
    }
  })
})

describe('the range of what is blended', () => {
  const range = fc
    .tuple(byte, byte)
    .map(([a, b]): [number, number] => [Math.min(a, b), Math.max(a, b)])
  const between = ([least, most]: readonly [number, number], at: number): number =>
    least + (most - least) * at
  it('holds all that can come of it (seed 5)', () =>
    fc.assert(
      fc.property(
        mode,
        fc.tuple(range, range, range),
        fc.tuple(range, range, range),
        fc.tuple(share, share),
        fc.array(share, { minLength: 7, maxLength: 7 }),
        (blend: BlendMode, unders, overs, [a, b], at) => {
          const alphas: [number, number] = [Math.min(a, b), Math.max(a, b)]
          const [ur, ug, ub] = unders.map((each, index) => between(each, at[index]!))
          const [or, og, ob] = overs.map((each, index) => between(each, at[3 + index]!))
          const alpha = between(alphas, at[6]!)
          const seen = blendOver(
            blend,
            { r: or!, g: og!, b: ob!, alpha },
            { r: ur!, g: ug!, b: ub! },
          )
          for (const [index, value] of [seen.r, seen.g, seen.b].entries()) {
            const own = blendRange(unders[index]!, blend, overs[index]!, alphas)
            expect(value).toBeGreaterThanOrEqual(own[0] - 1e-6)
            expect(value).toBeLessThanOrEqual(own[1] + 1e-6)
            const step = { mode: blend, over: overs[index]!, alpha: alphas }
            const { least, most } = blendEnvelope([step])
            const under = between(unders[index]!, at[index]!)
            expect(value).toBeGreaterThanOrEqual(least.added + under * least.left - 1e-6)
            expect(value).toBeLessThanOrEqual(most.added + under * most.left + 1e-6)
          }
        },
      ),
      { seed: 5, numRuns: 2000 },
    ))
  it('is a single value where everything is known, of modes that work on channels', () => {
    const own = blendRange([102, 102], 'multiply', [204, 204], [0.5, 0.5])
    expect(own[0]).toBeCloseTo((102 + 81.6) / 2, 6)
    expect(own[1]).toBe(own[0])
  })
})
