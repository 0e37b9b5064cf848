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
  let worst: { readonly frame: number; readonly place: WorstPlace } | null = null
  for (const { frame, bound } of leastBounds(meter, samples, frames, most)) {
    if (worst && bound >= worst.place.ratio) break
    const place = meter.measure(samples, frame)
    if (place && (!worst || place.ratio < worst.place.ratio)) worst = { frame, place }
  }
  return worst
}

/** A frame and what its contrast is at least. */
interface Bound {
  readonly frame: number
  readonly bound: number
}

/** The frames with the least bounds, least first. */
function leastBounds(
  meter: CopyMeter,
  samples: CopySamples,
  frames: readonly number[],
  most: number,
): readonly Bound[] {
  const least: Bound[] = []
  for (const frame of frames) {
    const bound = meter.bound(samples, frame)
    if (least.length === most && bound >= least[most - 1]!.bound) continue
    const place = least.findLastIndex((each) => each.bound <= bound) + 1
    least.splice(place, 0, { frame, bound })
    if (least.length > most) least.pop()
  }
  return least
}
