/** Whether all copy has what it needs at a strength, 0 to 1. */
export interface StrengthTests {
  /** From a trace: may be wrong near the limit. */
  readonly quick: (strength: number) => Promise<boolean>
  readonly exact: (strength: number) => Promise<boolean>
}

const STEPS = 100
/** Contrast need not rise with strength: the first part of the way that serves is looked for. */
const STRIDE = 10

/**
 * The weakest strength of a scrim, to a hundredth, at which all copy has what it needs: a hundredth
 * less is not enough. Null where none is found. `onTry` is told each strength that is looked at.
 * Source: docs/method.md (contrast).
 */
export async function weakestStrength(
  { quick, exact }: StrengthTests,
  onTry: (strength: number) => void = () => undefined,
): Promise<number | null> {
  const ask = (test: (strength: number) => Promise<boolean>, step: number): Promise<boolean> => {
    onTry(step / STEPS)
    return test(step / STEPS)
  }
  let [low, high] = [-1, 0]
  while (high < STEPS && !(await ask(quick, high))) [low, high] = [high, high + STRIDE]
  while (high - low > 1) {
    const middle = (low + high) >> 1
    if (await ask(quick, middle)) high = middle
    else low = middle
  }
  if (await ask(exact, high)) {
    while (high > 0 && (await ask(exact, high - 1))) high -= 1
    return high / STEPS
  }
  while (++high <= STEPS) if (await ask(exact, high)) return high / STEPS
  return null
}
