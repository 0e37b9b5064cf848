import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { textureBytes, textureFrom, textureImage, textureSize } from '../handoff/layers/texture'
import { evenLayer, type ScrimLayer } from '../scrim/Scrim'
import { maskingOf, TYPICAL_ERROR } from '../scrim/masking'
import { coverageAround, coverageSpread, lineAngle, meanCoverage, tileOfTexture } from './patterns'
import { FIRST_TEXTURE, PATTERNS, textureSchema, type Pattern, type Tile } from './Texture'
import { tileFromPixels } from './tileFromPixels'

const textured = (pattern: Pattern, fields: Partial<ScrimLayer> = {}): ScrimLayer => ({
  ...evenLayer('#14101c', 0.6),
  shape: 'texture',
  texture: { ...FIRST_TEXTURE, pattern },
  ...fields,
})
const tileOf = (pattern: Pattern, angleDeg = 90): Tile =>
  tileOfTexture({ ...FIRST_TEXTURE, pattern }, angleDeg)
const levelOf = ({ width, levels }: Tile, x: number, y: number): number =>
  Number(levels[y * width + x])
const anyTile = fc
  .record({ width: fc.integer({ min: 1, max: 9 }), height: fc.integer({ min: 1, max: 9 }) })
  .chain(({ width, height }) =>
    fc
      .array(fc.integer({ min: 0, max: 3 }), {
        minLength: width * height,
        maxLength: width * height,
      })
      .map((levels): Tile => ({ width, height, levels: levels.join('') })),
  )

describe('a pattern', () => {
  it.each(PATTERNS)('%s covers some of its tile, and not all of it', (pattern) => {
    const tile = tileOf(pattern)
    expect(textureSchema.safeParse({ pattern: 'own', scale: 1, tile }).success).toBe(true)
    expect(meanCoverage(tile)).toBeGreaterThan(0.05)
    expect(meanCoverage(tile)).toBeLessThan(0.75)
    expect(coverageSpread(tile)).toBeGreaterThan(0.15)
    expect(coverageSpread(tile)).toBeLessThanOrEqual(0.5)
  })
  it('is one of its own, and the same at every time', () => {
    expect(new Set(PATTERNS.map((pattern) => tileOf(pattern).levels)).size).toBe(PATTERNS.length)
    expect(tileOf('grain')).toEqual(tileOf('grain'))
  })
  it.each([
    [0, 'upright', (x: number) => x],
    [45, 'rising', (x: number, y: number) => x + y],
    [90, 'level', (_: number, y: number) => y],
    [135, 'falling', (x: number, y: number) => x - y],
  ])('of lines at %i° is %s', (angle, _, along) => {
    const tile = tileOf('lines', angle)
    for (let y = 0; y < 4; y++)
      for (let x = 0; x < 4; x++)
        expect(levelOf(tile, x, y) > 0).toBe(((along(x, y) % 4) + 4) % 4 === 0)
  })
  it.each([
    [0, 0],
    [22, 0],
    [23, 45],
    [100, 90],
    [160, 0],
    [300, 135],
    [360, 0],
  ])('takes %i° for %i°', (angle, nearest) => expect(lineAngle(angle)).toBe(nearest))
  it('knows no tile but its own', () => {
    const tile = tileOf('dots')
    for (const wrong of [
      { pattern: 'own', scale: 1, tile: null },
      { pattern: 'dots', scale: 1, tile },
      { pattern: 'own', scale: 1, tile: { ...tile, width: 5 } },
      { pattern: 'own', scale: 1, tile: { ...tile, levels: tile.levels.replace('3', '4') } },
      { pattern: 'dots', scale: 9, tile: null },
    ])
      expect(textureSchema.safeParse(wrong).success).toBe(false)
  })
})

describe('what a texture covers around a point', () => {
  it('is the mean of the pixels in the square, each by how much of it lies there (seed 31)', () => {
    const quarter = fc.integer({ min: 0, max: 400 }).map((value) => value / 4)
    fc.assert(
      fc.property(
        anyTile,
        quarter,
        quarter,
        fc.constantFrom(0.5, 1, 2, 3),
        fc.constantFrom(2, 4),
        (tile, x, y, pitch, side) => {
          const found = coverageAround(tile, pitch, side)(x, y)
          // Looked at in points that lie in the middle of what pixels are cut into.
          const step = 0.125
          let [sum, count] = [0, 0]
          for (let down = step / 2; down < side; down += step)
            for (let across = step / 2; across < side; across += step) {
              const column = Math.floor((x - side / 2 + across) / pitch)
              const row = Math.floor((y - side / 2 + down) / pitch)
              const wrap = (value: number, length: number): number =>
                ((value % length) + length) % length
              sum += levelOf(tile, wrap(column, tile.width), wrap(row, tile.height)) / 3
              count += 1
            }
          expect(found).toBeCloseTo(sum / count, 6)
        },
      ),
      { seed: 31, numRuns: 120 },
    )
  })
  it.each(PATTERNS)('of %s is on average what the tile covers', (pattern) => {
    const tile = tileOf(pattern)
    const covers = coverageAround(tile, 1, 4)
    let sum = 0
    for (let y = 0; y < tile.height; y++) for (let x = 0; x < tile.width; x++) sum += covers(x, y)
    expect(sum / (tile.width * tile.height)).toBeCloseTo(meanCoverage(tile), 9)
  })
})

describe('a texture in the style', () => {
  it.each(PATTERNS)('of %s takes less than 2.5 kB, and says what it is of', (pattern) => {
    const image = textureImage(textured(pattern))
    expect(textureBytes(textured(pattern))).toBe(image.length)
    expect(image.length).toBeLessThan(2500)
    expect(image).toMatch(new RegExp(`#${pattern}(_90)?_x1_14101c_0\\.6"\\)$`))
  })
  it('is repeated in device pixels', () => {
    const layer = textured('dots', { texture: { pattern: 'dots', scale: 3, tile: null } })
    expect(textureSize(layer)).toBe(
      'calc(18 * var(--tln-device-pixel, 1px)) calc(18 * var(--tln-device-pixel, 1px))',
    )
    expect(textureSize(evenLayer('#000000', 1))).toBeNull()
  })
  it('is read again as it was written, its own tile pixel for pixel (seed 32)', () => {
    fc.assert(
      fc.property(anyTile, fc.integer({ min: 1, max: 8 }), (tile, scale) => {
        const layer = textured('own', { texture: { pattern: 'own', scale, tile } })
        expect(textureFrom(textureImage(layer))).toMatchObject({
          shape: 'texture',
          strength: 0.6,
          texture: { pattern: 'own', scale, tile },
        })
      }),
      { seed: 32 },
    )
    const lines = textured('lines', { angleDeg: 135 })
    expect(textureFrom(textureImage(lines))).toEqual(lines)
  })
  it('is nothing else that a site may have put in its place (seed 33)', () => {
    const image = textureImage(
      textured('own', { texture: { pattern: 'own', scale: 1, tile: tileOf('dots') } }),
    )
    for (const other of [
      'none',
      'url("x.png")',
      image.replace('#own', '#velvet'),
      image.replace(/,.*#/, ',AAAA#'),
      image.replace(/,.*#/, ',*#'),
      `${image}, ${image}`,
    ])
      expect(textureFrom(other)).toBeNull()
    // Changed data give null or a tile, and never an error.
    fc.assert(
      fc.property(fc.nat(image.length - 1), fc.constantFrom(...'Aa0/+="#_x'), (at, char) => {
        const read = textureFrom(image.slice(0, at) + char + image.slice(at + 1))
        if (read) expect(textureSchema.safeParse(read.texture).success).toBe(true)
      }),
      { seed: 33, numRuns: 400 },
    )
  })
})

describe('what a texture hides', () => {
  const grey = { r: 128, g: 128, b: 128 }
  it('is what it covers, at its strength', () => {
    // Checks cover half of the pixels, each at 0.6.
    const { left, pattern } = maskingOf(
      textured('checks', { stops: evenLayer('#000000', 1).stops }),
      grey,
    )
    expect(left).toBeCloseTo(1 - 0.5 * 0.6, 6)
    // Covered pixels are 0.6 × 128 darker; half of that each way from their mean.
    expect(pattern).toBeCloseTo((0.6 * 128) / 2, 6)
  })
  it('is nothing without strength, and nothing but a pattern where nothing is covered for good', () => {
    expect(maskingOf(textured('grain', { strength: 0 }), grey)).toEqual({ left: 1, pattern: 0 })
    const inverted = maskingOf(textured('checks', { blend: 'difference', strength: 1 }), grey)
    expect(inverted.left).toBeCloseTo(1, 6)
  })
  it('holds for black, white and one colour alike', () => {
    for (const value of [0, 255])
      expect(maskingOf(textured('checks'), { r: value, g: value, b: value }).left).toBeCloseTo(
        0.7,
        6,
      )
    expect(TYPICAL_ERROR).toBeCloseTo(3.2, 1)
  })
})

describe('a tile of an image', () => {
  const pixels = (values: readonly (readonly [luma: number, alpha: number])[]): Uint8ClampedArray =>
    Uint8ClampedArray.from(values.flatMap(([luma, alpha]) => [luma, luma, luma, alpha]))
  it('covers where it is opaque', () =>
    expect(
      tileFromPixels(
        pixels([
          [0, 0],
          [255, 255],
          [0, 85],
          [255, 170],
        ]),
        2,
        2,
      ),
    ).toEqual({ width: 2, height: 2, levels: '0312' }))
  it('covers where it is dark if nothing of it is transparent, from its darkest to its brightest', () =>
    expect(
      tileFromPixels(
        pixels([
          [20, 255],
          [120, 255],
          [220, 255],
        ]),
        3,
        1,
      )!.levels,
    ).toBe('320'))
  it('is nothing of an image that is the same everywhere', () => {
    expect(
      tileFromPixels(
        pixels([
          [9, 255],
          [12, 255],
        ]),
        2,
        1,
      ),
    ).toBeNull()
    expect(
      tileFromPixels(
        pixels([
          [9, 0],
          [200, 0],
        ]),
        2,
        1,
      ),
    ).toBeNull()
  })
  it('is never larger than a document can hold', () =>
    expect(() => tileFromPixels(new Uint8ClampedArray(4 * 65), 65, 1)).toThrow(RangeError))
})
