/** One encode that was made: the bit rate asked for and the bytes that came. */
export interface Attempt {
  readonly bitsPerSecond: number
  readonly bytes: number
}

/** What to do after the attempts so far. */
export type RateDecision =
  | { readonly kind: 'encode'; readonly bitsPerSecond: number }
  | { readonly kind: 'keep'; readonly index: number }

/** The most attempts: method.md measured that corrected rates land within 2.4 % in up to three. */
const MOST_PASSES = 3
/** A first guess aims a little low, since over budget costs another pass and under costs nothing. */
const AIM = 0.97
/** Bits a pixel and frame that suffice for nearly any material; spending more is seen by nobody. */
const MOST_BITS_PER_PIXEL = { vp9: 0.07, h264: 0.22 } as const

/** The bit rate above which more bytes are not worth their weight, in bits a second. */
export function ceilingRate(family: keyof typeof MOST_BITS_PER_PIXEL, width: number, height: number, framesPerSecond: number): number {
  return width * height * framesPerSecond * MOST_BITS_PER_PIXEL[family]
}

/**
 * The next step of a rate control that knows nothing of the encoder: corrects the rate by budget over actual bytes.
 * `budgetBytes` holds for the clip alone. Keeps the first attempt inside the budget that is near it or at the ceiling;
 * after three, the largest inside, else the smallest. Source: docs/method.md, "What the platform does", rate control.
 */
export function nextRate(attempts: readonly Attempt[], budgetBytes: number, seconds: number, ceiling: number): RateDecision {
  const cap = (rate: number): number => Math.round(Math.min(ceiling, Math.max(20_000, rate)))
  const last = attempts[attempts.length - 1]
  if (!last) return { kind: 'encode', bitsPerSecond: cap((budgetBytes * 8 * AIM) / seconds) }
  const inside = last.bytes <= budgetBytes
  const nearEnough = last.bytes >= budgetBytes * 0.9
  // An encoder that leaves a quarter of its bits unspent has reached its best quality: more bits change nothing.
  const saturated = last.bytes < (last.bitsPerSecond * seconds * 0.75) / 8
  if (inside && (nearEnough || saturated || last.bitsPerSecond >= ceiling * 0.999)) return { kind: 'keep', index: attempts.length - 1 }
  const next = cap((last.bitsPerSecond * budgetBytes * AIM) / last.bytes)
  const tried = attempts.some((attempt) => Math.abs(attempt.bitsPerSecond - next) < next * 0.01)
  if (attempts.length < MOST_PASSES && !tried) return { kind: 'encode', bitsPerSecond: next }
  return { kind: 'keep', index: bestOf(attempts, budgetBytes) }
}

function bestOf(attempts: readonly Attempt[], budgetBytes: number): number {
  const fitting = attempts.map((attempt, index) => ({ ...attempt, index })).sort((a, b) => b.bytes - a.bytes)
  return (fitting.find((attempt) => attempt.bytes <= budgetBytes) ?? fitting[fitting.length - 1]!).index
}
