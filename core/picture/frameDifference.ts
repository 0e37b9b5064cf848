import { convertSrgbToOklab, deltaE } from './convertSrgbToOklab'

/** Mean ΔE (OKLab × 100) of two RGBA pictures of the same size. 0 is the same picture. Throws RangeError for unequal sizes. */
export function frameDifference(one: Uint8ClampedArray | Uint8Array, other: Uint8ClampedArray | Uint8Array): number {
  if (one.length !== other.length || one.length === 0) throw new RangeError('two pictures of one size are needed')
  let sum = 0
  for (let at = 0; at < one.length; at += 4) {
    sum += deltaE(
      convertSrgbToOklab(one[at]!, one[at + 1]!, one[at + 2]!),
      convertSrgbToOklab(other[at]!, other[at + 1]!, other[at + 2]!),
    )
  }
  return sum / (one.length / 4)
}

/**
 * How well a loop joins: the difference of its last and first frame over the median difference of consecutive
 * frames. 1 is perfect, up to 1.2 cannot be seen, above 2 is a visible jump; null for a loop without motion.
 * Source: docs/method.md, "Seam".
 */
export function seamRatio(joinDifference: number, stepDifferences: readonly number[]): number | null {
  const sorted = [...stepDifferences].sort((a, b) => a - b)
  const median = sorted.length === 0 ? 0 : (sorted[sorted.length >> 1]! + sorted[(sorted.length - 1) >> 1]!) / 2
  return median < 0.01 ? null : joinDifference / median
}
