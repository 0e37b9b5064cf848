import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { seededNumbers } from '../testing/samples'
import type { Plane } from './I420'
import { planeScaler, scaleI420, type Region } from './scaleI420'

/** A plane of noise whose bytes begin `offset` behind a boundary of four. */
function noise(width: number, height: number, random: () => number, offset = 0): Plane {
  const data = new Uint8Array(width * height + offset).subarray(offset)
  data.forEach((_, at) => (data[at] = random() * 256))
  return { width, height, data }
}

/**
 * How much each of `limit` samples counts for output sample `index`: a triangle as wide as the
 * ratio, edges held.
 */
function weightsOf(
  from: number,
  length: number,
  limit: number,
  out: number,
  index: number,
): number[] {
  const ratio = length / out
  const radius = Math.max(1, ratio)
  const centre = from + (index + 0.5) * ratio - 0.5
  const weights = new Array<number>(limit).fill(0)
  for (let at = Math.ceil(centre - radius); at <= centre + radius; at++)
    weights[Math.min(limit - 1, Math.max(0, at))]! += Math.max(
      0,
      1 - Math.abs(at - centre) / radius,
    )
  const sum = weights.reduce((total, weight) => total + weight, 0)
  return weights.map((weight) => weight / sum)
}

/** The same worked out sample by sample, as slowly as it is written down. */
function byHand(source: Plane, region: Region, width: number, height: number): number[] {
  const across = Array.from({ length: width }, (_, x) =>
    weightsOf(region.x, region.width, source.width, width, x),
  )
  const down = Array.from({ length: height }, (_, y) =>
    weightsOf(region.y, region.height, source.height, height, y),
  )
  return down.flatMap((rows) =>
    across.map((columns) => {
      let sum = 0
      rows.forEach((row, y) =>
        columns.forEach((column, x) => (sum += row * column * source.data[y * source.width + x]!)),
      )
      return sum
    }),
  )
}

function scaled(source: Plane, region: Region, width: number, height: number): Uint8Array {
  const target = { width, height, data: new Uint8Array(width * height) }
  planeScaler(source, region, target)(source, target)
  return target.data
}

describe('scaling a plane', () => {
  const random = seededNumbers(21)
  it('is what weighing each sample gives, to two steps of noise, whatever the sizes, the part, and where its bytes lie (seed 22)', () => {
    const side = fc.integer({ min: 1, max: 40 })
    fc.assert(
      fc.property(
        side,
        side,
        side,
        side,
        fc.nat(3),
        fc.nat(1000),
        fc.nat(1000),
        (width, height, out, tall, offset, left, top) => {
          const source = noise(width, height, random, offset)
          const [x, y] = [left % width, top % height]
          const region = { x, y, width: width - x, height: height - y }
          const expected = byHand(source, region, out, tall)
          scaled(source, region, out, tall).forEach((value, at) =>
            expect(Math.abs(value - expected[at]!), `sample ${at}`).toBeLessThanOrEqual(2.5),
          )
        },
      ),
      { seed: 22, numRuns: 150 },
    )
  })
  it('errs on neither side: what is lost in rounding does not darken a picture', () => {
    const source = noise(96, 54, random)
    const [made, expected] = [
      scaled(source, { x: 0, y: 0, width: 96, height: 54 }, 64, 36),
      byHand(source, { x: 0, y: 0, width: 96, height: 54 }, 64, 36),
    ]
    const errors = Array.from(made, (value, at) => value - expected[at]!)
    expect(Math.abs(errors.reduce((sum, error) => sum + error, 0) / errors.length)).toBeLessThan(
      0.05,
    )
    expect(
      Math.sqrt(errors.reduce((sum, error) => sum + error * error, 0) / errors.length),
    ).toBeLessThan(0.45)
  })
  it('keeps black black and white white at every ratio', () => {
    for (const value of [0, 16, 235, 255]) {
      for (const [width, height] of [
        [33, 17],
        [32, 18],
        [7, 50],
        [64, 64],
      ] as const) {
        const source = { width: 32, height: 18, data: new Uint8Array(32 * 18).fill(value) }
        expect(
          new Set(scaled(source, { x: 0, y: 0, width: 32, height: 18 }, width, height)),
        ).toEqual(new Set([value]))
      }
    }
  })
  it('serves one picture after another: nothing of the last one stays', () => {
    const [one, other] = [noise(48, 32, random), noise(48, 32, random)]
    const scale = planeScaler(one, { x: 0, y: 0, width: 48, height: 32 }, { width: 20, height: 14 })
    const target = (): Plane => ({ width: 20, height: 14, data: new Uint8Array(280) })
    const [first, between, again] = [target(), target(), target()]
    scale(one, first)
    scale(other, between)
    scale(one, again)
    expect(again.data).toEqual(first.data)
    expect(between.data).not.toEqual(first.data)
  })
  it('sees nothing of what lies further than its kernel reaches outside the part', () => {
    const inside = noise(64, 64, random)
    const changed: Plane = { ...inside, data: inside.data.slice() }
    for (let y = 0; y < 64; y++)
      for (let x = 0; x < 64; x++)
        if (x < 14 || y < 14 || x > 49 || y > 49)
          changed.data[y * 64 + x] = 255 - changed.data[y * 64 + x]!
    const part = { x: 16, y: 16, width: 32, height: 32 }
    expect(scaled(changed, part, 16, 16)).toEqual(scaled(inside, part, 16, 16))
  })
  it('leaves the picture that it was given as it is', () => {
    const picture = {
      width: 16,
      height: 8,
      data: Uint8Array.from({ length: 192 }, () => random() * 256),
    }
    const before = picture.data.slice()
    const same = scaleI420(picture, { x: 0, y: 0, width: 16, height: 8 }, 16, 8)
    same.data.fill(0)
    scaleI420(picture, { x: 2, y: 2, width: 8, height: 4 }, 12, 6)
    expect(picture.data).toEqual(before)
  })
})
