/** The golden ratio's part behind the point: its multiples fall in no step with anything. */
const GOLDEN = 0.618_033_988_749_895

/**
 * The frames of a loop that are compared where not all are: the first, the last, and one in each of
 * about `most` equal parts, at a different position in each. Encoders boost frames at regular
 * intervals: a regular sample would see only those, or none.
 */
export function comparedFrames(count: number, max: number): ReadonlySet<number> {
  if (count <= max) return new Set(Array.from({ length: count }, (_, k) => k))
  const places = Array.from({ length: max }, (_, index) =>
    Math.floor(((index + ((index * GOLDEN) % 1)) * count) / max),
  )
  return new Set([0, ...places, count - 1])
}
