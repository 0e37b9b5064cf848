/**
 * A generator of numbers in [0, 1) from a seed, the same on every machine. Source: Mulberry32, T.
 * Ettinger (public domain).
 */
export function seeded(seed: number): () => number {
  let state = seed >>> 0
  return () => {
    state = (state + 0x6d2b79f5) >>> 0
    let mixed = Math.imul(state ^ (state >>> 15), 1 | state)
    mixed = (mixed + Math.imul(mixed ^ (mixed >>> 7), 61 | mixed)) ^ mixed
    return ((mixed ^ (mixed >>> 14)) >>> 0) / 2 ** 32
  }
}

/**
 * A smooth hilly line: a sum of sines whose phases come from the seed. Height in [−1, 1], `x` in
 * widths.
 */
export function ridge(seed: number): (x: number) => number {
  const random = seeded(seed)
  const waves = Array.from({ length: 6 }, (_, index) => ({
    frequency: 1.3 * 1.75 ** index,
    phase: random() * 20,
    height: 0.55 ** index,
  }))
  const max = waves.reduce((sum, wave) => sum + wave.height, 0)
  return (x) =>
    waves.reduce(
      (sum, wave) => sum + wave.height * Math.sin(x * wave.frequency * Math.PI + wave.phase),
      0,
    ) / max
}
