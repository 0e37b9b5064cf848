import * as fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { seededNumbers } from '../testing/samples'
import { createI420, planesOf, type I420, type Plane } from './I420'
import { measureQuality, ssimI420 } from './ssim'
import { TemporalFilter } from './TemporalFilter'

const [WIDTH, HEIGHT] = [64, 48]

/** A picture of a gradient with a bright bar at `bar`, with grain of `grain` steps. */
function drawn(bar: number, grain: number, random: () => number): I420 {
  const picture = createI420(WIDTH, HEIGHT)
  picture.data.fill(128)
  const [luma] = planesOf(picture)
  for (let y = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++)
      luma.data[y * WIDTH + x] = Math.round(
        (x >= bar && x < bar + 8 ? 200 : 40 + y) + grain * (2 * random() - 1),
      )
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
      raw = measureQuality(clean, planesOf(noisy)[0]).psnr
      cleaned = measureQuality(clean, planesOf(filter.next(noisy))[0]).psnr
    }
    expect(cleaned).toBeGreaterThan(raw + 4)
  })
  it('leaves what moves sharp, without a trail', () => {
    const random = seededNumbers(8)
    const filter = new TemporalFilter(1)
    let last: I420 | null = null
    for (let k = 0; k < 6; k++) last = filter.next(drawn(8 * k, 0, random))
    expect(
      measureQuality(planesOf(last!)[0], planesOf(drawn(40, 0, random))[0]).psnr,
    ).toBeGreaterThan(45)
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
  it('shows nothing that was not in a picture: each sample lies within what its place has had so far (seed 111)', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0, max: 1, noNaN: true }),
        fc.array(fc.uint8Array({ minLength: 24 * 16, maxLength: 24 * 16 }), {
          minLength: 2,
          maxLength: 5,
        }),
        fc.boolean(),
        (strength, frames, calm) => {
          const filter = new TemporalFilter(strength)
          const [min, max] = [new Uint8Array(24 * 24).fill(255), new Uint8Array(24 * 24)]
          for (const frame of frames) {
            const picture = createI420(24, 16)
            // Calm pictures differ by a few steps, as grain does; others are new throughout.
            picture.data.fill(128).set(frame.map((value) => (calm ? 120 + (value & 7) : value)))
            const cleaned = filter.next(picture)
            picture.data.forEach((value, at) => {
              min[at] = Math.min(min[at]!, value)
              max[at] = Math.max(max[at]!, value)
            })
            expect(cleaned.data.every((value, at) => value >= min[at]! && value <= max[at]!)).toBe(
              true,
            )
          }
        },
      ),
      { seed: 111, numRuns: 60 },
    )
  })
  it('keeps a scene that stands still as it is, at any strength', () => {
    const random = seededNumbers(12)
    const scene = drawn(20, 0, random)
    for (const strength of [0.1, 0.5, 1]) {
      const filter = new TemporalFilter(strength)
      for (let k = 0; k < 4; k++)
        expect(filter.next({ ...scene, data: scene.data.slice() }).data).toEqual(scene.data)
    }
  })
  it('takes out more the stronger it is', () => {
    const left = [0.2, 0.5, 0.8, 1].map((strength) => {
      const random = seededNumbers(13)
      const clean = planesOf(drawn(20, 0, random))[0]
      const filter = new TemporalFilter(strength)
      let cleaned = 0
      for (let k = 0; k < 12; k++)
        cleaned = measureQuality(clean, planesOf(filter.next(drawn(20, 3, random)))[0]).psnr
      return cleaned
    })
    expect(left).toEqual([...left].sort((a, b) => a - b))
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
        const values = Array.from(
          { length: 64 },
          (_, at) => (top + Math.floor(at / 8)) * WIDTH + left + (at % 8),
        ).map((at) => [a.data[at]!, b.data[at]!] as const)
        const mean = (value: (pair: readonly [number, number]) => number): number =>
          values.reduce((total, pair) => total + value(pair), 0) / 64
        const [ma, mb] = [mean(([x]) => x), mean(([, y]) => y)]
        const [va, vb, cov] = [
          mean(([x]) => (x - ma) ** 2),
          mean(([, y]) => (y - mb) ** 2),
          mean(([x, y]) => (x - ma) * (y - mb)),
        ]
        sum +=
          ((2 * ma * mb + 6.5025) * (2 * cov + 58.5225)) /
          ((ma * ma + mb * mb + 6.5025) * (va + vb + 58.5225))
        count += 1
      }
    }
    expect(measureQuality(a, b).ssim).toBeCloseTo(sum / count, 9)
  })
  it('is the same both ways, and never more than that of the picture itself (seed 112)', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 30 }),
        fc.integer({ min: 1, max: 30 }),
        fc.infiniteStream(fc.nat(255)),
        (width, height, values) => {
          const plane = (): Plane => ({
            width,
            height,
            data: Uint8Array.from({ length: width * height }, () => values.next().value as number),
          })
          const [p, q] = [plane(), plane()]
          const [forth, back] = [measureQuality(p, q, [0.5]), measureQuality(q, p, [0.5])]
          expect(forth.ssim).toBeCloseTo(back.ssim, 9)
          expect(forth.psnr).toBeCloseTo(back.psnr, 9)
          expect(forth.behind[0]).toBeCloseTo(back.behind[0]!, 9)
          expect(forth.ssim).toBeLessThanOrEqual(1 + 1e-9)
          expect(measureQuality(p, p).ssim).toBeCloseTo(1, 9)
        },
      ),
      { seed: 112, numRuns: 100 },
    )
  })
  it('rises behind a scrim, which takes contrast away', () => {
    expect(measureQuality(a, b, [0.4]).behind[0]).toBeGreaterThan(measureQuality(a, b).ssim)
    expect(measureQuality(a, a, [0.4]).behind[0]).toBeCloseTo(1, 12)
  })
  it('is 1 for the same picture, of any size', () => {
    expect(ssimI420(one, one)).toBeCloseTo(1, 12)
    const tiny = createI420(4, 4)
    expect(ssimI420(tiny, tiny)).toBeCloseTo(1, 12)
  })
  it('in decibels follows from the mean squared error, and ends at sixty', () => {
    const shifted = { ...a, data: a.data.map((value) => value + 5) }
    expect(measureQuality(a, shifted).psnr).toBeCloseTo(10 * Math.log10((255 * 255) / 25), 6)
    expect(measureQuality(a, a).psnr).toBe(60)
    expect(() => measureQuality(a, { ...b, width: 32 })).toThrow(RangeError)
  })
  it('counts every sample of a picture of any size for the decibels, those beside whole windows too', () => {
    const plane = (width: number, height: number, at: number): Plane => ({
      width,
      height,
      data: new Uint8Array(width * height).fill(100).fill(110, at, at + 1),
    })
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 40 }),
        fc.integer({ min: 1, max: 40 }),
        fc.nat(),
        (width, height, place) => {
          const changed = plane(width, height, place % (width * height))
          const flat = plane(width, height, width * height)
          expect(measureQuality(flat, changed).psnr).toBeCloseTo(
            Math.min(60, 10 * Math.log10((255 * 255 * width * height) / 100)),
            6,
          )
        },
      ),
    )
  })
})
