import { parseHex, type Rgb } from '../picture/srgb'

/** The scrim between footage and copy. Strengths are opacities, 0 to 1. */
export interface Scrim {
  readonly kind: 'flat' | 'gradient'
  readonly color: string
  readonly strength: number
  /** The other end of a gradient; unused when flat. */
  readonly toColor: string
  readonly toStrength: number
  /** CSS angle of the gradient: 0 points up, 90 to the right. */
  readonly angleDeg: number
}

/** Nothing between them. */
export const NO_SCRIM: Scrim = {
  kind: 'flat',
  color: '#000000',
  strength: 0,
  toColor: '#000000',
  toStrength: 0,
  angleDeg: 0,
}

/** A colour with its opacity, 0 to 1. */
export interface Layer extends Rgb {
  readonly alpha: number
}

/**
 * The scrim's colour and opacity at a point of the region, `x` and `y` in pixels of a `width` ×
 * `height` box. Gradients run as CSS draws them: along the angle, corner to corner, in
 * premultiplied sRGB. Source: CSS Images Module Level 3, clauses 3.1.1 and 3.4.
 */
export const scrimAt = (scrim: Scrim, x: number, y: number, width: number, height: number): Layer =>
  scrimOver(scrim, width, height)(x, y)

/** The same for many points of a region: what all of them share is worked out once. */
export function scrimOver(
  scrim: Scrim,
  width: number,
  height: number,
): (x: number, y: number) => Layer {
  const from = { ...parseHex(scrim.color), alpha: scrim.strength }
  if (scrim.kind === 'flat') return () => from
  const to = { ...parseHex(scrim.toColor), alpha: scrim.toStrength }
  const angle = (scrim.angleDeg * Math.PI) / 180
  const [sine, cosine] = [Math.sin(angle), Math.cos(angle)]
  const length = Math.abs(width * sine) + Math.abs(height * cosine)
  return (x, y) => {
    const along = (x - width / 2) * sine - (y - height / 2) * cosine
    const t = Math.min(1, Math.max(0, along / length + 0.5))
    const alpha = from.alpha + (to.alpha - from.alpha) * t
    if (alpha === 0) return { r: 0, g: 0, b: 0, alpha }
    const mix = (a: number, b: number): number =>
      (a * from.alpha * (1 - t) + b * to.alpha * t) / alpha
    return { r: mix(from.r, to.r), g: mix(from.g, to.g), b: mix(from.b, to.b), alpha }
  }
}

/**
 * `layer` composited over `ground`, normal blending. Source: W3C Compositing and Blending Level 1,
 * clause 5.1.
 */
export function compositeOver(layer: Layer, ground: Rgb): Rgb {
  const mix = (top: number, under: number): number => top * layer.alpha + under * (1 - layer.alpha)
  return { r: mix(layer.r, ground.r), g: mix(layer.g, ground.g), b: mix(layer.b, ground.b) }
}
