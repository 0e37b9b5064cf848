import { convertSrgbToOklab, deltaE, type Oklab } from './convertSrgbToOklab'
import { planesOf, type I420 } from './I420'

/** Cells across and down a picture's description. Source: docs/method.md, "Seam". */
export const CELLS_ACROSS = 32
export const CELLS_DOWN = 18
/** Samples taken along each side of a cell: enough for a mean, far fewer than the pixels. */
const SAMPLES = 4

/** A picture in 32 × 18 cells, row after row: the mean colour of each in OKLab. BT.709 limited range is taken for granted. */
export function describeI420(picture: I420): Oklab[] {
  const [luma, blue, red] = planesOf(picture)
  return Array.from({ length: CELLS_ACROSS * CELLS_DOWN }, (_, cell) => {
    let [sumY, sumB, sumR] = [0, 0, 0]
    for (let sample = 0; sample < SAMPLES * SAMPLES; sample++) {
      const u = (cell % CELLS_ACROSS) + ((sample % SAMPLES) + 0.5) / SAMPLES
      const v = Math.floor(cell / CELLS_ACROSS) + (Math.floor(sample / SAMPLES) + 0.5) / SAMPLES
      const x = Math.floor((u * luma.width) / CELLS_ACROSS)
      const y = Math.floor((v * luma.height) / CELLS_DOWN)
      const chroma = (y >> 1) * blue.width + (x >> 1)
      sumY += luma.data[y * luma.width + x]!
      sumB += blue.data[chroma]!
      sumR += red.data[chroma]!
    }
    const count = SAMPLES * SAMPLES
    return oklabOf(sumY / count, sumB / count, sumR / count)
  })
}

/** Source: ITU-R BT.709-6, items 3.2 to 3.5, inverted. */
function oklabOf(luma: number, cb: number, cr: number): Oklab {
  const y = (luma - 16) / 219
  const b = y + (1.8556 * (cb - 128)) / 224
  const r = y + (1.5748 * (cr - 128)) / 224
  const g = (y - 0.2126 * r - 0.0722 * b) / 0.7152
  const byte = (value: number): number => 255 * Math.min(1, Math.max(0, value))
  return convertSrgbToOklab(byte(r), byte(g), byte(b))
}

/** Mean ΔE (OKLab × 100) of two descriptions. */
export function descriptionDistance(one: readonly Oklab[], other: readonly Oklab[]): number {
  return one.reduce((sum, cell, index) => sum + deltaE(cell, other[index]!), 0) / one.length
}
