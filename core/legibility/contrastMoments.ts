import { toNumber, type Fraction } from '../Fraction'

/** A moment of a backdrop: which frame of its base is seen, and when its particles are. */
export interface Moment {
  readonly frame: number
  readonly seconds: number
}

/** More moments of what is drawn live tell nothing more: particles move on by little in each. */
const MAX_DRAWN = 240

/**
 * Every moment at which something else is seen behind copy: each output frame; where the base
 * stands still, each picture of a period of its particles. `particles` are those drawn live.
 */
export function contrastMoments(
  { frames, frameRate }: { readonly frames: number; readonly frameRate: Fraction },
  particles: { readonly period: number; readonly frameRate: number } | null,
): Moment[] {
  if (frames > 1)
    return Array.from({ length: frames }, (_, frame) => ({
      frame,
      seconds: frame / toNumber(frameRate),
    }))
  if (!particles) return [{ frame: 0, seconds: 0 }]
  const { period } = particles
  const count = Math.min(MAX_DRAWN, Math.max(1, Math.round(period * particles.frameRate)))
  return Array.from({ length: count }, (_, index) => ({
    frame: 0,
    seconds: (index * period) / count,
  }))
}
