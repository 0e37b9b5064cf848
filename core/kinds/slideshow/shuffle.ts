/**
 * The numbers 0 to `count` − 1 in an order that follows from a seed: the same everywhere, since
 * only whole numbers of 32 bits are computed (xorshift, Marsaglia 2003; Fisher and Yates). `first`
 * stays in front: it paints first in every order. `notSecond` is not the one after it, so that a
 * new cycle does not show again what the last one ended with.
 */
export function shuffled(
  count: number,
  seed: number,
  { first = 0, notSecond = null }: { first?: number; notSecond?: number | null } = {},
): number[] {
  let state = Math.imul(seed | 0, 0x9e3779b1) ^ 0x6d2b79f5 || 1
  const next = (below: number): number => {
    state ^= state << 13
    state ^= state >>> 17
    state ^= state << 5
    return (state >>> 0) % below
  }
  const others = Array.from({ length: count }, (_, index) => index).filter((each) => each !== first)
  for (let index = others.length - 1; index > 0; index--) {
    const other = next(index + 1)
    ;[others[index], others[other]] = [others[other]!, others[index]!]
  }
  if (others.length > 1 && others[0] === notSecond)
    [others[0], others[others.length - 1]] = [others[others.length - 1]!, others[0]!]
  return count > 0 ? [first, ...others] : []
}
