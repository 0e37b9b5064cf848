import type { Layer } from '../../core/scrim/scrimAt'

/** The channels of a computed colour, 0 to 255, and its opacity, 0 to 1. */
export function layerOf(computed: string): Layer {
  const [r = 0, g = 0, b = 0, alpha = 1] = (computed.match(/[\d.]+/g) ?? []).map(Number)
  return { r, g, b, alpha }
}
