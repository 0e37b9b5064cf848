/** Easings that transitions offer, as CSS names them. */
export const EASINGS = ['linear', 'ease-in', 'ease-out', 'ease-in-out'] as const
export type Easing = (typeof EASINGS)[number]

/** Handles of each curve. Source: CSS Easing Functions Level 1, clause 2.2. */
const CURVES: Readonly<Record<Easing, readonly [number, number]>> = {
  linear: [1 / 3, 2 / 3],
  'ease-in': [0.42, 1],
  'ease-out': [0, 0.58],
  'ease-in-out': [0.42, 0.58],
}

/** How far an eased motion has come at a share of its time, both 0 to 1, as CSS computes it. */
export function eased(easing: Easing, time: number): number {
  if (time <= 0 || time >= 1) return time <= 0 ? 0 : 1
  if (easing === 'linear') return time
  const [from, to] = CURVES[easing]
  // The curve (from, 0, to, 1): its parameter is found by bisection.
  const along = (s: number, first: number, second: number): number =>
    3 * (1 - s) ** 2 * s * first + 3 * (1 - s) * s ** 2 * second + s ** 3
  let [low, high] = [0, 1]
  for (let step = 0; step < 30; step++) {
    const middle = (low + high) / 2
    if (along(middle, from, to) < time) low = middle
    else high = middle
  }
  return along((low + high) / 2, 0, 1)
}

/** `ease-in-out` as CSS computes it, 0 to 1. */
export const easeInOut = (time: number): number => eased('ease-in-out', time)
