import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { seededNumbers } from '../testing/samples'
import { i420Bytes, planesOf, type I420 } from './I420'
import { seenDecibels } from './seenLoss'
import { measureQuality } from './ssim'

const [WIDTH, HEIGHT] = [320, 176]

/** A picture of one grey with even noise of so many levels either way. */
function grainy(grain: number, seed: number, grey = 100): I420 {
  const random = seededNumbers(seed)
  const data = new Uint8Array(i420Bytes(WIDTH, HEIGHT))
  return {
    ...{ width: WIDTH, height: HEIGHT },
    data: data.map(() => Math.round(grey + (2 * random() - 1) * grain)),
  }
}
/** `picture` with `change` added to samples `from` to `to`, and where `where` says so. */
function changed(picture: I420, change: (at: number) => number): I420 {
  return { ...picture, data: picture.data.map((value, at) => value + change(at)) }
}
const LUMA = WIDTH * HEIGHT
const psnr = (one: I420, other: I420): number =>
  measureQuality(planesOf(one)[0], planesOf(other)[0]).psnr
/** The block of a luma sample. */
const blockOf = (at: number): { readonly column: number; readonly row: number } => ({
  column: (at % WIDTH) >> 3,
  row: Math.floor(at / WIDTH) >> 3,
})

describe('loss that shows', () => {
  it('is none between equal pictures, also of one colour, of one sample, and of odd blocks', () => {
    expect(seenDecibels(grainy(5, 1), grainy(5, 1))).toBe(60)
    expect(seenDecibels(grainy(0, 1), grainy(0, 1))).toBe(60)
    for (const [width, height] of [
      [2, 2],
      [10, 6],
      [30, 18],
    ] as const) {
      const data = new Uint8Array(i420Bytes(width, height)).fill(40)
      const plain = { width, height, data }
      expect(seenDecibels(plain, plain)).toBe(60)
      const darker = { width, height, data: data.map((value) => value - 10) }
      expect(seenDecibels(plain, darker)).toBeCloseTo(10 * Math.log10(255 ** 2 / 100), 4)
    }
  })
  it('is what PSNR says where an even picture changes evenly', () => {
    const picture = grainy(0, 1)
    const darker = changed(picture, (at) => (at < LUMA ? -2 : 0))
    expect(seenDecibels(picture, darker)).toBeCloseTo(psnr(picture, darker), 5)
  })
  it('is little where other grain takes the place of grain, which PSNR takes for great loss', () => {
    const [one, { data }] = [grainy(6, 1), grainy(6, 2)]
    const other = changed(one, (at) => (at < LUMA ? data[at]! - one.data[at]! : 0))
    expect(psnr(one, other)).toBeLessThan(36)
    expect(seenDecibels(one, other)).toBeGreaterThan(psnr(one, other) + 3)
  })
  it('counts the same error less the more detail is around it', () => {
    const noise = (at: number): number => (at < LUMA ? ((at * 7919) % 5) - 2 : 0)
    const told = [0, 3, 8, 20].map((grain) => {
      const picture = grainy(grain, 3)
      return seenDecibels(picture, changed(picture, noise))
    })
    expect(told).toEqual(told.toSorted((one, other) => one - other))
    expect(told[3]! - told[0]!).toBeGreaterThan(8)
  })
  it('does not let grain hide a step of brightness between blocks', () => {
    const picture = grainy(6, 1)
    const blocks = changed(picture, (at) => {
      const { column, row } = blockOf(at)
      return at < LUMA && (column + row) % 2 === 0 ? 3 : 0
    })
    expect(seenDecibels(picture, blocks)).toBeCloseTo(10 * Math.log10(255 ** 2 / 9), 1)
  })
  it('is that of the worst fiftieth: a smear in one corner is not hidden by a calm sky', () => {
    const picture = grainy(0, 1)
    const smear = (share: number): I420 => changed(picture, (at) => (at < LUMA * share ? 6 : 0))
    expect(psnr(picture, smear(0.05))).toBeGreaterThan(45)
    expect(seenDecibels(picture, smear(0.05))).toBeLessThan(33)
    expect(seenDecibels(picture, smear(0.05))).toBeCloseTo(seenDecibels(picture, smear(0.5)), 5)
    expect(seenDecibels(picture, smear(0.005))).toBeGreaterThan(36)
  })
  it('sees colours that are lost, which luma does not show', () => {
    const picture = grainy(0, 1)
    for (const plane of [LUMA, LUMA * 1.25]) {
      const pale = changed(picture, (at) => (at >= plane && at < plane + LUMA / 4 ? 8 : 0))
      expect(psnr(picture, pale)).toBe(60)
      expect(seenDecibels(picture, pale)).toBeCloseTo(10 * Math.log10(255 ** 2 / 64), 5)
    }
  })
  it('looks at the last rows and columns, too, where blocks do not fit', () => {
    const [width, height] = [66, 42]
    const data = new Uint8Array(i420Bytes(width, height)).fill(90)
    const picture = { width, height, data }
    const right = data.map((value, at) =>
      at < width * height && at % width >= 64 ? value + 20 : value,
    )
    const foot = data.map((value, at) =>
      at < width * height && at >= width * 40 ? value + 20 : value,
    )
    for (const made of [right, foot])
      expect(seenDecibels(picture, { ...picture, data: made })).toBeLessThan(45)
  })
  it('is between none and all for any pictures, and less the nearer they are (seed 118)', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 20 }),
        fc.integer({ min: 1, max: 20 }),
        fc.infiniteStream(fc.nat(255)),
        (halfWidth, halfHeight, values) => {
          const [width, height] = [2 * halfWidth, 2 * halfHeight]
          const picture = (): I420 => ({
            ...{ width, height },
            data: Uint8Array.from(
              { length: i420Bytes(width, height) },
              () => values.next().value as number,
            ),
          })
          const [one, other] = [picture(), picture()]
          const halfway = {
            ...one,
            data: one.data.map((value, at) => Math.round((value + other.data[at]!) / 2)),
          }
          const told = seenDecibels(one, other)
          expect(told).toBeGreaterThanOrEqual(0)
          expect(told).toBeLessThanOrEqual(60)
          expect(seenDecibels(one, halfway)).toBeGreaterThanOrEqual(told - 0.01)
        },
      ),
      { seed: 118, numRuns: 60 },
    )
  })
  it('refuses pictures of unequal sizes', () =>
    expect(() => seenDecibels(grainy(0, 1), { ...grainy(0, 1), width: 160, height: 352 })).toThrow(
      RangeError,
    ))
})
