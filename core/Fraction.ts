/** A positive rational number, such as a frame rate of 24000/1001. */
export interface Fraction {
  readonly num: number
  readonly den: number
}

/** A fraction as a plain number. */
export function toNumber({ num, den }: Fraction): number {
  return num / den
}

const BROADCAST_RATES: readonly Fraction[] = [
  { num: 24000, den: 1001 },
  { num: 30000, den: 1001 },
  { num: 60000, den: 1001 },
]

/**
 * The fraction that a measured frame rate most likely is: whole, broadcast (…/1001), or
 * thousandths.
 */
export function nearestRate(framesPerSecond: number): Fraction {
  const whole = Math.round(framesPerSecond)
  if (whole > 0 && Math.abs(framesPerSecond - whole) < 0.01) return { num: whole, den: 1 }
  const broadcast = BROADCAST_RATES.find(
    (rate) => Math.abs(toNumber(rate) - framesPerSecond) < 0.01,
  )
  return broadcast ?? { num: Math.max(1, Math.round(framesPerSecond * 1000)), den: 1000 }
}

/** The output rate offered first: the source's own, halved until it is at most 30. */
export function defaultOutputRate(sourceFps: number): Fraction {
  let rate = nearestRate(sourceFps)
  while (toNumber(rate) > 30.5) rate = { num: rate.num, den: rate.den * 2 }
  return rate
}
