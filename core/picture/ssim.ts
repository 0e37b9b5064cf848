import { planesOf, type I420, type Plane } from './I420'

/** Sides of the windows and how far they lie apart. Source: Wang, Bovik, Sheikh, Simoncelli (2004), doi:10.1109/TIP.2003.819861; 8 × 8 windows. */
const WINDOW = 8
const STRIDE = 4
/** (K1·L)² and (K2·L)² with K1 = 0.01, K2 = 0.03, L = 255; same source, equation 13. */
const C1 = (0.01 * 255) ** 2
const C2 = (0.03 * 255) ** 2

/** Mean structural similarity of two luma planes of one size: 1 is the same picture. Planes smaller than a window count as one window. Throws RangeError for unequal sizes. */
export function ssim(one: Plane, other: Plane): number {
  if (one.width !== other.width || one.height !== other.height) throw new RangeError('two pictures of one size are needed')
  const [wide, high] = [Math.min(WINDOW, one.width), Math.min(WINDOW, one.height)]
  let sum = 0
  let windows = 0
  for (let top = 0; top + high <= one.height; top += STRIDE) {
    for (let left = 0; left + wide <= one.width; left += STRIDE) {
      sum += windowSimilarity(one, other, left, top, wide, high)
      windows += 1
    }
  }
  return sum / windows
}

function windowSimilarity(one: Plane, other: Plane, left: number, top: number, wide: number, high: number): number {
  let [sumA, sumB, squaresA, squaresB, products] = [0, 0, 0, 0, 0]
  for (let y = top; y < top + high; y++) {
    const row = y * one.width + left
    for (let at = row; at < row + wide; at++) {
      const a = one.data[at]!
      const b = other.data[at]!
      sumA += a
      sumB += b
      squaresA += a * a
      squaresB += b * b
      products += a * b
    }
  }
  const count = wide * high
  const [meanA, meanB] = [sumA / count, sumB / count]
  const varianceA = squaresA / count - meanA * meanA
  const varianceB = squaresB / count - meanB * meanB
  const covariance = products / count - meanA * meanB
  return ((2 * meanA * meanB + C1) * (2 * covariance + C2)) / ((meanA * meanA + meanB * meanB + C1) * (varianceA + varianceB + C2))
}

/** Mean structural similarity of two pictures' luma. Throws RangeError for unequal sizes. */
export function ssimI420(one: I420, other: I420): number {
  return ssim(planesOf(one)[0], planesOf(other)[0])
}
