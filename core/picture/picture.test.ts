import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { convertRgbaToI420 } from './convertRgbaToI420'
import { convertSrgbToOklab, deltaE } from './convertSrgbToOklab'
import { descriptionDistance, describeI420 } from './describeI420'
import { frameDifference, seamRatio } from './frameDifference'
import { createI420, planesOf, type I420 } from './I420'
import { rotateI420 } from './rotateI420'
import { scaleI420 } from './scaleI420'
import { parseHex } from './srgb'

const filled = (width: number, height: number, value: (index: number) => number): I420 => {
  const picture = createI420(width, height)
  picture.data.forEach((_, index) => (picture.data[index] = value(index)))
  return picture
}
const whole = (picture: I420) => ({ x: 0, y: 0, width: picture.width, height: picture.height })

describe('scaling', () => {
  it('keeps a flat picture exactly flat, up and down', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 40 }),
        fc.integer({ min: 1, max: 40 }),
        fc.integer({ min: 1, max: 40 }),
        fc.integer({ min: 1, max: 40 }),
        fc.integer({ min: 0, max: 255 }),
        (w, h, w2, h2, value) => {
          const source = filled(w * 2, h * 2, () => value)
          expect(new Set(scaleI420(source, whole(source), w2 * 2, h2 * 2).data)).toEqual(
            new Set([value]),
          )
        },
      ),
      { seed: 7, numRuns: 60 },
    )
  })
  it('gives the same bytes when nothing changes', () => {
    const source = filled(16, 8, (index) => (index * 37) & 255)
    expect(scaleI420(source, whole(source), 16, 8).data).toEqual(source.data)
  })
  it('keeps a ramp a ramp when it halves it', () => {
    const source = createI420(64, 4)
    const [luma] = planesOf(source)
    luma.data.forEach((_, index) => (luma.data[index] = (index % 64) * 4))
    const row = [...planesOf(scaleI420(source, whole(source), 32, 2))[0].data.subarray(2, 30)]
    row.forEach((value, index) =>
      expect(Math.abs(value - ((index + 2) * 8 + 2))).toBeLessThanOrEqual(1),
    )
  })
  it('crops before it scales', () => {
    const source = createI420(8, 4)
    const [luma] = planesOf(source)
    luma.data.forEach((_, index) => (luma.data[index] = index % 8 < 4 ? 10 : 200))
    expect(
      new Set(planesOf(scaleI420(source, { x: 4, y: 0, width: 4, height: 4 }, 4, 4))[0].data),
    ).toContain(200)
  })
  it('refuses odd sizes', () => expect(() => createI420(5, 4)).toThrow(RangeError))
})

describe('rotating', () => {
  const source = filled(8, 4, (index) => index)
  it('comes back after four quarter turns', () => {
    expect([90, 180, 270, 360].reduce((picture) => rotateI420(picture, 90), source).data).toEqual(
      source.data,
    )
  })
  it('turns clockwise: what was at the lower left comes to the upper left', () => {
    const turned = rotateI420(source, 90)
    expect([turned.width, turned.height]).toEqual([4, 8])
    expect(planesOf(turned)[0].data[0]).toBe(planesOf(source)[0].data[3 * 8])
  })
  it('gives the same object for no turn', () => expect(rotateI420(source, 0)).toBe(source))
  it('takes 270 for three turns of 90', () =>
    expect(rotateI420(source, 270).data).toEqual(
      rotateI420(rotateI420(rotateI420(source, 90), 90), 90).data,
    ))
})

describe('colour', () => {
  // Code values of ITU-R BT.709-6, item 3.6, for 8 bits.
  it.each([
    [
      [0, 0, 0],
      [16, 128, 128],
    ],
    [
      [255, 255, 255],
      [235, 128, 128],
    ],
    [
      [255, 0, 0],
      [63, 102, 240],
    ],
    [
      [0, 255, 0],
      [173, 42, 26],
    ],
    [
      [0, 0, 255],
      [32, 240, 118],
    ],
  ])('writes %j as limited BT.709', (rgb, yuv) => {
    const rgba = Uint8Array.from([0, 1, 2, 3].flatMap(() => [...rgb!, 255]))
    const [y, u, v] = planesOf(convertRgbaToI420(rgba, 2, 2)).map((plane) => plane.data[0]!)
    expect([y, u, v]).toEqual(yuv)
  })
  // Reference values of the OKLab article.
  it.each([
    [
      [255, 255, 255],
      [1, 0, 0],
    ],
    [
      [0, 0, 0],
      [0, 0, 0],
    ],
    [
      [255, 0, 0],
      [0.628, 0.2249, 0.1258],
    ],
    [
      [0, 0, 255],
      [0.452, -0.0325, -0.3115],
    ],
  ])('gives OKLab of %j', (rgb, lab) => {
    const { lightness, a, b } = convertSrgbToOklab(rgb[0]!, rgb[1]!, rgb[2]!)
    ;[lightness, a, b].forEach((value, index) => expect(value).toBeCloseTo(lab[index]!, 3))
  })
  it('measures black to white as 100', () =>
    expect(deltaE(convertSrgbToOklab(0, 0, 0), convertSrgbToOklab(255, 255, 255))).toBeCloseTo(
      100,
      3,
    ))
  it.each(['red', '#12', '#1234567', '12345g', ''])('refuses the colour "%s"', (text) =>
    expect(() => parseHex(text)).toThrow(RangeError),
  )
})

describe('difference and seam', () => {
  const grey = (value: number): Uint8Array =>
    Uint8Array.from({ length: 64 }, (_, index) => (index % 4 === 3 ? 255 : value))
  it('is nothing for the same picture and symmetric otherwise', () => {
    expect(frameDifference(grey(90), grey(90))).toBe(0)
    expect(frameDifference(grey(90), grey(140))).toBeCloseTo(
      frameDifference(grey(140), grey(90)),
      10,
    )
  })
  it('refuses pictures of different sizes', () =>
    expect(() => frameDifference(grey(1), new Uint8Array(4))).toThrow(RangeError))
  it('is 1 for a join like every other step', () => expect(seamRatio(0.5, [0.5, 0.5, 0.5])).toBe(1))
  it('takes the median, so that one hard cut does not hide a jump', () =>
    expect(seamRatio(2, [0.5, 40, 0.5])).toBe(4))
  it('takes no frame that is shown twice for motion: slow motion joins as well as the clip', () =>
    expect(seamRatio(0.5, [0, 0, 0, 0.5, 0, 0, 0, 0.5, 0.001, 0, 0, 0.5])).toBe(1))
  it('does not take a single twitch in a still picture for motion', () =>
    expect(seamRatio(3, [...Array.from({ length: 60 }, () => 0), 2])).toBeNull())
  it.each([[[]], [[0, 0, 0]]])('says nothing of a loop that does not move', (steps) =>
    expect(seamRatio(1, steps)).toBeNull(),
  )
  it('describes a picture in cells whose distance is that of the colours', () => {
    const dark = describeI420(filled(64, 36, (index) => (index < 64 * 36 ? 60 : 128)))
    const light = describeI420(filled(64, 36, (index) => (index < 64 * 36 ? 180 : 128)))
    expect(dark).toHaveLength(576)
    expect(descriptionDistance(dark, dark)).toBe(0)
    expect(descriptionDistance(dark, light)).toBeGreaterThan(40)
  })
})
