import { parseHex, type Rgb } from '../picture/srgb'
import type { Scrim, ScrimLayer } from './Scrim'

/** A colour with its opacity, 0 to 1. */
export interface Layer extends Rgb {
  readonly alpha: number
}

/**
 * The scrim's colour and opacity at a point of the region, `x` and `y` in pixels of a `width` ×
 * `height` box: all of its layers as one. Gradients run as CSS draws them: along the angle from
 * corner to corner, or from the centre to the radius, in premultiplied sRGB. Source: CSS Images
 * Module Level 3, clauses 3.1.1, 3.2.1 and 3.4.
 */
export const scrimAt = (scrim: Scrim, x: number, y: number, width: number, height: number): Layer =>
  scrimOver(scrim, width, height)(x, y)

/** The same for many points of a region: what all of them share is worked out once. */
export function scrimOver(
  { layers }: Scrim,
  width: number,
  height: number,
): (x: number, y: number) => Layer {
  const [first, ...others] = layers.map((layer) => layerOver(layer, width, height))
  if (!first) return () => CLEAR
  if (others.length === 0) return first
  return (x, y) => others.reduce((under, layerAt) => stacked(layerAt(x, y), under), first(x, y))
}

const CLEAR: Layer = { r: 0, g: 0, b: 0, alpha: 0 }

/** Two layers as one. Source: W3C Compositing and Blending Level 1, clause 5.1. */
function stacked(over: Layer, under: Layer): Layer {
  const below = under.alpha * (1 - over.alpha)
  const alpha = over.alpha + below
  if (alpha === 0) return CLEAR
  const mix = (top: number, bottom: number): number => (top * over.alpha + bottom * below) / alpha
  return { r: mix(over.r, under.r), g: mix(over.g, under.g), b: mix(over.b, under.b), alpha }
}

/** How far along a layer a point is: below 0 and above 1 beyond its ends. */
function alongOf(
  { shape, angleDeg, centre, radius }: ScrimLayer,
  width: number,
  height: number,
): (x: number, y: number) => number {
  if (shape === 'radial')
    return (x, y) => Math.hypot(x / width - centre.x, y / height - centre.y) / radius
  const angle = (angleDeg * Math.PI) / 180
  const [sine, cosine] = [Math.sin(angle), Math.cos(angle)]
  const length = Math.abs(width * sine) + Math.abs(height * cosine)
  return (x, y) => ((x - width / 2) * sine - (y - height / 2) * cosine) / length + 0.5
}

function layerOver(
  layer: ScrimLayer,
  width: number,
  height: number,
): (x: number, y: number) => Layer {
  const { shape, strength } = layer
  if (shape === 'even') {
    const even = { ...parseHex(layer.stops[0]!.color), alpha: strength }
    return () => even
  }
  const stops = layer.stops.map(({ at, color, strength: own }) => ({
    at,
    ...parseHex(color),
    alpha: own * strength,
  }))
  const [first, last] = [stops[0]!, stops.at(-1)!]
  const along = alongOf(layer, width, height)
  return (x, y) => {
    const at = along(x, y)
    if (at <= first.at) return first
    const next = stops.findIndex((stop) => stop.at > at)
    if (next < 0) return last
    const [from, to] = [stops[next - 1]!, stops[next]!]
    const t = (at - from.at) / (to.at - from.at)
    const alpha = from.alpha + (to.alpha - from.alpha) * t
    if (alpha === 0) return CLEAR
    const mix = (a: number, b: number): number =>
      (a * from.alpha * (1 - t) + b * to.alpha * t) / alpha
    return { r: mix(from.r, to.r), g: mix(from.g, to.g), b: mix(from.b, to.b), alpha }
  }
}

/** The region is looked at in so many places each way. */
const LOOKS = 12

/** How much of what is behind it a scrim hides, 0 to 1: the mean of its opacity. */
export function meanStrength(scrim: Scrim): number {
  const layerAt = scrimOver(scrim, LOOKS, LOOKS)
  let sum = 0
  for (let y = 0; y < LOOKS; y++)
    for (let x = 0; x < LOOKS; x++) sum += layerAt(x + 0.5, y + 0.5).alpha
  return sum / LOOKS ** 2
}

/**
 * `layer` composited over `ground`, normal blending. Source: W3C Compositing and Blending Level 1,
 * clause 5.1.
 */
export function compositeOver(layer: Layer, ground: Rgb): Rgb {
  const mix = (top: number, under: number): number => top * layer.alpha + under * (1 - layer.alpha)
  return { r: mix(layer.r, ground.r), g: mix(layer.g, ground.g), b: mix(layer.b, ground.b) }
}
