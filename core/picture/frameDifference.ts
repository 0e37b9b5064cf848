import { convertSrgbToOklab, deltaE } from './convertSrgbToOklab'

/**
 * Mean ΔE (OKLab × 100) of two RGBA pictures of the same size. 0 is the same picture. Throws
 * RangeError for unequal sizes.
 */
export function frameDifference(
  one: Uint8ClampedArray | Uint8Array,
  other: Uint8ClampedArray | Uint8Array,
): number {
  if (one.length !== other.length || one.length === 0)
    throw new RangeError('two pictures of one size are needed')
  let sum = 0
  for (let at = 0; at < one.length; at += 4) {
    sum += deltaE(
      convertSrgbToOklab(one[at]!, one[at + 1]!, one[at + 2]!),
      convertSrgbToOklab(other[at]!, other[at + 1]!, other[at + 2]!),
    )
  }
  return sum / (one.length / 4)
}

/** Two frames that differ by less (mean ΔE) are the same frame shown twice. */
const SAME_FRAME = 0.01
/** A loop moves if at least this share of its steps does. */
const MIN_MOVING_SHARE = 0.05

/**
 * The median step of a loop, over those steps that change anything: slow motion and clips converted
 * from a lower rate show many frames twice, which says nothing of how large a step of the motion
 * is. Null for a loop without motion.
 */
export function medianStep(steps: readonly number[]): number | null {
  const moving = steps.filter((step) => step >= SAME_FRAME).sort((a, b) => a - b)
  if (moving.length === 0 || moving.length < steps.length * MIN_MOVING_SHARE) return null
  return (moving[moving.length >> 1]! + moving[(moving.length - 1) >> 1]!) / 2
}

/**
 * How well a loop joins: the difference of its last and first frame over the median difference of
 * consecutive frames. 1 is perfect, up to 1.2 cannot be seen, above 2 is a visible jump; null for a
 * loop without motion. Source: docs/method.md (seam).
 */
export function seamRatio(
  seamDifference: number,
  stepDifferences: readonly number[],
): number | null {
  const median = medianStep(stepDifferences)
  return median === null ? null : seamDifference / median
}
