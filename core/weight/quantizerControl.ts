/** One encode at a constant quantizer: what was asked for, and the bytes that came. */
export interface QuantizerAttempt {
  /** 0 is the finest. */
  readonly quantizer: number
  readonly bytes: number
}

/** What to do after the attempts so far. */
export type QuantizerDecision =
  | { readonly kind: 'encode'; readonly quantizer: number }
  | { readonly kind: 'keep'; readonly index: number }

const MOST_PASSES = 3
/** A step of this size halves the bytes, about: a first guess, corrected by what the clip itself shows from the second pass on. */
const HALVING_STEP = 44
/** A guess aims a little low: over budget costs another pass. */
const AIM = 0.95
/** Inside the budget and so near it, a clip is not made again for the rest. */
const NEAR_ENOUGH = 0.85

/**
 * The next step of a control by constant quantizer, which keeps every frame of a loop equally fine, so that nothing pulses at the join. Begins with
 * `finest`, the quality beyond which nobody sees a difference; over `budgetBytes` it goes coarser along an exponential curve fitted to the last two attempts. Keeps
 * the finest attempt within the budget; where none fits after three, the smallest.
 */
export function nextQuantizer(attempts: readonly QuantizerAttempt[], budgetBytes: number, finest: number, coarsest: number): QuantizerDecision {
  const last = attempts[attempts.length - 1]
  if (!last) return { kind: 'encode', quantizer: finest }
  const inside = last.bytes <= budgetBytes
  if (inside && (last.quantizer <= finest || last.bytes >= budgetBytes * NEAR_ENOUGH)) return { kind: 'keep', index: attempts.length - 1 }
  const next = Math.min(coarsest, Math.max(finest, Math.round(last.quantizer + halvingStep(attempts) * Math.log2(last.bytes / (budgetBytes * AIM)))))
  const tried = attempts.some((attempt) => attempt.quantizer === next)
  if (attempts.length < MOST_PASSES && !tried) return { kind: 'encode', quantizer: next }
  return { kind: 'keep', index: bestOf(attempts, budgetBytes) }
}

/** The quantizer steps that halve the bytes of this clip, from the last two attempts. */
function halvingStep(attempts: readonly QuantizerAttempt[]): number {
  const [before, last] = attempts.slice(-2)
  if (!before || !last || before.bytes === last.bytes || before.quantizer === last.quantizer) return HALVING_STEP
  const step = (last.quantizer - before.quantizer) / Math.log2(before.bytes / last.bytes)
  return step > 4 && step < 400 ? step : HALVING_STEP
}

function bestOf(attempts: readonly QuantizerAttempt[], budgetBytes: number): number {
  const bySize = attempts.map((attempt, index) => ({ ...attempt, index })).sort((a, b) => b.bytes - a.bytes)
  return (bySize.find((attempt) => attempt.bytes <= budgetBytes) ?? bySize[bySize.length - 1]!).index
}
