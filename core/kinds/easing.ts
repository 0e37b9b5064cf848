/** `ease-in-out` as CSS computes it, 0 to 1. Source: CSS Easing Functions Level 1, clause 2.2. */
export function easeInOut(time: number): number {
  // The curve (0.42, 0, 0.58, 1): its parameter is found by bisection.
  const along = (s: number, first: number, second: number): number =>
    3 * (1 - s) ** 2 * s * first + 3 * (1 - s) * s ** 2 * second + s ** 3
  let [low, high] = [0, 1]
  for (let step = 0; step < 30; step++) {
    const middle = (low + high) / 2
    if (along(middle, 0.42, 0.58) < time) low = middle
    else high = middle
  }
  return along((low + high) / 2, 0, 1)
}
