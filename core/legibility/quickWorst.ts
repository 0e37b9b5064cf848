import type { WorstPlace } from '../scrim/frameContrast'
import type { CopyMeter, CopySamples } from './CopySamples'

/** Frames of a text that are measured before the rest: bounds have ranked them. */
const USUAL_MOST = 4

/**
 * The one of some frames in which a text is hardest to read, without measuring all of them: those
 * with the least bounds are measured until no bound is below what was found (it is the worst of
 * all), or `most` were. Null where the trace lacks some of the text.
 */
export function quickWorst(
  meter: CopyMeter,
  samples: CopySamples,
  frames: readonly number[],
  most = USUAL_MOST,
): { readonly frame: number; readonly place: WorstPlace } | null {
  if (!samples.places) return null
  const ranked = frames
    .map((frame) => ({ frame, bound: meter.bound(samples, frame) }))
    .sort((one, other) => one.bound - other.bound)
  let worst: { readonly frame: number; readonly place: WorstPlace } | null = null
  for (const { frame, bound } of ranked.slice(0, most)) {
    if (worst && bound >= worst.place.ratio) break
    const place = meter.measure(samples, frame)
    if (place && (!worst || place.ratio < worst.place.ratio)) worst = { frame, place }
  }
  return worst
}
