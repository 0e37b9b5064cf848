/*
 * Arithmetic that gives the same bits in every engine: sums, products, whole numbers of 32 bits and
 * `Math.floor`. Engines disagree on the last bits of `Math.sin` and the like; the linter refuses
 * them in this folder.
 */

/**
 * The sine of an angle in turns: a parabola through the extremes and zeros of each half turn,
 * mended by its own square. Never more than 0.0011 from the true sine.
 */
export function sine(turns: number): number {
  const share = turns - Math.floor(turns)
  const angle = share < 0.5 ? share : share - 1
  const parabola = 8 * angle - 16 * angle * Math.abs(angle)
  return 0.775 * parabola + 0.225 * parabola * Math.abs(parabola)
}

/** Two odd numbers without a pattern: the golden ratio's fraction, and a mixer's multiplier. */
const A = 0x9e3779b1
const B = 0x85ebca6b

/**
 * A number from 0 up to but not including 1 that follows from three whole numbers: a seed, an
 * element and what it is for. Neighbours have nothing in common. The steps are those of integer
 * hashes by multiplication and shifted exclusive or.
 */
export function chance(seed: number, element: number, use: number): number {
  let bits = Math.imul(seed ^ Math.imul(element + 1, A), B)
  bits = Math.imul(bits ^ Math.imul(use + 1, A) ^ (bits >>> 15), B)
  bits = Math.imul(bits ^ (bits >>> 13), A)
  return ((bits ^ (bits >>> 16)) >>> 0) / 4294967296
}
