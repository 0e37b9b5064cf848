import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { contrastRatio } from './contrast'
import { frameContrast, neededContrast } from './frameContrast'
import { layersFromImage, scrimImage } from '../handoff/layers/scrim'
import { BLEND_MODES, blendOver, type BlendMode } from '../picture/blend'
import { formatHex } from '../picture/srgb'
import {
  evenLayer,
  evenScrim,
  linearLayer,
  NO_SCRIM,
  scrimSchema,
  type Scrim,
  type ScrimLayer,
} from './Scrim'
import { FIRST_TEXTURE, PATTERNS, type Texture, type Tile } from '../texture/Texture'
import {
  compositeOver,
  layersOver,
  meanStrength,
  scrimRuns,
  seenThrough,
  type Layer,
} from './scrimAt'

const WHITE = { r: 255, g: 255, b: 255 }
const BLACK = { r: 0, g: 0, b: 0 }
const color = fc.record({
  r: fc.integer({ min: 0, max: 255 }),
  g: fc.integer({ min: 0, max: 255 }),
  b: fc.integer({ min: 0, max: 255 }),
})
const flat = (strength: number): Scrim => evenScrim('#000000', strength)
const pixels = (width: number, height: number, at: (x: number, y: number) => number) => ({
  width,
  height,
  data: Uint8Array.from({ length: width * height * 4 }, (_, index) =>
    index % 4 === 3 ? 255 : at((index >> 2) % width, Math.floor((index >> 2) / width)),
  ),
})

describe('contrast', () => {
  // Examples that follow from WCAG 2.2's own definition.
  it.each([
    [WHITE, BLACK, 21],
    [WHITE, WHITE, 1],
    [{ r: 118, g: 118, b: 118 }, WHITE, 4.54],
    [{ r: 255, g: 0, b: 0 }, WHITE, 4.0],
  ])('of %j and %j is %d', (one, other, ratio) =>
    expect(contrastRatio(one, other)).toBeCloseTo(ratio, 2),
  )
  it('is the same both ways round and within 1 and 21 (seed 3)', () => {
    fc.assert(
      fc.property(color, color, (one, other) => {
        expect(contrastRatio(one, other)).toBe(contrastRatio(other, one))
        expect(contrastRatio(one, other)).toBeGreaterThanOrEqual(1)
        expect(contrastRatio(one, other)).toBeLessThanOrEqual(21.0001)
      }),
      { seed: 3 },
    )
  })
  it.each([
    [24, 400, 3],
    [19, 700, 3],
    [19, 400, 4.5],
    [16, 700, 4.5],
  ])('asks of text of %i px and weight %i: %d', (px, weight, needed) =>
    expect(neededContrast(px, weight)).toBe(needed),
  )
})

const anyTile: fc.Arbitrary<Tile> = fc
  .tuple(fc.integer({ min: 1, max: 64 }), fc.integer({ min: 1, max: 64 }))
  .chain(([width, height]) =>
    fc
      .array(fc.constantFrom('0', '1', '2', '3'), {
        minLength: width * height,
        maxLength: width * height,
      })
      .map((levels) => ({ width, height, levels: levels.join('') })),
  )
const anyTexture: fc.Arbitrary<Texture> = fc.integer({ min: 1, max: 8 }).chain((scale) =>
  fc.oneof(
    fc.constantFrom(...PATTERNS).map((pattern) => ({ pattern, scale, tile: null })),
    anyTile.map((tile) => ({ pattern: 'own' as const, scale, tile })),
  ),
)
const share = fc.integer({ min: 0, max: 1000 }).map((value) => value / 1000)
const scrimLayer: fc.Arbitrary<ScrimLayer> = fc.record({
  shape: fc.constantFrom('even', 'linear', 'radial', 'texture'),
  texture: anyTexture,
  strength: share,
  blend: fc.constantFrom(...BLEND_MODES),
  angleDeg: fc.integer({ min: 0, max: 360 }),
  centre: fc.record({ x: share, y: share }),
  radius: fc.integer({ min: 1, max: 20 }).map((value) => value / 10),
  stops: fc
    .array(fc.record({ at: share, color: color.map(formatHex), strength: share }), {
      minLength: 2,
      maxLength: 8,
    })
    .map((stops) => stops.sort((one, other) => one.at - other.at)),
})

const textured = (texture: Partial<Texture>, strength = 0.5): ScrimLayer => ({
  ...evenLayer('#000000', strength),
  shape: 'texture',
  texture: { ...FIRST_TEXTURE, ...texture },
})

const hasOneTextureAtMost = (layers: readonly ScrimLayer[]): boolean =>
  layers.filter(({ shape }) => shape === 'texture').length <= 1

describe('scrim', () => {
  const ramp = linearLayer('#000000', [1, 0], 90)
  const at = (layer: ScrimLayer, x: number, y: number): Layer => layersOver([layer], 100, 40)(x, y)
  it.each([
    [0, 1],
    [50, 0.5],
    [100, 0],
  ])('runs to the right at 90 degrees: at %i of 100 it is %d', (x, alpha) =>
    expect(at(ramp, x, 20).alpha).toBeCloseTo(alpha, 6),
  )
  it.each([
    [40, 1],
    [20, 0.5],
    [0, 0],
  ])('runs up at 0 degrees: at height %i of 40 it is %d', (y, alpha) =>
    expect(at({ ...ramp, angleDeg: 0 }, 50, y).alpha).toBeCloseTo(alpha, 6),
  )
  it('mixes premultiplied, so that a clear end lends no colour', () => {
    const stops = [
      { at: 0, color: '#ff0000', strength: 1 },
      { at: 1, color: '#0000ff', strength: 0 },
    ]
    expect(at({ ...ramp, stops }, 75, 20)).toMatchObject({ r: 255, b: 0 })
  })
  it.each([
    [50, 20, 1],
    [75, 20, 0.5],
    [50, 30, 0.5],
    [100, 20, 0],
    [0, 0, 0],
  ])('runs from the centre to its radius of width and height: at %i, %i it is %d', (x, y, alpha) =>
    expect(at({ ...ramp, shape: 'radial', radius: 0.5 }, x, y).alpha).toBeCloseTo(alpha, 6),
  )
  it.each([
    [10, 0.8],
    [20, 0.8],
    [40, 0.45],
    [60, 0.1],
    [80, 0.1],
    [95, 0.1],
  ])('holds its first and last stop beyond them: at %i of 100 it is %d', (x, alpha) => {
    const stops = [
      { at: 0.2, color: '#000000', strength: 0.8 },
      { at: 0.6, color: '#000000', strength: 0.1 },
      { at: 0.6, color: '#000000', strength: 0.1 },
    ]
    expect(at({ ...ramp, stops }, x, 20).alpha).toBeCloseTo(alpha, 6)
  })
  it('has one colour only where it is even, whatever its stops are', () =>
    expect(at({ ...ramp, shape: 'even', strength: 0.3 }, 90, 5)).toEqual({ ...BLACK, alpha: 0.3 }))
  it('is nothing without layers', () => expect(layersOver([], 100, 40)(3, 4).alpha).toBe(0))
  it('of several layers is what they give one after another, from back to front (seed 8)', () => {
    fc.assert(
      fc.property(
        fc.array(scrimLayer, { maxLength: 6 }),
        color,
        fc.integer({ min: 0, max: 100 }),
        fc.integer({ min: 0, max: 40 }),
        (layers, ground, x, y) => {
          const seen = layers.reduce(
            (under, layer) => blendOver(layer.blend, at(layer, x, y), under),
            ground,
          )
          const found = seenThrough({ layers }, 100, 40)(x, y, ground)
          expect(found.r).toBeCloseTo(seen.r, 6)
          expect(found.g).toBeCloseTo(seen.g, 6)
          expect(found.b).toBeCloseTo(seen.b, 6)
        },
      ),
      { seed: 8, numRuns: 300 },
    )
  })
  it('is one element for each layer that is blended, and one for those between them', () => {
    const [even, blended] = [evenLayer('#000000', 0.2), { ...ramp, blend: 'screen' as const }]
    const runs = scrimRuns({ layers: [even, ramp, blended, blended, even] })
    expect(runs.map(({ blend, layers }) => [blend, layers.length])).toEqual([
      ['normal', 2],
      ['screen', 1],
      ['screen', 1],
      ['normal', 1],
    ])
    expect(scrimRuns(NO_SCRIM)).toEqual([])
  })
  it('has an element of its own for a texture, which is repeated in a size of its own', () => {
    const [even, texture] = [evenLayer('#000000', 0.2), textured({ pattern: 'dots' })]
    const runs = scrimRuns({ layers: [even, texture, even, even] })
    expect(runs.map(({ layers }) => layers.length)).toEqual([1, 1, 2])
  })
  it('has one texture at most: two patterns cover what neither tells alone', () => {
    const textures = [textured({ pattern: 'dots' }), textured({ pattern: 'lines' })]
    expect(scrimSchema.safeParse({ layers: textures.slice(1) }).success).toBe(true)
    expect(scrimSchema.safeParse({ layers: textures }).success).toBe(false)
  })
  it('covers with a texture what it covers of 4 px around, at every size of pixels', () => {
    const checks = textured({ pattern: 'checks', scale: 4 }, 0.8)
    // Squares of 8 px: the middle of the first is covered, the middle of the next is clear.
    expect(at(checks, 4, 4).alpha).toBeCloseTo(0.8, 9)
    expect(at(checks, 12, 4).alpha).toBeCloseTo(0, 9)
    expect(at(checks, 8, 4).alpha).toBeCloseTo(0.4, 9)
    const halved = layersOver([checks], 50, 20, 2)
    for (const [x, y] of [
      [4, 4],
      [12, 4],
      [8, 4],
      [7, 30],
    ] as const)
      expect(halved(x / 2, y / 2).alpha).toBeCloseTo(at(checks, x, y).alpha, 9)
  })
  it('hides what is lost between black and white, whatever the mode', () => {
    const hidden = (blend: BlendMode): number =>
      meanStrength({ layers: [{ ...evenLayer('#000000', 0.5), blend }] })
    expect(hidden('multiply')).toBeCloseTo(0.5, 6)
    expect(hidden('difference')).toBeCloseTo(0, 6)
    expect(hidden('screen')).toBeCloseTo(0, 6)
  })
  it('hides as much as it does on average', () => {
    expect(meanStrength(flat(0.4))).toBeCloseTo(0.4, 9)
    expect(meanStrength({ layers: [ramp] })).toBeCloseTo(0.5, 2)
    expect(meanStrength(NO_SCRIM)).toBe(0)
  })
  it('is read again as it was written (seed 9)', () => {
    fc.assert(
      fc.property(
        fc.array(scrimLayer, { maxLength: 6 }).filter(hasOneTextureAtMost),
        fc.integer({ min: 0, max: 100 }),
        fc.integer({ min: 0, max: 40 }),
        (layers, x, y) => {
          const scrim = { layers }
          expect(scrimSchema.parse(scrim)).toEqual(scrim)
          const again = {
            layers: scrimRuns(scrim).flatMap((run) =>
              layersFromImage(scrimImage(run.layers), run.blend),
            ),
          }
          expect(again.layers.map(({ blend }) => blend)).toEqual(layers.map(({ blend }) => blend))
          const [one, other] = [scrim, again].map((each) => layersOver(each.layers, 100, 40)(x, y))
          expect(Math.abs(one!.alpha - other!.alpha)).toBeLessThan(0.01)
          const [seen, told] = [one!, other!].map((layer) => compositeOver(layer, WHITE))
          expect(Math.abs(seen!.g - told!.g)).toBeLessThan(2.6)
        },
      ),
      { seed: 9, numRuns: 300 },
    )
  })
  it('lies over the ground by its opacity', () =>
    expect(compositeOver({ ...BLACK, alpha: 0.25 }, WHITE)).toEqual({
      r: 191.25,
      g: 191.25,
      b: 191.25,
    }))
})

describe('contrast over a frame', () => {
  it('blends each pixel where blending their mean would be something else', () => {
    const checks = pixels(64, 32, (x, y) => ((x + y) % 2 ? 250 : 10))
    const scrim: Scrim = { layers: [{ ...evenLayer('#808080', 1), blend: 'difference' }] }
    const ratio = frameContrast(checks, scrim, { x: 0, y: 0, width: 64, height: 32 }, WHITE)
    // |250 − 128| and |10 − 128| are both about 120; their mean, 130, would give 2.
    expect(ratio).toBeCloseTo(contrastRatio(WHITE, { r: 120, g: 120, b: 120 }), 6)
  })
  it('counts only what is in the copy’s box', () => {
    const split = pixels(64, 32, (x) => (x < 32 ? 0 : 255))
    expect(frameContrast(split, flat(0), { x: 0, y: 0, width: 30, height: 32 }, WHITE)).toBeCloseTo(
      21,
      5,
    )
    expect(
      frameContrast(split, flat(0), { x: 36, y: 0, width: 28, height: 32 }, WHITE),
    ).toBeCloseTo(1, 5)
  })
  it('takes nearly the worst place, not the mean', () => {
    const spot = pixels(80, 80, (x, y) => (x < 24 && y < 24 ? 255 : 0))
    expect(frameContrast(spot, flat(0), { x: 0, y: 0, width: 80, height: 80 }, WHITE)).toBeCloseTo(
      1,
      5,
    )
  })
  it('does not let a speck decide', () => {
    const speck = pixels(80, 80, (x, y) => (x < 4 && y < 4 ? 255 : 0))
    expect(frameContrast(speck, flat(0), { x: 0, y: 0, width: 80, height: 80 }, WHITE)).toBeCloseTo(
      21,
      5,
    )
  })
  it('says nothing of a box outside the region', () =>
    expect(
      frameContrast(
        pixels(8, 8, () => 0),
        flat(0),
        { x: 20, y: 20, width: 4, height: 4 },
        WHITE,
      ),
    ).toBeNull())
  it('rises with the strength of a dark scrim under white copy (seed 5)', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 255 }),
        fc.double({ min: 0, max: 0.9, noNaN: true }),
        (grey, strength) => {
          const at = (value: number): number =>
            frameContrast(
              pixels(8, 8, () => grey),
              flat(value),
              { x: 0, y: 0, width: 8, height: 8 },
              WHITE,
            )!
          expect(at(strength + 0.1)).toBeGreaterThanOrEqual(at(strength))
        },
      ),
      { seed: 5, numRuns: 50 },
    )
  })
})
