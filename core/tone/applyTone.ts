import { yuvWeights, type YuvKind } from '../picture/describeCells'
import { createI420, planesOf, type I420 } from '../picture/I420'
import { parseHex, type Rgb } from '../picture/srgb'
import { yuvTables } from '../picture/yuvTables'
import type { Tone } from './Tone'

/** Weights of the `saturate()` function. Source: Filter Effects Module Level 1, clause 8.9. */
const LUMA = { r: 0.213, g: 0.715, b: 0.072 } as const

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
    const luma = LUMA.r * r + LUMA.g * g + LUMA.b * b
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

const lumaOf = ({ r, g, b }: Rgb): number => LUMA.r * r + LUMA.g * g + LUMA.b * b

/**
 * A picture with a tone: each pixel is seen as red, green and blue, and written back; chroma is the
 * mean of its four pixels. The size must be even.
 */
export function tonedI420(picture: I420, tone: Tone, kind: YuvKind): I420 {
  const { width, height } = picture
  const toned = createI420(width, height)
  const [luma, blue, red] = planesOf(picture)
  const [lumaOut, blueOut, redOut] = planesOf(toned)
  const { luma: lumas, redOfCr, greenOfCb, greenOfCr, blueOfCb } = yuvTables(kind)
  const [kr, kb] = yuvWeights(kind)
  const kg = 1 - kr - kb
  const [floor, lumaScale, chromaScale] = kind.fullRange ? [0, 1, 1] : [16, 219 / 255, 224 / 255]
  const toneOf = tonedColor(tone)
  const across = width / 2
  for (let y = 0; y < height; y += 2)
    for (let x = 0; x < width; x += 2) {
      const chroma = (y / 2) * across + x / 2
      const [cb, cr] = [blue.data[chroma]!, red.data[chroma]!]
      const addRed = redOfCr[cr]!
      const addGreen = greenOfCb[cb]! + greenOfCr[cr]!
      const addBlue = blueOfCb[cb]!
      let [sumR, sumG, sumB] = [0, 0, 0]
      for (let corner = 0; corner < 4; corner++) {
        const at = (y + (corner >> 1)) * width + x + (corner & 1)
        const value = lumas[luma.data[at]!]!
        const { r, g, b } = toneOf({
          r: byte(value + addRed),
          g: byte(value + addGreen),
          b: byte(value + addBlue),
        })
        lumaOut.data[at] = Math.round(floor + (kr * r + kg * g + kb * b) * lumaScale)
        sumR += r
        sumG += g
        sumB += b
      }
      const mean = (kr * sumR + kg * sumG + kb * sumB) / 4
      const chromaOf = (channel: number, weight: number): number =>
        byte(Math.round(128 + ((channel / 4 - mean) / (2 * (1 - weight))) * chromaScale))
      blueOut.data[chroma] = chromaOf(sumB, kb)
      redOut.data[chroma] = chromaOf(sumR, kr)
    }
  return toned
}
