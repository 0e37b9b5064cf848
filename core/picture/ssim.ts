import { planesOf, type I420, type Plane } from './I420'

/**
 * Sides of the windows, and of the blocks that four windows share: windows lie half their side
 * apart. Source: Wang, Bovik, Sheikh, Simoncelli (2004), doi:10.1109/TIP.2003.819861; 8 × 8
 * windows.
 */
const WINDOW = 8
const BLOCK = WINDOW / 2
/** (K1·L)² and (K2·L)² with K1 = 0.01, K2 = 0.03, L = 255; same source, equation 13. */
const C1 = (0.01 * 255) ** 2
const C2 = (0.03 * 255) ** 2
/**
 * Sums kept of each block: of both pictures, of their products, and of their squared differences.
 * The sum of both squares, which is all that SSIM asks of them, follows: squares = differences + 2
 * products.
 */
const SUMS = 4
/** Larger values are not distinguished: equal pictures have infinite PSNR. */
const MAX_DECIBELS = 60

/** How similar two pictures are. */
export interface PictureQuality {
  /** Mean structural similarity: 1 is the same picture. */
  readonly ssim: number
  /** Peak signal to noise in decibels, at most 60. Source: 10·log10(255² / mean squared error). */
  readonly psnr: number
  /**
   * Structural similarity where only part of the contrast is left, one for each that was asked for.
   */
  readonly behind: readonly number[]
}

/**
 * Compares two luma planes of one size, reading each sample once. `contrasts` are the shares of the
 * pictures' contrast that are visible: 1 − strength behind an even scrim. Planes smaller than a
 * window count as one window. Throws RangeError for unequal sizes.
 */
export function measureQuality(
  one: Plane,
  other: Plane,
  contrasts: readonly number[] = [],
): PictureQuality {
  if (one.width !== other.width || one.height !== other.height)
    throw new RangeError('two pictures of one size are needed')
  const { width, height } = one
  const seen = [1, ...contrasts]
  const totals = new Float64Array(seen.length)
  const blocksWide = Math.floor(width / BLOCK) * BLOCK
  const blocksHigh = Math.floor(height / BLOCK) * BLOCK
  if (width < WINDOW || height < WINDOW) {
    const [sumA, sumB, products, differences] = sumsOf(one, other, 0, 0, width, height)
    seen.forEach(
      (contrast, index) =>
        (totals[index] = similarity(sumA, sumB, products, differences, width * height, contrast)),
    )
    return toQuality(totals, 1, differences, width * height)
  }
  let [above, row] = [new Int32Array(blocksWide), new Int32Array(blocksWide)]
  let squares = 0
  for (let top = 0; top < blocksHigh; top += BLOCK) {
    sumRow(one.data, other.data, width, top, row)
    for (let at = 3; at < row.length; at += SUMS) squares += row[at]!
    for (let index = 0; top > 0 && index < seen.length; index++)
      totals[index]! += similarities(above, row, seen[index]!)
    ;[above, row] = [row, above]
  }
  // What no whole block holds, at the right and at the foot, counts for the decibels alone.
  squares +=
    sumsOf(one, other, blocksWide, 0, width - blocksWide, blocksHigh)[3] +
    sumsOf(one, other, 0, blocksHigh, width, height - blocksHigh)[3]
  return toQuality(
    totals,
    (blocksWide / BLOCK - 1) * (blocksHigh / BLOCK - 1),
    squares,
    width * height,
  )
}

function toQuality(
  totals: Float64Array,
  windows: number,
  squares: number,
  samples: number,
): PictureQuality {
  const [ssim, ...behind] = Array.from(totals, (total) => total / windows)
  return {
    ssim: ssim!,
    behind,
    psnr:
      squares === 0
        ? MAX_DECIBELS
        : Math.min(MAX_DECIBELS, 10 * Math.log10((255 * 255 * samples) / squares)),
  }
}

/**
 * The sums of a row of blocks: each sample is looked at once, though four windows hold it. Whole
 * numbers, no inner loop, and no lists taken apart, which browsers are slow at: four times as fast.
 */
function sumRow(
  one: Uint8Array,
  other: Uint8Array,
  width: number,
  top: number,
  row: Int32Array,
): void {
  // `row` has as many sums as the picture is wide; a block's index is its left edge in the picture.
  for (let left = 0; left < row.length; left += BLOCK) {
    let sumA = 0
    let sumB = 0
    let products = 0
    let differences = 0
    for (let y = 0, at = top * width + left; y < BLOCK; y++, at += width) {
      const a0 = one[at]!
      const a1 = one[at + 1]!
      const a2 = one[at + 2]!
      const a3 = one[at + 3]!
      const b0 = other[at]!
      const b1 = other[at + 1]!
      const b2 = other[at + 2]!
      const b3 = other[at + 3]!
      const d0 = a0 - b0
      const d1 = a1 - b1
      const d2 = a2 - b2
      const d3 = a3 - b3
      sumA = (sumA + a0 + a1 + a2 + a3) | 0
      sumB = (sumB + b0 + b1 + b2 + b3) | 0
      products =
        (products + Math.imul(a0, b0) + Math.imul(a1, b1) + Math.imul(a2, b2) + Math.imul(a3, b3)) |
        0
      differences =
        (differences +
          Math.imul(d0, d0) +
          Math.imul(d1, d1) +
          Math.imul(d2, d2) +
          Math.imul(d3, d3)) |
        0
    }
    row[left] = sumA
    row[left + 1] = sumB
    row[left + 2] = products
    row[left + 3] = differences
  }
}

/** The sum of the similarities of all windows between two rows of blocks. */
function similarities(above: Int32Array, row: Int32Array, contrast: number): number {
  let total = 0
  for (let at = 0; at + SUMS < row.length; at += SUMS) {
    const right = at + SUMS
    total += similarity(
      above[at]! + above[right]! + row[at]! + row[right]!,
      above[at + 1]! + above[right + 1]! + row[at + 1]! + row[right + 1]!,
      above[at + 2]! + above[right + 2]! + row[at + 2]! + row[right + 2]!,
      above[at + 3]! + above[right + 3]! + row[at + 3]! + row[right + 3]!,
      WINDOW * WINDOW,
      contrast,
    )
  }
  return total
}

function sumsOf(
  one: Plane,
  other: Plane,
  left: number,
  top: number,
  wide: number,
  high: number,
): [sumA: number, sumB: number, products: number, differences: number] {
  let [sumA, sumB, products, differences] = [0, 0, 0, 0]
  for (let y = top; y < top + high; y++) {
    for (let at = y * one.width + left; at < y * one.width + left + wide; at++) {
      const [a, b] = [one.data[at]!, other.data[at]!]
      sumA += a
      sumB += b
      products += a * b
      differences += (a - b) ** 2
    }
  }
  return [sumA, sumB, products, differences]
}

function similarity(
  sumA: number,
  sumB: number,
  products: number,
  differences: number,
  count: number,
  contrast: number,
): number {
  const [meanA, meanB] = [sumA / count, sumB / count]
  const seen = contrast * contrast
  const variances = seen * ((differences + 2 * products) / count - meanA * meanA - meanB * meanB)
  const covariance = seen * (products / count - meanA * meanB)
  return (
    ((2 * seen * meanA * meanB + C1) * (2 * covariance + C2)) /
    ((seen * (meanA * meanA + meanB * meanB) + C1) * (variances + C2))
  )
}

/** Mean structural similarity of two pictures' luma. Throws RangeError for unequal sizes. */
export function ssimI420(one: I420, other: I420): number {
  return measureQuality(planesOf(one)[0], planesOf(other)[0]).ssim
}

/** The variance of noise that is taken for none. Source: Wang and Li (2011), see `detailSsim`. */
const NOISE_VARIANCE = 10
/**
 * What a window without any detail weighs: blotches in an even sky count, too, as much as an edge
 * with a sixteenth of their area or so.
 */
const LEAST_WEIGHT = 0.25

/**
 * Structural similarity of two pictures' luma, each window weighted by the detail in it, in bits:
 * log2(1 + variance / noise). In a mean without weights, large even areas hide that the few edges
 * are blurred. Pictures smaller than a window count as one. Throws RangeError for unequal sizes.
 * Source: the weights of Wang and Li (2011), doi:10.1109/TIP.2010.2092435, at one scale.
 */
export function detailSsim(one: I420, other: I420): number {
  const [a, b] = [planesOf(one)[0], planesOf(other)[0]]
  if (Math.min(a.width, a.height) < WINDOW) return ssimI420(one, other)
  if (a.width !== b.width || a.height !== b.height)
    throw new RangeError('two pictures of one size are needed')
  const wide = Math.floor(a.width / BLOCK) * BLOCK
  let [above, row] = [new Int32Array(wide), new Int32Array(wide)]
  let [total, weights] = [0, 0]
  for (let top = 0; top + BLOCK <= a.height; top += BLOCK) {
    sumRow(a.data, b.data, a.width, top, row)
    for (let at = 0; top > 0 && at + SUMS < wide; at += SUMS) {
      const sum = (of: number): number =>
        above[at + of]! + above[at + SUMS + of]! + row[at + of]! + row[at + SUMS + of]!
      const [sumA, sumB, products, differences] = [sum(0), sum(1), sum(2), sum(3)]
      const count = WINDOW * WINDOW
      const [meanA, meanB] = [sumA / count, sumB / count]
      // The mean variance of both: a blurred one has less, one with blocks more.
      const variance = (differences / count + 2 * (products / count) - meanA ** 2 - meanB ** 2) / 2
      const weight = Math.max(LEAST_WEIGHT, Math.log2(1 + Math.max(0, variance) / NOISE_VARIANCE))
      total += weight * similarity(sumA, sumB, products, differences, count, 1)
      weights += weight
    }
    ;[above, row] = [row, above]
  }
  return total / weights
}
