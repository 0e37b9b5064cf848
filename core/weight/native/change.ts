import type { ProbeCurve } from '../ProbeCurve'
import type { Encoder } from './Encoder'

/** Slopes were measured up to this change from frame to frame. */
const MOST_CHANGE = 0.4
/**
 * Frames below this, in bits a pixel, change little, however small the first one is: a clip may
 * fade in from black. Measured: up to 0.025 on calm clips, 0.1 and more on busy ones.
 */
const LEAST_BITS = 0.05

/**
 * How much changes from frame to frame, by a probe's curve at the encoder's middle setting: bytes
 * of a frame against those of a key frame, 0 where that is next to nothing.
 */
export function changeBy(
  curve: ProbeCurve,
  { probed }: Pick<Encoder, 'probed'>,
  { width, height }: { readonly width: number; readonly height: number },
): number {
  const setting = probed[probed.length >> 1]!
  const frameBytes = curve.frameBytes(setting)
  return (frameBytes * 8) / (width * height) < LEAST_BITS ? 0 : frameBytes / curve.keyBytes(setting)
}

/** How fast bytes fall over settings at full effort, against a probe's curve. */
export const slopeShare = ({ slope }: Pick<Encoder, 'slope'>, change: number): number =>
  slope.still + slope.byChange * Math.min(MOST_CHANGE, change)
