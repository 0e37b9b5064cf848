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
}

/**
 * Bisects an encoder's quality for the coarsest step that is good enough, or, if that exceeds the
 * maximum bytes, the finest that fits. Resolves to the step kept; if nothing fits, the coarsest.
 * Tries each step at most once: about log2 of the steps.
 */
export async function searchQuality<T extends QualityTry>(
  encode: (step: number) => Promise<T>,
  { maxBytes, enoughSsim, steps }: QualityGoal,
): Promise<T> {
  let low = 0
  let high = steps - 1
  let best: T | null = null
  let coarsest: T | null = null
  while (low <= high) {
    const step = (low + high) >> 1
    const tried = await encode(step)
    if (!coarsest || tried.step < coarsest.step) coarsest = tried
    const fits = tried.bytes <= maxBytes
    const enough = tried.ssim >= enoughSsim
    if (fits && (!best || betterOf(tried, best, enoughSsim))) best = tried
    if (!fits || enough) high = step - 1
    else low = step + 1
  }
  return best ?? coarsest!
}

/** Of two that fit, the coarser one that is good enough, else the finer one. */
function betterOf(one: QualityTry, other: QualityTry, enoughSsim: number): boolean {
  const [oneEnough, otherEnough] = [one.ssim >= enoughSsim, other.ssim >= enoughSsim]
  if (oneEnough !== otherEnough) return oneEnough
  return oneEnough ? one.step < other.step : one.step > other.step
}
