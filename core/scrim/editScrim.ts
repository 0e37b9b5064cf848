import { addedStop, movedStop, placeOf, widestGap } from '../picture/gradientStops'
import { formatHex } from '../picture/srgb'
import { evenLayer, MAX_SCRIM_LAYERS, MAX_SCRIM_STOPS, type Scrim, type ScrimLayer } from './Scrim'
import { layersOver } from './scrimAt'

/** How strong a layer is that is added: seen at once, and not yet hiding. */
const FIRST_STRENGTH = 0.35

/**
 * A scrim with one more layer in front, of the colour of the front one; the same scrim where it has
 * as many as it may.
 */
export function addLayer(scrim: Scrim): Scrim {
  const { layers } = scrim
  if (layers.length >= MAX_SCRIM_LAYERS) return scrim
  const color = layers.at(-1)?.stops[0]!.color ?? '#14101c'
  return { layers: [...layers, evenLayer(color, FIRST_STRENGTH)] }
}

/** A scrim without a layer. */
export const removeLayer = ({ layers }: Scrim, index: number): Scrim => ({
  layers: layers.toSpliced(index, 1),
})

/** A scrim with a layer in another place; the same scrim where there is none. */
export function moveLayer(scrim: Scrim, from: number, to: number): Scrim {
  const { layers } = scrim
  if (to < 0 || to >= layers.length) return scrim
  return { layers: layers.toSpliced(from, 1).toSpliced(to, 0, layers[from]!) }
}

/** A layer with a stop in another place, never past its neighbours. */
export const moveScrimStop = (layer: ScrimLayer, index: number, at: number): ScrimLayer => ({
  ...layer,
  stops: movedStop(layer.stops, index, at),
})

/**
 * A layer with one more stop in the widest gap, where it changes nothing yet; the same layer where
 * it has as many as it may.
 */
export function addScrimStop(layer: ScrimLayer): ScrimLayer {
  if (layer.stops.length >= MAX_SCRIM_STOPS) return layer
  const at = widestGap(layer.stops)
  // Along a region of one pixel's height, places are shares of its width.
  const along: ScrimLayer = { ...layer, shape: 'linear', angleDeg: 90, strength: 1 }
  const { alpha, ...color } = layersOver([along], 1, 1)(at, 0.5)
  const stop = { at, color: formatHex(color), strength: placeOf(alpha) }
  return { ...layer, stops: addedStop(layer.stops, stop) }
}

/** A layer without a stop; the same layer where it has two only. */
export const removeScrimStop = (layer: ScrimLayer, index: number): ScrimLayer =>
  layer.stops.length <= 2 ? layer : { ...layer, stops: layer.stops.toSpliced(index, 1) }
