import { createI420, planesOf, type I420 } from './I420'

/** Luma weights of BT.709. Source: ITU-R BT.709-6, item 3.2. */
const KR = 0.2126
const KB = 0.0722
const KG = 1 - KR - KB

/**
 * sRGB pixels (four bytes each) as limited-range BT.709 I420: luma 16 to 235, chroma 16 to 240,
 * chroma the mean of each 2 × 2 block. Source: ITU-R BT.709-6, items 3 and 4. The size must be
 * even.
 */
export function convertRgbaToI420(
  rgba: Uint8ClampedArray | Uint8Array,
  width: number,
  height: number,
): I420 {
  const picture = createI420(width, height)
  const [luma, blue, red] = planesOf(picture)
  for (let y = 0; y < height; y += 2) {
    for (let x = 0; x < width; x += 2) {
      let [sumR, sumG, sumB] = [0, 0, 0]
      for (let corner = 0; corner < 4; corner++) {
        const at = (y + (corner >> 1)) * width + x + (corner & 1)
        const r = rgba[at * 4]!
        const g = rgba[at * 4 + 1]!
        const b = rgba[at * 4 + 2]!
        luma.data[at] = Math.round(16 + ((KR * r + KG * g + KB * b) * 219) / 255)
        sumR += r
        sumG += g
        sumB += b
      }
      const y4 = (KR * sumR + KG * sumG + KB * sumB) / 4
      const at = (y >> 1) * (width >> 1) + (x >> 1)
      blue.data[at] = Math.round(128 + ((sumB / 4 - y4) / (2 * (1 - KB))) * (224 / 255))
      red.data[at] = Math.round(128 + ((sumR / 4 - y4) / (2 * (1 - KR))) * (224 / 255))
    }
  }
  return picture
}
