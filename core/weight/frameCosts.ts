/** A part of a loop, frames `from` to before `to`, and what it takes. */
export interface LoopPart {
  readonly from: number
  readonly to: number
  readonly bytesPerSecond: number
}

/**
 * Bytes a second of each part of a loop, `each` parts to a second; the last part may be shorter.
 */
export function bytesEachPart(
  sizes: readonly number[],
  framesPerSecond: number,
  each: number,
): LoopPart[] {
  const length = Math.max(1, Math.round(framesPerSecond / each))
  return Array.from({ length: Math.ceil(sizes.length / length) }, (_, index) => {
    const from = index * length
    const to = Math.min(sizes.length, from + length)
    const bytes = sizes.slice(from, to).reduce((sum, size) => sum + size, 0)
    return { from, to, bytesPerSecond: (bytes * framesPerSecond) / (to - from) }
  })
}

/** The frames of a loop that take most, the heaviest first. */
export function costliestFrames(
  sizes: readonly number[],
  count: number,
): { readonly k: number; readonly bytes: number }[] {
  return sizes
    .map((bytes, k) => ({ k, bytes }))
    .sort((a, b) => b.bytes - a.bytes || a.k - b.k)
    .slice(0, count)
}
