/** Whether all copy has what it needs at a strength, 0 to 1. */
export interface StrengthTests {
  /** At the moments at which it has failed so far: takes little time. */
  readonly known: (strength: number) => Promise<boolean>
  /** At all moments. Those at which it fails are known from then on. */
  readonly whole: (strength: number) => Promise<boolean>
}

const STEPS = 100
/** Contrast need not rise with strength: what serves over so many steps is not passed over. */
const STRIDE = 10

/**
 * The weakest strength of a scrim, to a hundredth, at which all copy has what it needs: a hundredth
 * less is not enough. Null where none is found. `onTry` is told each strength that is looked at.
 * Source: docs/method.md (contrast).
 */
export async function weakestStrength(
  { known, whole }: StrengthTests,
  onTry: (strength: number) => void = () => undefined,
): Promise<number | null> {
  const ask = (test: (strength: number) => Promise<boolean>, step: number): Promise<boolean> => {
    onTry(step / STEPS)
    return test(step / STEPS)
  }
  let high = 0
  for (;;) {
    if (!(await ask(known, high))) {
      const next = await firstAfter(high, (step) => ask(known, step))
      if (next === null) return null
      high = next
    }
    if (await ask(whole, high)) break
    // Where it has just failed it is known; if it passes there all the same, it goes on.
    if (await ask(known, high)) high += 1
    if (high > STEPS) return null
  }
  while (high > 0 && (await ask(known, high - 1)) && (await ask(whole, high - 1))) high -= 1
  return high / STEPS
}

/**
 * The strength, to a hundredth, from which copy fails again, though it is read at a weaker one;
 * null where it is read at all of the `looks` that are spread up to full strength. Contrast does
 * not rise with strength in some blend modes, and where a layer's colour is near the copy's.
 * (Without blending, one look is enough: all between what is read and what is read at full strength
 * is.)
 */
export async function failsAgainFrom(
  { known, whole }: StrengthTests,
  enough: number,
  looks: number,
  onTry: (strength: number) => void = () => undefined,
): Promise<number | null> {
  const low = Math.round(enough * STEPS)
  const passes = async (step: number): Promise<boolean> => {
    onTry(step / STEPS)
    // Other moments may fail at more strength than at less.
    return (await known(step / STEPS)) && (await whole(step / STEPS))
  }
  let least = low
  for (let look = 1; look <= looks; look++) {
    const step = Math.round(low + ((STEPS - low) * look) / looks)
    if (step <= least) continue
    if (await passes(step)) {
      least = step
      continue
    }
    let high = step
    while (high - least > 1) {
      const middle = (least + high) >> 1
      onTry(middle / STEPS)
      if (await known(middle / STEPS)) least = middle
      else high = middle
    }
    return high / STEPS
  }
  return null
}

/** The first step after one that fails which passes; null for none. */
async function firstAfter(
  failing: number,
  passes: (step: number) => Promise<boolean>,
): Promise<number | null> {
  let low = failing
  let stride = 1
  let high = Math.min(STEPS, low + stride)
  while (!(await passes(high))) {
    if (high === STEPS) return null
    low = high
    stride = Math.min(STRIDE, 2 * stride)
    high = Math.min(STEPS, low + stride)
  }
  while (high - low > 1) {
    const middle = (low + high) >> 1
    if (await passes(middle)) high = middle
    else low = middle
  }
  return high
}
