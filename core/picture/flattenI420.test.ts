import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { rgbFromYuv, yuvFromRgb, type YuvKind } from './describeCells'
import { flattenI420 } from './flattenI420'
import { createI420, planesOf, type I420 } from './I420'

const filled = (luma: number, cb = 128, cr = 128): I420 => {
  const picture = createI420(4, 4)
  planesOf(picture).forEach(({ data }, index) => data.fill([luma, cb, cr][index]!))
  return picture
}
const planes = (picture: I420): number[][] => planesOf(picture).map(({ data }) => [...data])

describe('flattening a transparent picture', () => {
  const picture = filled(200, 90, 170)
  it('keeps what is opaque and shows the colour where nothing is', () => {
    expect(flattenI420(picture, filled(255), [40, 100, 150]).data).toEqual(picture.data)
    expect(flattenI420(picture, filled(0), [40, 100, 150]).data).toEqual(filled(40, 100, 150).data)
  })
  it('mixes in proportion', () => {
    const [luma, cb, cr] = planes(flattenI420(picture, filled(51), [100, 140, 120]))
    expect([luma![0], cb![0], cr![0]]).toEqual([120, 130, 130])
  })
  it('takes the mean opacity of the four pixels that share chroma', () => {
    const opacity = filled(0)
    // One of four pixels is opaque.
    opacity.data[0] = 255
    const [luma, cb] = planes(flattenI420(picture, opacity, [40, 10, 128]))
    expect(luma!.slice(0, 2)).toEqual([200, 40])
    expect(cb!.slice(0, 2)).toEqual([30, 10])
  })
  it('refuses pictures of different sizes', () =>
    expect(() => flattenI420(createI420(2, 2), filled(0), [0, 0, 0])).toThrow(RangeError))
})

describe('a colour as luma and chroma', () => {
  const byte = fc.integer({ min: 0, max: 255 })
  const kind: fc.Arbitrary<YuvKind> = fc.record({
    matrix: fc.constantFrom('bt709', 'bt601', 'bt2020'),
    fullRange: fc.boolean(),
  })
  it('comes back as the same colour, within rounding', () =>
    fc.assert(
      fc.property(byte, byte, byte, kind, (r, g, b, of) => {
        const back = rgbFromYuv(...yuvFromRgb(r, g, b, of), of)
        ;[r, g, b].forEach((value, index) => expect(Math.abs(back[index]! - value)).toBeLessThan(2))
      }),
    ))
  it('is black at 16 and white at 235 in limited range', () => {
    const limited = { matrix: 'bt709', fullRange: false } as const
    expect(yuvFromRgb(0, 0, 0, limited)).toEqual([16, 128, 128])
    expect(yuvFromRgb(255, 255, 255, limited)).toEqual([235, 128, 128])
  })
})
