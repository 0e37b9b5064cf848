import { blendOver, isLinear, type BlendMode } from '../picture/blend'
import { parseHex, type Rgb } from '../picture/srgb'
import { coverageAround, tileOfTexture } from '../texture/patterns'
import type { Scrim, ScrimLayer } from './Scrim'

/** A colour with its opacity, 0 to 1. */
export interface Layer extends Rgb {
  readonly alpha: number
}

/** Neighbouring layers that are mixed alike with what is behind them. */
export interface ScrimRun {
  readonly blend: BlendMode
  readonly layers: readonly ScrimLayer[]
}

const isTexture = ({ shape }: ScrimLayer): boolean => shape === 'texture'

/**
 * A scrim from back to front; layers that are not blended are one wherever they touch, but for
 * textures, which are repeated in a size of their own.
 */
export function scrimRuns({ layers }: Scrim): ScrimRun[] {
  const runs: ScrimRun[] = []
  for (const layer of layers) {
    const last = runs.at(-1)
    const isPlain = layer.blend === 'normal' && !isTexture(layer)
    if (isPlain && last?.blend === 'normal' && !last.layers.some(isTexture))
      runs[runs.length - 1] = { ...last, layers: [...last.layers, layer] }
    else runs.push({ blend: layer.blend, layers: [layer] })
  }
  return runs
}

/**
 * The colour and opacity of layers at a point of the region, as one: `x` and `y` in pixels of a
 * `width` × `height` box. Gradients run as CSS draws them: along the angle from corner to corner,
 * or from the centre to the radius, in premultiplied sRGB. Source: CSS Images Module Level 3,
 * clauses 3.1.1, 3.2.1 and 3.4. A texture covers what it covers of a square around the point whose
 * side is `cell`: four CSS pixels, on screens whose device pixels are CSS pixels (on finer ones it
 * is finer, and nearer to its mean).
 */
export function layersOver(
  layers: readonly ScrimLayer[],
  width: number,
  height: number,
  cell = CELL,
): (x: number, y: number) => Layer {
  const [first, ...others] = layers.map((layer) => layerOver(layer, width, height, cell))
  if (!first) return () => CLEAR
  if (others.length === 0) return first
  return (x, y) => others.reduce((under, layerAt) => stacked(layerAt(x, y), under), first(x, y))
}

/** CSS pixels of a cell, each way: what is finer is seen as its mean. */
const CELL = 4

/**
 * What is seen of an opaque ground through a scrim, at a point of a `width` × `height` region;
 * `cell` as in `layersOver`.
 */
export function seenThrough(
  scrim: Scrim,
  width: number,
  height: number,
  cell = CELL,
): (x: number, y: number, ground: Rgb) => Rgb {
  const runs = scrimRuns(scrim).map(({ blend, layers }) => ({
    blend,
    layerAt: layersOver(layers, width, height, cell),
  }))
  return (x, y, ground) =>
    runs.reduce((under, { blend, layerAt }) => blendOver(blend, layerAt(x, y), under), ground)
}

/** Whether pixels may be averaged before a scrim lies over them. */
export const isLinearScrim = ({ layers }: Scrim): boolean =>
  layers.every(({ blend }) => isLinear(blend))

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
  cell: number,
): (x: number, y: number) => Layer {
  const { shape, strength } = layer
  const even = { ...parseHex(layer.stops[0]!.color), alpha: strength }
  if (shape === 'even') return () => even
  if (shape === 'texture') {
    const { texture, angleDeg } = layer
    const pitch = (texture.scale * cell) / CELL
    const coverageAt = coverageAround(tileOfTexture(texture, angleDeg), pitch, cell)
    return (x, y) => ({ ...even, alpha: strength * coverageAt(x, y) })
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

const [BLACK, WHITE] = [0, 255].map((byte) => ({ r: byte, g: byte, b: byte })) as [Rgb, Rgb]

/**
 * How much of what is behind it a scrim hides at a point, 0 to 1: what is lost of the distance
 * between black and white. It is the opacity of a layer that is not blended.
 */
export function hidingAt(
  scrim: Scrim,
  width: number,
  height: number,
): (x: number, y: number) => number {
  const through = seenThrough(scrim, width, height)
  return (x, y) => {
    const [dark, bright] = [through(x, y, BLACK), through(x, y, WHITE)]
    const left =
      Math.abs(bright.r - dark.r) + Math.abs(bright.g - dark.g) + Math.abs(bright.b - dark.b)
    // What rounding adds is taken back: limits are compared with it.
    return Math.max(0, Math.round((1 - left / (3 * 255)) * 1e6) / 1e6)
  }
}

/** How much of what is behind it a scrim hides, 0 to 1, on average. */
export function meanStrength(scrim: Scrim): number {
  const hiding = hidingAt(scrim, LOOKS, LOOKS)
  let sum = 0
  for (let y = 0; y < LOOKS; y++) for (let x = 0; x < LOOKS; x++) sum += hiding(x + 0.5, y + 0.5)
  return sum / LOOKS ** 2
}

/**
 * `layer` composited over `ground`, normal blending. Source: W3C Compositing and Blending Level 1,
 * clause 5.1.
 */
export const compositeOver = (layer: Layer, ground: Rgb): Rgb => blendOver('normal', layer, ground)
