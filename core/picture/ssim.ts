import { planesOf, type I420, type Plane } from './I420'

/** Sides of the windows, and of the blocks that four windows share: windows lie half their side apart. Source: Wang, Bovik, Sheikh, Simoncelli (2004), doi:10.1109/TIP.2003.819861; 8 × 8 windows. */
const WINDOW = 8
const BLOCK = WINDOW / 2
/** (K1·L)² and (K2·L)² with K1 = 0.01, K2 = 0.03, L = 255; same source, equation 13. */
const C1 = (0.01 * 255) ** 2
const C2 = (0.03 * 255) ** 2
/** Sums kept of each block: of both pictures, their squares, and their products. */
const SUMS = 5

/**
 * Mean structural similarity of two luma planes of one size: 1 is the same picture. Planes smaller than a window count as one window. `contrast` tells how much
 * of the pictures' contrast is left where they are seen: 1 without, 1 − strength behind an even scrim. Throws RangeError for unequal sizes.
 */
export function ssim(one: Plane, other: Plane, contrast = 1): number {
  if (one.width !== other.width || one.height !== other.height) throw new RangeError('two pictures of one size are needed')
  if (one.width < WINDOW || one.height < WINDOW) return similarity(sumsOf(one, other, 0, 0, one.width, one.height), one.width * one.height, contrast)
  const across = Math.floor(one.width / BLOCK)
  const down = Math.floor(one.height / BLOCK)
  let [above, row] = [new Int32Array(across * SUMS), new Int32Array(across * SUMS)]
  const window = new Float64Array(SUMS)
  let total = 0
  for (let y = 0; y < down; y++) {
    sumRow(one.data, other.data, one.width, y * BLOCK, row)
    for (let x = 0; y > 0 && x + 1 < across; x++) {
      const at = x * SUMS
      for (let index = 0; index < SUMS; index++) window[index] = above[at + index]! + above[at + SUMS + index]! + row[at + index]! + row[at + SUMS + index]!
      total += similarity(window, WINDOW * WINDOW, contrast)
    }
    ;[above, row] = [row, above]
  }
  return total / ((across - 1) * (down - 1))
}

/** The sums of a row of blocks: each sample is looked at once, though four windows hold it. Whole numbers throughout, which is three times as fast; sixteen squares fit easily. */
function sumRow(one: Uint8Array, other: Uint8Array, width: number, top: number, row: Int32Array): void {
  for (let to = 0, left = top * width; to < row.length; to += SUMS, left += BLOCK) {
    let [sumA, sumB, squaresA, squaresB, products] = [0, 0, 0, 0, 0]
    for (let y = 0, from = left; y < BLOCK; y++, from += width) {
      for (let at = from; at < from + BLOCK; at++) {
        const [a, b] = [one[at]!, other[at]!]
        sumA = (sumA + a) | 0
        sumB = (sumB + b) | 0
        squaresA = (squaresA + Math.imul(a, a)) | 0
        squaresB = (squaresB + Math.imul(b, b)) | 0
        products = (products + Math.imul(a, b)) | 0
      }
    }
    row[to] = sumA
    row[to + 1] = sumB
    row[to + 2] = squaresA
    row[to + 3] = squaresB
    row[to + 4] = products
  }
}

function sumsOf(one: Plane, other: Plane, left: number, top: number, wide: number, high: number): Float64Array {
  const sums = new Float64Array(SUMS)
  for (let y = top; y < top + high; y++) {
    for (let x = left; x < left + wide; x++) {
      const a = one.data[y * one.width + x]!
      const b = other.data[y * other.width + x]!
      ;[a, b, a * a, b * b, a * b].forEach((value, index) => (sums[index]! += value))
    }
  }
  return sums
}

function similarity(sums: Float64Array, count: number, contrast: number): number {
  const [meanA, meanB] = [sums[0]! / count, sums[1]! / count]
  const seen = contrast * contrast
  const variances = seen * (sums[2]! / count - meanA * meanA + sums[3]! / count - meanB * meanB)
  const covariance = seen * (sums[4]! / count - meanA * meanB)
  return ((2 * seen * meanA * meanB + C1) * (2 * covariance + C2)) / ((seen * (meanA * meanA + meanB * meanB) + C1) * (variances + C2))
}

/** Mean structural similarity of two pictures' luma. Throws RangeError for unequal sizes. */
export function ssimI420(one: I420, other: I420): number {
  return ssim(planesOf(one)[0], planesOf(other)[0])
}

/** More than this is not told apart: equal pictures have no noise at all. */
const MOST_DECIBELS = 60

/** Peak signal to noise of two luma planes of one size, in decibels, at most 60. Source: 10·log10(255² / mean squared error). Throws RangeError for unequal sizes. */
export function psnr(one: Plane, other: Plane): number {
  if (one.width !== other.width || one.height !== other.height) throw new RangeError('two pictures of one size are needed')
  const { width, height } = one
  let squares = 0
  for (let y = 0; y < height; y++) {
    // The squares of a row fit into whole numbers of 32 bits up to 33,000 samples.
    let row = 0
    for (let at = y * width; at < (y + 1) * width; at++) {
      const difference = one.data[at]! - other.data[at]!
      row = (row + Math.imul(difference, difference)) | 0
    }
    squares += row
  }
  return squares === 0 ? MOST_DECIBELS : Math.min(MOST_DECIBELS, 10 * Math.log10((255 * 255 * width * height) / squares))
}
