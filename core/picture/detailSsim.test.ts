import { describe, expect, it } from 'vitest'
import type { I420 } from './I420'
import { detailSsim, ssimI420 } from './ssim'

/** A grey picture with a bright square in it, whose edge is `soft` samples wide. */
function square(soft: number): I420 {
  const [width, height] = [320, 180]
  const data = new Uint8Array((width * height * 3) / 2).fill(128)
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const inside = Math.min(x - 140, 180 - x, y - 70, 110 - y)
      const share = Math.min(1, Math.max(0, soft > 0 ? inside / soft + 0.5 : Number(inside >= 0)))
      data[y * width + x] = Math.round(60 + 140 * share)
    }
  return { width, height, data }
}
const tiny = (value: number): I420 => ({
  width: 4,
  height: 4,
  data: new Uint8Array(24).fill(value),
})

describe('similarity weighted by detail', () => {
  it('is 1 for the same picture, also where it has one colour, or is smaller than a window', () => {
    expect(detailSsim(square(0), square(0))).toBe(1)
    const plain = { width: 16, height: 16, data: new Uint8Array(384).fill(90) }
    expect(detailSsim(plain, plain)).toBe(1)
    expect(detailSsim(tiny(50), tiny(50))).toBe(1)
    expect(detailSsim(tiny(50), tiny(200))).toBeLessThan(0.6)
  })
  it('sees a blurred edge that a mean over even areas hides', () => {
    const [sharp, blurred] = [square(0), square(4)]
    expect(ssimI420(sharp, blurred)).toBeGreaterThan(0.985)
    expect(detailSsim(sharp, blurred)).toBeLessThan(0.96)
  })
  it('sees blotches in an even area, too', () => {
    const clean = square(0)
    const data = clean.data.map((value, at) => {
      const [column, row] = [(at % 320) >> 3, Math.floor(at / 320) >> 3]
      return at < 320 * 60 && (column + row) % 2 === 0 ? value + 6 : value
    })
    expect(detailSsim(clean, { ...clean, data })).toBeLessThan(0.985)
  })
  it('falls with every step of blur', () => {
    const steps = [0, 2, 4, 8, 16].map((soft) => detailSsim(square(0), square(soft)))
    expect(steps).toEqual(steps.toSorted((one, other) => other - one))
    expect(new Set(steps).size).toBe(5)
  })
  it('refuses pictures of unequal sizes', () =>
    expect(() => detailSsim(square(0), { ...square(0), width: 160, height: 360 })).toThrow(
      RangeError,
    ))
})
