import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { createI420, planesOf } from './I420'
import { i420Meaner } from './meanI420'
import { i420Scaler } from './scaleI420'

const SIZES = fc.constantFrom([1920, 1080] as const, [640, 360] as const, [648, 1152] as const)

describe('means of a picture', () => {
  it('are of one colour where the picture is', () =>
    fc.assert(
      fc.property(fc.nat(255), fc.nat(255), fc.nat(255), SIZES, (y, cb, cr, [width, height]) => {
        const picture = createI420(width, height)
        const planes = planesOf(picture)
        for (const [plane, value] of [y, cb, cr].entries()) planes[plane]!.data.fill(value)
        const means = planesOf(i420Meaner(picture, 64, 36)!(picture))
        for (const [plane, value] of [y, cb, cr].entries())
          expect(new Set(means[plane]!.data)).toEqual(new Set([value]))
      }),
      { numRuns: 15 },
    ))
  it('are nearly what the scaler gives of a smooth picture', () => {
    const picture = createI420(1920, 1080)
    const [luma] = planesOf(picture)
    for (let at = 0; at < luma.data.length; at++) {
      const [x, y] = [at % 1920, Math.floor(at / 1920)]
      luma.data[at] = 128 + 60 * Math.sin(x / 90) + 50 * Math.cos(y / 70)
    }
    planesOf(picture)[1].data.fill(120)
    planesOf(picture)[2].data.fill(140)
    const whole = { x: 0, y: 0, width: 1920, height: 1080 }
    const scaled = i420Scaler(picture, whole, 320, 180)(picture)
    const means = i420Meaner(picture, 320, 180)!(picture)
    const worst = means.data.reduce(
      (most, value, at) => Math.max(most, Math.abs(value - scaled.data[at]!)),
      0,
    )
    expect(worst).toBeLessThanOrEqual(3)
  })
  it('are not taken where a picture would not become smaller, or its rows are odd', () => {
    expect(i420Meaner({ width: 320, height: 180 }, 320, 180)).toBeNull()
    expect(i420Meaner({ width: 1918, height: 1080 }, 320, 180)).toBeNull()
  })
})
