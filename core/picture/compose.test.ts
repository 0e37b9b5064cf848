import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { seededNumbers } from '../testing/samples'
import { convertSrgbToOklab } from './convertSrgbToOklab'
import { describeCells, describeTwice } from './describeCells'
import { createI420, planesOf, type I420 } from './I420'
import { mixI420 } from './mixI420'
import {
  cropWithout,
  isPlain,
  mirrorI420,
  PLAIN_SHAPE,
  regionOf,
  shapeI420,
  shapedSize,
  unturnRect,
  type PictureShape,
} from './pictureShape'
import { rotateI420 } from './rotateI420'
import { measureQuality, ssimI420 } from './ssim'
import { swapDifference } from './swapDifference'

const KIND = { matrix: 'bt709', fullRange: false } as const
const noise = (width: number, height: number, seed: number): I420 => {
  const random = seededNumbers(seed)
  const picture = createI420(width, height)
  picture.data.forEach((_, index) => (picture.data[index] = 16 + Math.floor(random() * 220)))
  return picture
}

describe('mixing', () => {
  const [under, over] = [noise(16, 8, 1), noise(16, 8, 2)]
  it('gives the one or the other at the ends of its range', () => {
    expect(mixI420(under, over, 0)).toBe(under)
    expect(mixI420(under, over, 1)).toBe(over)
  })
  it('lies between both everywhere, and the same picture stays as it is (seed 3)', () => {
    fc.assert(
      fc.property(fc.double({ min: 0, max: 1, noNaN: true }), (weight) => {
        const mixed = mixI420(under, over, weight)
        mixed.data.forEach((value, at) => {
          expect(value).toBeGreaterThanOrEqual(Math.min(under.data[at]!, over.data[at]!))
          expect(value).toBeLessThanOrEqual(Math.max(under.data[at]!, over.data[at]!))
        })
        expect(mixI420(under, under, weight).data).toEqual(under.data)
      }),
      { seed: 3, numRuns: 40 },
    )
  })
  it('refuses pictures of different sizes', () =>
    expect(() => mixI420(under, noise(8, 8, 1), 0.5)).toThrow(RangeError))
  it('changes neither picture', () => {
    const before = under.data.slice()
    mixI420(under, over, 0.5)
    expect(under.data).toEqual(before)
  })
})

describe('crop and straighten', () => {
  const picture = noise(32, 16, 9)
  const shape = (change: Partial<PictureShape>): PictureShape => ({ ...PLAIN_SHAPE, ...change })
  it('leaves a picture as it is when nothing is asked', () => {
    expect(isPlain(PLAIN_SHAPE)).toBe(true)
    expect(shapeI420(picture, 0, PLAIN_SHAPE, 32, 16)).toBe(picture)
    expect(shapedSize({ width: 32, height: 16 }, PLAIN_SHAPE)).toEqual({ width: 32, height: 16 })
  })
  it.each([
    [shape({ crop: { x: 0.1, y: 0, width: 0.8, height: 1 } }), 1536, 1080],
    [shape({ quarterTurns: 1 }), 1080, 1920],
    [shape({ quarterTurns: 2, mirrored: true }), 1920, 1080],
    [shape({ crop: { x: 0, y: 0, width: 0.3333, height: 0.5 }, quarterTurns: 3 }), 540, 640],
  ])('of %j leaves %d × %d', (given, width, height) => {
    expect(shapedSize({ width: 1920, height: 1080 }, given)).toEqual({ width, height })
  })
  it('takes exactly the part that was asked for', () => {
    const part = shapeI420(
      picture,
      0,
      shape({ crop: { x: 0.5, y: 0.5, width: 0.5, height: 0.5 } }),
      16,
      8,
    )
    const [from, to] = [planesOf(picture)[0], planesOf(part)[0]]
    for (let y = 0; y < 8; y++)
      for (let x = 0; x < 16; x++)
        expect(to.data[y * 16 + x]).toBe(from.data[(y + 8) * 32 + x + 16])
  })
  it('crops the picture as it stands upright, however it is coded (seed 8)', () => {
    const side = fc.constantFrom(0, 0.125, 0.25, 0.5)
    fc.assert(
      fc.property(
        fc.constantFrom(0, 90, 180, 270),
        side,
        side,
        fc.constantFrom(0.25, 0.5),
        fc.constantFrom(0.25, 0.5),
        (rotationDeg, x, y, width, height) => {
          const upright = rotateI420(picture, rotationDeg)
          const region = regionOf({ x, y, width, height }, upright)
          const crop = {
            x: region.x / upright.width,
            y: region.y / upright.height,
            width: region.width / upright.width,
            height: region.height / upright.height,
          }
          const direct = shapeI420(upright, 0, shape({ crop }), region.width, region.height)
          expect(
            shapeI420(picture, rotationDeg, shape({ crop }), region.width, region.height).data,
          ).toEqual(direct.data)
        },
      ),
      { seed: 8, numRuns: 60 },
    )
  })
  it('brings a part back after four turns', () => {
    const part = { x: 0.1, y: 0.2, width: 0.3, height: 0.4 }
    const back = [90, 90, 90, 90].reduce((rect, turn) => unturnRect(rect, turn), part)
    for (const side of ['x', 'y', 'width', 'height'] as const)
      expect(back[side]).toBeCloseTo(part[side], 12)
  })
  it('mirrors left to right, twice to the same', () => {
    expect(mirrorI420(mirrorI420(picture)).data).toEqual(picture.data)
    expect(planesOf(mirrorI420(picture))[0].data[0]).toBe(planesOf(picture)[0].data[31])
  })
  it('turns after it crops, and mirrors last', () => {
    const given = shape({
      crop: { x: 0, y: 0, width: 0.5, height: 1 },
      quarterTurns: 1,
      mirrored: true,
    })
    const step = mirrorI420(
      rotateI420(shapeI420(picture, 0, shape({ crop: given.crop }), 16, 16), 90),
    )
    expect(shapeI420(picture, 0, given, 16, 16).data).toEqual(step.data)
  })
  it('keeps regions even and inside (seed 2)', () => {
    const share = fc.double({ min: 0, max: 1, noNaN: true })
    fc.assert(
      fc.property(
        share,
        share,
        share,
        share,
        fc.integer({ min: 2, max: 400 }),
        fc.integer({ min: 2, max: 400 }),
        (x, y, w, h, halfWidth, halfHeight) => {
          const size = { width: halfWidth * 2, height: halfHeight * 2 }
          const region = regionOf(
            { x, y, width: Math.min(w, 1 - x), height: Math.min(h, 1 - y) },
            size,
          )
          expect([region.x % 2, region.y % 2, region.width % 2, region.height % 2]).toEqual([
            0, 0, 0, 0,
          ])
          expect(
            region.width >= 2 &&
              region.height >= 2 &&
              region.x >= 0 &&
              region.y >= 0 &&
              region.x + region.width <= size.width &&
              region.y + region.height <= size.height,
          ).toBe(true)
        },
      ),
      { seed: 2 },
    )
  })
  it.each([
    [
      { x: 0.7, y: 0.9, width: 0.2, height: 0.06 },
      { x: 0, y: 0, width: 1, height: 0.89 },
    ],
    [
      { x: 0.02, y: 0.1, width: 0.05, height: 0.8 },
      { x: 0.08, y: 0, width: 0.92, height: 1 },
    ],
  ])('leaves a mark at %j out with as little loss as can be', (mark, left) => {
    const crop = cropWithout(mark)
    for (const side of ['x', 'y', 'width', 'height'] as const)
      expect(crop[side]).toBeCloseTo(left[side], 9)
  })
})

describe('structural similarity', () => {
  const one = noise(64, 48, 4)
  it('is 1 for the same picture and less for any other', () => {
    expect(ssimI420(one, one)).toBe(1)
    expect(ssimI420(one, noise(64, 48, 5))).toBeLessThan(0.2)
  })
  it('falls as noise grows, and is the same both ways', () => {
    const spoilt = (by: number): I420 => ({
      ...one,
      data: one.data.map((value, at) =>
        Math.min(255, Math.max(0, value + (at % 2 === 0 ? by : -by))),
      ),
    })
    const values = [2, 8, 24].map((by) => ssimI420(one, spoilt(by)))
    expect(values[0]).toBeGreaterThan(values[1]!)
    expect(values[1]).toBeGreaterThan(values[2]!)
    expect(ssimI420(one, spoilt(8))).toBeCloseTo(ssimI420(spoilt(8), one), 12)
  })
  it('forgives an even shift of brightness more than lost detail', () => {
    const brighter = { ...one, data: one.data.map((value) => Math.min(255, value + 8)) }
    const flat = { ...one, data: one.data.map(() => 126) }
    expect(ssimI420(one, brighter)).toBeGreaterThan(0.95)
    expect(ssimI420(one, flat)).toBeLessThan(0.1)
  })
  it('takes planes smaller than its window, and refuses unequal ones', () => {
    const small = { width: 4, height: 4, data: Uint8Array.from({ length: 16 }, (_, at) => at * 9) }
    expect(measureQuality(small, small).ssim).toBe(1)
    expect(() => measureQuality(small, { ...small, width: 2, height: 8 })).toThrow(RangeError)
  })
})

describe('the swap of a poster', () => {
  const cell = (value: number) => convertSrgbToOklab(value, value, value)
  it('tells the mean and the worst place', () => {
    const [still, first] = [
      [cell(100), cell(100), cell(100), cell(100)],
      [cell(100), cell(100), cell(100), cell(140)],
    ]
    const { mean, worst } = swapDifference(still, first)
    expect(mean * 4).toBeCloseTo(worst, 1)
    expect(worst).toBeGreaterThan(10)
  })
  it('is nothing for the same picture', () =>
    expect(swapDifference([cell(9)], [cell(9)])).toEqual({ mean: 0, worst: 0 }))
  it.each([
    [[], []],
    [[cell(1)], []],
  ])('refuses descriptions that cannot be compared', (still, first) =>
    expect(() => swapDifference(still, first)).toThrow(RangeError),
  )
})

describe('describing finely and coarsely at once', () => {
  it('is the same as describing twice, where cells fall on pixels', () => {
    const picture = noise(192, 108, 6)
    const { fine, coarse } = describeTwice(picture, KIND, 32, 18, 3)
    expect(fine).toEqual(describeCells(picture, KIND, 96, 54).colours)
    describeCells(picture, KIND, 32, 18).colours.forEach((cell, at) =>
      expect(Math.abs(cell.lightness - coarse[at]!.lightness)).toBeLessThan(0.002),
    )
  })
})
