/** One attempt of an encoder: the setting and the result. */
export interface QualityTry {
  /** The encoder's own setting, as a step of its range: higher is finer and heavier. */
  readonly step: number
  readonly bytes: number
  /** Structural similarity to the picture that was encoded. */
  readonly ssim: number
}

/** What a search aims at. */
export interface QualityGoal {
  /** Bytes that must not be exceeded where anything fits. */
  readonly maxBytes: number
  /** Finer settings show no visible difference: no bytes are spent on them. */
  readonly enoughSsim: number
  /** Steps of the encoder's range: 0 to `steps − 1`. */
  readonly steps: number
  /** Where the search begins: the outcome for a picture like this one. */
  readonly near?: number
}

/**
 * Bisects an encoder's quality for the coarsest step that is good enough, or, if that exceeds the
 * maximum bytes, the finest that fits. Resolves to the step kept; if nothing fits, the coarsest.
 * Tries each step at most once: about log2 of the steps, or, where it begins near the outcome,
 * about twice log2 of how far it is off.
 */
export async function searchQuality<T extends QualityTry>(
  encode: (step: number) => Promise<T>,
  { maxBytes, enoughSsim, steps, near }: QualityGoal,
): Promise<T> {
  let low = 0
  let high = steps - 1
  let stride = 1
  let begin = near
  let best: T | null = null
  let coarsest: T | null = null
  while (low <= high) {
    // From where it begins it goes on in growing strides, until the outcome lies between two tries.
    const step = begin === undefined ? (low + high) >> 1 : Math.min(high, Math.max(low, begin))
    const tried = await encode(step)
    if (!coarsest || tried.step < coarsest.step) coarsest = tried
    const fits = tried.bytes <= maxBytes
    const enough = tried.ssim >= enoughSsim
    if (fits && (!best || betterOf(tried, best, enoughSsim))) best = tried
    const isFineEnough = !fits || enough
    if (isFineEnough) high = step - 1
    else low = step + 1
    if (begin !== undefined) {
      const bracketed = isFineEnough ? low > 0 : high < steps - 1
      begin = bracketed ? undefined : step + (isFineEnough ? -stride : stride)
      stride *= 2
    }
  }
  return best ?? coarsest!
}

/** Of two that fit, the coarser one that is good enough, else the finer one. */
function betterOf(one: QualityTry, other: QualityTry, enoughSsim: number): boolean {
  const [oneEnough, otherEnough] = [one.ssim >= enoughSsim, other.ssim >= enoughSsim]
  if (oneEnough !== otherEnough) return oneEnough
  return oneEnough ? one.step < other.step : one.step > other.step
}
