import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { seededNumbers } from '../testing/samples'
import { convertOklabToHex } from './convertOklabToHex'
import { convertSrgbToOklab } from './convertSrgbToOklab'
import { describeCells, rgbFromYuv } from './describeCells'
import { measureDetail } from './detail'
import { createI420, planesOf, type Plane } from './I420'
import { dominantColours } from './palette'
import { planeScaler } from './scaleI420'
import { shrinkPlane } from './shrinkPlane'
import { parseHex } from './srgb'
import { MAX_WORD_BYTES, sumBytes, sumWords, wordsOf } from './sumBytes'

const plane = (width: number, height: number, value: (x: number, y: number) => number): Plane => ({
  width,
  height,
  data: Uint8Array.from({ length: width * height }, (_, at) =>
    value(at % width, Math.floor(at / width)),
  ),
})

describe('shrinking a plane', () => {
  it('gives the mean of what lies under each cell', () =>
    expect([
      ...shrinkPlane(
        plane(4, 2, (x, y) => x * 10 + y * 100),
        2,
        1,
      ),
    ]).toEqual([55, 75]))
  it('keeps a flat plane flat, whatever the sizes (seed 2)', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 90 }),
        fc.integer({ min: 1, max: 90 }),
        fc.integer({ min: 1, max: 64 }),
        fc.integer({ min: 1, max: 36 }),
        (width, height, across, down) => {
          for (const value of shrinkPlane(
            plane(width, height, () => 77),
            across,
            down,
          ))
            expect(value).toBeCloseTo(77, 3)
        },
      ),
      { seed: 2, numRuns: 80 },
    )
  })
  it('is the mean of what lies under each cell, whether rows lie on boundaries of four bytes or not (seed 6)', () => {
    const random = seededNumbers(6)
    fc.assert(
      fc.property(
        fc.constantFrom([1280, 8], [1280, 2], [640, 32], [64, 4], [66, 4], [20, 5], [60, 32]),
        fc.integer({ min: 1, max: 9 }),
        fc.nat(3),
        ([wide, across], tall, offset) => {
          const data = new Uint8Array(wide! * tall + offset).subarray(offset)
          data.forEach((_, at) => (data[at] = 128 + random() * 128))
          const cells = shrinkPlane({ width: wide!, height: tall, data }, across!, 1)
          for (let column = 0; column < across!; column++) {
            let [sum, count] = [0, 0]
            for (
              let x = Math.ceil((column * wide!) / across!);
              x < Math.ceil(((column + 1) * wide!) / across!);
              x++
            )
              for (let y = 0; y < tall; y++, count++) sum += data[y * wide! + x]!
            expect(cells[column]).toBeCloseTo(sum / count, 3)
          }
        },
      ),
      { seed: 6, numRuns: 60 },
    )
  })
  it('keeps the mean of the whole where cells are equal', () => {
    const random = seededNumbers(9)
    const noise = plane(128, 72, () => random() * 255)
    const mean = (values: ArrayLike<number>): number =>
      Array.from(values).reduce((sum, value) => sum + value, 0) / values.length
    expect(mean(shrinkPlane(noise, 64, 36))).toBeCloseTo(mean(noise.data), 2)
  })
})

describe('sums of bytes', () => {
  it('are the same four at a time and one by one, wherever they begin and end (seed 14)', () => {
    fc.assert(
      fc.property(
        fc.uint8Array({ minLength: 1, maxLength: 2000 }),
        fc.nat(2000),
        fc.nat(2000),
        fc.nat(3),
        (bytes, one, other, offset) => {
          const data = new Uint8Array(bytes.length + offset).subarray(offset)
          data.set(bytes)
          const [from, to] = [
            Math.min(one, other, bytes.length),
            Math.min(Math.max(one, other), bytes.length),
          ]
          expect(sumBytes(data, wordsOf(data), from, to)).toBe(
            bytes.slice(from, to).reduce((sum, value) => sum + value, 0),
          )
        },
      ),
      { seed: 14, numRuns: 400 },
    )
  })
  it('of a part of rows are those of its bytes, however large they are (seed 15)', () => {
    const random = seededNumbers(15)
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: MAX_WORD_BYTES / 4 }),
        fc.integer({ min: 1, max: 12 }),
        fc.nat(1000),
        fc.nat(1000),
        fc.boolean(),
        (across, tall, one, other, largest) => {
          const data = Uint8Array.from({ length: across * 4 * tall }, () =>
            largest ? 255 : random() * 256,
          )
          const [left, right] = [
            Math.min(one % across, other % across),
            Math.max(one % across, other % across) + 1,
          ]
          const [top, bottom] = [one % tall, tall]
          let sum = 0
          for (let y = top; y < bottom; y++)
            for (let x = left * 4; x < right * 4; x++) sum += data[y * across * 4 + x]!
          expect(sumWords(wordsOf(data)!, across, left, right, top, bottom)).toBe(sum)
        },
      ),
      { seed: 15, numRuns: 150 },
    )
  })
  it('hold the largest bytes of a very wide cell', () => {
    const data = new Uint8Array(32_000).fill(255)
    expect(sumBytes(data, wordsOf(data), 1, 32_000)).toBe(255 * 31_999)
  })
})

describe('colour of planes', () => {
  // ITU-R BT.709-6, item 3.5: black, white and primaries of limited range.
  it.each([
    [16, 128, 128, [0, 0, 0]],
    [235, 128, 128, [255, 255, 255]],
    [63, 102, 240, [255, 0, 0]],
    [173, 42, 26, [0, 255, 0]],
    [32, 240, 118, [0, 0, 255]],
  ])('turns luma %i, chroma %i and %i into %j', (y, cb, cr, rgb) => {
    rgbFromYuv(y, cb, cr, { matrix: 'bt709', fullRange: false }).forEach((value, channel) =>
      expect(Math.abs(value - rgb[channel]!)).toBeLessThan(3),
    )
  })
  it('follows range and matrix', () => {
    expect(rgbFromYuv(255, 128, 128, { matrix: 'bt601', fullRange: true })).toEqual([255, 255, 255])
    const [red] = rgbFromYuv(82, 90, 240, { matrix: 'bt601', fullRange: false })
    expect(Math.abs(red - 255)).toBeLessThan(3)
  })
  it('describes a picture in 64 × 36 cells', () => {
    const picture = createI420(128, 72)
    picture.data.fill(128)
    const [luma] = planesOf(picture)
    luma.data.fill(235)
    const { colours: cells, luma: grid } = describeCells(picture, {
      matrix: 'bt709',
      fullRange: false,
    })
    expect([...new Set(grid)]).toEqual([235])
    expect(cells).toHaveLength(64 * 36)
    expect(cells[0]!.lightness).toBeCloseTo(1, 2)
  })
  it('comes back from OKLab as it went (seed 5)', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 255 }),
        fc.integer({ min: 0, max: 255 }),
        fc.integer({ min: 0, max: 255 }),
        (r, g, b) => {
          expect(parseHex(convertOklabToHex(convertSrgbToOklab(r, g, b)))).toEqual({ r, g, b })
        },
      ),
      { seed: 5, numRuns: 300 },
    )
  })
})

describe('detail', () => {
  // As much in each octave, as natural pictures have it: random grids of falling fineness, each as
  // strong as the next.
  const random = seededNumbers(1)
  const octaves = [1, 2, 4, 8, 16, 32].map((cell) => {
    const grid = plane(Math.ceil(320 / cell) + 1, Math.ceil(180 / cell) + 1, () => random() * 255)
    const full: Plane = { width: 320, height: 180, data: new Uint8Array(320 * 180) }
    planeScaler(grid, { x: 0, y: 0, width: 320 / cell, height: 180 / cell }, full)(grid, full)
    return full
  })
  const sharp = plane(
    320,
    180,
    (x, y) => octaves.reduce((sum, octave) => sum + octave.data[y * 320 + x]!, 0) / octaves.length,
  )
  const enlarged = (by: number): Plane => {
    const large: Plane = {
      width: sharp.width * by,
      height: sharp.height * by,
      data: new Uint8Array(sharp.width * by * sharp.height * by),
    }
    planeScaler(
      sharp,
      { x: 0, y: 0, width: sharp.width, height: sharp.height },
      large,
    )(sharp, large)
    return large
  }
  it('of a sharp picture is lost by halving it', () =>
    expect(measureDetail(sharp).halfShare).toBeLessThan(0.5))
  it('of an enlarged picture is not', () => {
    expect(measureDetail(enlarged(2)).halfShare).toBeGreaterThan(0.75)
    expect(measureDetail(enlarged(4)).halfShare).toBeGreaterThan(
      measureDetail(enlarged(2)).halfShare,
    )
  })
  it('of a flat or tiny picture is not judged', () => {
    expect(measureDetail(plane(160, 90, () => 80))).toEqual({ sharpness: 0, halfShare: 0 })
    expect(measureDetail(plane(40, 40, (x) => x * 6)).halfShare).toBe(0)
  })
})

describe('dominant colours', () => {
  const red = convertSrgbToOklab(200, 30, 30)
  const blue = convertSrgbToOklab(30, 30, 200)
  it('come by their share, the same each time', () => {
    const colours = [
      ...Array.from({ length: 70 }, () => red),
      ...Array.from({ length: 30 }, () => blue),
    ]
    expect(
      dominantColours(colours, 5).map(({ colour, share }) => [convertOklabToHex(colour), share]),
    ).toEqual([
      ['#c81e1e', 0.7],
      ['#1e1ec8', 0.3],
    ])
    expect(dominantColours(colours, 5)).toEqual(dominantColours(colours, 5))
  })
  it('join what can hardly be told apart', () =>
    expect(dominantColours([red, convertSrgbToOklab(202, 32, 30)], 2)).toHaveLength(1))
  it('of nothing are none', () => expect(dominantColours([], 5)).toEqual([]))
})
