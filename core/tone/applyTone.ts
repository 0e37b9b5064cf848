import { yuvWeights, type YuvKind } from '../picture/describeCells'
import { createI420, planesOf, type I420 } from '../picture/I420'
import { parseHex, type Rgb } from '../picture/srgb'
import { yuvTables } from '../picture/yuvTables'
import type { Tone } from './Tone'

/** Weights of the `saturate()` function. Source: Filter Effects Module Level 1, clause 8.9. */
export const TONE_LUMA = { r: 0.213, g: 0.715, b: 0.072 } as const

const byte = (value: number): number => (value <= 0 ? 0 : value >= 255 ? 255 : value)

/**
 * What a tone makes of an sRGB colour, 0 to 255: brightness, contrast and saturation in this order,
 * each clamped, as the filter functions of browsers do it; then the tint, which keeps the luma.
 * Source: Filter Effects Module Level 1, clauses 8.6, 8.7 and 8.9.
 */
export function tonedColor(tone: Tone): (color: Rgb) => Rgb {
  const { brightness, contrast, saturation: s } = tone
  const tint = tintOf(tone)
  const level = (value: number): number =>
    byte((byte(value * brightness) - 127.5) * contrast + 127.5)
  return (color) => {
    const [r, g, b] = [level(color.r), level(color.g), level(color.b)]
    const luma = TONE_LUMA.r * r + TONE_LUMA.g * g + TONE_LUMA.b * b
    return tint({
      r: byte(luma + s * (r - luma)),
      g: byte(luma + s * (g - luma)),
      b: byte(luma + s * (b - luma)),
    })
  }
}

/** Each colour on its way to the tint's hue in its own lightness. */
function tintOf({ tint: { color, strength } }: Tone): (color: Rgb) => Rgb {
  if (strength === 0) return (each) => each
  const tint = parseHex(color)
  const own = lumaOf(tint)
  const toward = (value: number, luma: number, channel: number): number =>
    byte(value + strength * (luma + (channel - own) - value))
  return (each) => {
    const luma = lumaOf(each)
    return {
      r: toward(each.r, luma, tint.r),
      g: toward(each.g, luma, tint.g),
      b: toward(each.b, luma, tint.b),
    }
  }
}

const lumaOf = ({ r, g, b }: Rgb): number => TONE_LUMA.r * r + TONE_LUMA.g * g + TONE_LUMA.b * b

/** Brightness and contrast are looked up in steps of so many to a byte. */
const STEPS = 8

/**
 * A picture with a tone: each pixel is seen as red, green and blue, and written back; chroma is the
 * mean of its four pixels. Within a sixteenth of a byte of `tonedColor`, which it writes out: a
 * frame of 1080 lines has two million pixels. The size must be even.
 */
export function tonedI420(picture: I420, tone: Tone, kind: YuvKind): I420 {
  const { width, height } = picture
  const toned = createI420(width, height)
  const [{ data: luma }, { data: cbs }, { data: crs }] = planesOf(picture)
  const [{ data: lumaOut }, { data: cbOut }, { data: crOut }] = planesOf(toned)
  const { luma: lumas, redOfCr, greenOfCb, greenOfCr, blueOfCb } = yuvTables(kind)
  const { brightness, contrast, saturation, tint } = tone
  const levels = Float32Array.from({ length: 255 * STEPS + 1 }, (_, step) =>
    byte((byte((step / STEPS) * brightness) - 127.5) * contrast + 127.5),
  )
  const color = parseHex(tint.color)
  const { strength } = tint
  const own = lumaOf(color)
  const [tintR, tintG, tintB] = [color.r - own, color.g - own, color.b - own]
  const [kr, kb] = yuvWeights(kind)
  const kg = 1 - kr - kb
  const [floor, lumaScale, chromaScale] = kind.fullRange ? [0, 1, 1] : [16, 219 / 255, 224 / 255]
  const [blueScale, redScale] = [kb, kr].map((weight) => chromaScale / (2 * (1 - weight)))
  const across = width / 2
  for (let y = 0; y < height; y += 2)
    for (let x = 0; x < width; x += 2) {
      const chroma = (y / 2) * across + x / 2
      const cb = cbs[chroma]!
      const cr = crs[chroma]!
      const addRed = redOfCr[cr]!
      const addGreen = greenOfCb[cb]! + greenOfCr[cr]!
      const addBlue = blueOfCb[cb]!
      let sumR = 0
      let sumG = 0
      let sumB = 0
      for (let corner = 0; corner < 4; corner++) {
        const at = (y + (corner >> 1)) * width + x + (corner & 1)
        const value = lumas[luma[at]!]!
        let r = levels[(byte(value + addRed) * STEPS + 0.5) | 0]!
        let g = levels[(byte(value + addGreen) * STEPS + 0.5) | 0]!
        let b = levels[(byte(value + addBlue) * STEPS + 0.5) | 0]!
        if (saturation !== 1) {
          const grey = TONE_LUMA.r * r + TONE_LUMA.g * g + TONE_LUMA.b * b
          r = byte(grey + saturation * (r - grey))
          g = byte(grey + saturation * (g - grey))
          b = byte(grey + saturation * (b - grey))
        }
        if (strength > 0) {
          const grey = TONE_LUMA.r * r + TONE_LUMA.g * g + TONE_LUMA.b * b
          r = byte(r + strength * (grey + tintR - r))
          g = byte(g + strength * (grey + tintG - g))
          b = byte(b + strength * (grey + tintB - b))
        }
        lumaOut[at] = floor + (kr * r + kg * g + kb * b) * lumaScale + 0.5
        sumR += r
        sumG += g
        sumB += b
      }
      const mean = (kr * sumR + kg * sumG + kb * sumB) / 4
      cbOut[chroma] = byte(128.5 + (sumB / 4 - mean) * blueScale!)
      crOut[chroma] = byte(128.5 + (sumR / 4 - mean) * redScale!)
    }
  return toned
}

/** Gives sRGB pixels (four bytes each) a tone, in place. */
export function toneRgba(data: Uint8ClampedArray, tone: Tone): void {
  const toneOf = tonedColor(tone)
  for (let at = 0; at < data.length; at += 4) {
    const { r, g, b } = toneOf({ r: data[at]!, g: data[at + 1]!, b: data[at + 2]! })
    data[at] = r
    data[at + 1] = g
    data[at + 2] = b
  }
}
