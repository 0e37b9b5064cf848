import type { ProbeCurve } from '../ProbeCurve'
import type { Encoder } from './Encoder'

/** Slopes were measured up to this change from frame to frame. */
const MOST_CHANGE = 0.4

/** How much changes from frame to frame, by a probe's curve at the encoder's middle setting. */
export const changeBy = (curve: ProbeCurve, { probed }: Pick<Encoder, 'probed'>): number =>
  curve.change(probed[probed.length >> 1]!)

/** How fast bytes fall over settings at full effort, against a probe's curve. */
export function slopeShare(curve: ProbeCurve, encoder: Pick<Encoder, 'probed' | 'slope'>): number {
  const { still, byChange } = encoder.slope
  return still + byChange * Math.min(MOST_CHANGE, changeBy(curve, encoder))
}
