import type { Layer } from './scrimAt'

/** What lies between a scrim and what is read: behind a control's sign, or around letters. */
export interface Plate {
  readonly layer: Layer
  /**
   * Of what is not equally opaque everywhere around letters: its opacities at equal shares of the
   * places next to them, the least first. The layer has that of the 5th percentile.
   */
  readonly opacities?: readonly number[]
}

/** The fraction of the golden ratio: its multiples are spread evenly, however many there are. */
const SPREAD = (Math.sqrt(5) - 1) / 2

/**
 * A plate at one of many places that are looked at in turn. Letters are everywhere, so that any
 * opacity of their surroundings may meet any ground: each place in turn has another one.
 */
export function plateAt({ layer, opacities }: Plate, place: number): Layer {
  if (!opacities || opacities.length === 0) return layer
  const share = (place * SPREAD) % 1
  return { ...layer, alpha: opacities[Math.floor(share * opacities.length)]! }
}
