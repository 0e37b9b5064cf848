import * as fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { seededNumbers } from '../testing/samples'
import { createI420, planesOf, type I420, type Plane } from './I420'
import { likeness, ssimI420 } from './ssim'
import { TemporalFilter } from './TemporalFilter'

const [WIDTH, HEIGHT] = [64, 48]

/** A picture of a gradient with a bright bar at `bar`, with grain of `grain` steps. */
function drawn(bar: number, grain: number, random: () => number): I420 {
  const picture = createI420(WIDTH, HEIGHT)
  picture.data.fill(128)
  const [luma] = planesOf(picture)
  for (let y = 0; y < HEIGHT; y++) for (let x = 0; x < WIDTH; x++) luma.data[y * WIDTH + x] = Math.round((x >= bar && x < bar + 8 ? 200 : 40 + y) + grain * (2 * random() - 1))
  return picture
}

describe('the filter of grain', () => {
  it('brings a still scene nearer to what it shows', () => {
    const random = seededNumbers(7)
    const clean = planesOf(drawn(20, 0, random))[0]
    const filter = new TemporalFilter(1)
    let [raw, cleaned] = [0, 0]
    for (let k = 0; k < 20; k++) {
      const noisy = drawn(20, 6, random)
      raw = likeness(clean, planesOf(noisy)[0]).psnr
      cleaned = likeness(clean, planesOf(filter.next(noisy))[0]).psnr
    }
    expect(cleaned).toBeGreaterThan(raw + 4)
  })
  it('leaves what moves sharp, without a trail', () => {
    const random = seededNumbers(8)
    const filter = new TemporalFilter(1)
    let last: I420 | null = null
    for (let k = 0; k < 6; k++) last = filter.next(drawn(8 * k, 0, random))
    expect(likeness(planesOf(last!)[0], planesOf(drawn(40, 0, random))[0]).psnr).toBeGreaterThan(45)
  })
  it('changes nothing at no strength, and never what it was given', () => {
    const random = seededNumbers(9)
    const off = new TemporalFilter(0)
    const on = new TemporalFilter(0.8)
    for (let k = 0; k < 3; k++) {
      const noisy = drawn(20, 6, random)
      const before = noisy.data.slice()
      expect(off.next(noisy)).toBe(noisy)
      on.next(noisy)
      expect(noisy.data).toEqual(before)
    }
  })
  it('refuses a picture of another size', () => {
    const filter = new TemporalFilter(0.5)
    filter.next(createI420(16, 16))
    expect(() => filter.next(createI420(32, 16))).toThrow(RangeError)
  })
})

describe('likeness', () => {
  const random = seededNumbers(10)
  const [one, other] = [drawn(20, 0, random), drawn(20, 8, random)]
  const [a, b] = [planesOf(one)[0], planesOf(other)[0]]
  it('is what windows computed one by one give', () => {
    let [sum, count] = [0, 0]
    for (let top = 0; top + 8 <= HEIGHT; top += 4) {
      for (let left = 0; left + 8 <= WIDTH; left += 4) {
        const values = Array.from({ length: 64 }, (_, at) => (top + Math.floor(at / 8)) * WIDTH + left + (at % 8)).map((at) => [a.data[at]!, b.data[at]!] as const)
        const mean = (value: (pair: readonly [number, number]) => number): number => values.reduce((total, pair) => total + value(pair), 0) / 64
        const [ma, mb] = [mean(([x]) => x), mean(([, y]) => y)]
        const [va, vb, cov] = [mean(([x]) => (x - ma) ** 2), mean(([, y]) => (y - mb) ** 2), mean(([x, y]) => (x - ma) * (y - mb))]
        sum += ((2 * ma * mb + 6.5025) * (2 * cov + 58.5225)) / ((ma * ma + mb * mb + 6.5025) * (va + vb + 58.5225))
        count += 1
      }
    }
    expect(likeness(a, b).ssim).toBeCloseTo(sum / count, 9)
  })
  it('rises behind a scrim, which takes contrast away', () => {
    expect(likeness(a, b, [0.4]).behind[0]).toBeGreaterThan(likeness(a, b).ssim)
    expect(likeness(a, a, [0.4]).behind[0]).toBeCloseTo(1, 12)
  })
  it('is 1 for the same picture, of any size', () => {
    expect(ssimI420(one, one)).toBeCloseTo(1, 12)
    const tiny = createI420(4, 4)
    expect(ssimI420(tiny, tiny)).toBeCloseTo(1, 12)
  })
  it('in decibels follows from the mean squared error, and ends at sixty', () => {
    const shifted = { ...a, data: a.data.map((value) => value + 5) }
    expect(likeness(a, shifted).psnr).toBeCloseTo(10 * Math.log10((255 * 255) / 25), 6)
    expect(likeness(a, a).psnr).toBe(60)
    expect(() => likeness(a, { ...b, width: 32 })).toThrow(RangeError)
  })
  it('counts every sample of a picture of any size for the decibels, those beside whole windows too', () => {
    const plane = (width: number, height: number, at: number): Plane => ({ width, height, data: new Uint8Array(width * height).fill(100).fill(110, at, at + 1) })
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 40 }), fc.integer({ min: 1, max: 40 }), fc.nat(), (width, height, place) => {
        const changed = plane(width, height, place % (width * height))
        const flat = plane(width, height, width * height)
        expect(likeness(flat, changed).psnr).toBeCloseTo(Math.min(60, 10 * Math.log10((255 * 255 * width * height) / 100)), 6)
      }),
    )
  })
})
