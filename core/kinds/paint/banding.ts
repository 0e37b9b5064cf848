import { relativeLuminance } from '../../scrim/contrast'
import type { Rgb } from '../../picture/srgb'
import { gradientGeometry, type GradientGeometry } from './gradientGeometry'
import type { Gradient, Paint } from './Paint'
import { paintSampler, type PaintSampler } from './paintPixels'

/** The steps of a gradient in eight bits. */
export interface Banding {
  /** Difference in lightness of the two most different neighbouring bands, ΔL* (CIE 1976). */
  readonly step: number
  /** Width of the narrower of them, in pixels. */
  readonly px: number
  readonly isVisible: boolean
}

/** The window that bands are measured in: the wider it is, the wider they are. */
const WINDOW = { width: 1920, height: 1080 } as const
/** Narrower bands melt into each other. */
const MIN_BAND_PX = 12
/**
 * From here on, edges of bands that wide are seen. One step of all three channels is 0.27 to 0.42
 * on dark and middle tones: lower, and every slow gradient would count; higher, and none.
 */
const VISIBLE_STEP = 0.33
/** The room's light on the screen, as a share of white: it hides the darkest steps. */
const FLARE = 0.005

/** The largest step between wide bands of a paint, along the way of each of its gradients. */
export function bandingOf(paint: Paint): Banding {
  let worst: Banding = { step: 0, px: 0, isVisible: false }
  const sample = paintSampler(paint, WINDOW.width, WINDOW.height)
  for (const gradient of paint.gradients) {
    const bands = bandsOf(sample, gradient)
    for (let index = 1; index < bands.length; index++) {
      const [one, other] = [bands[index - 1]!, bands[index]!]
      const px = Math.min(one.px, other.px)
      const step = Math.abs(one.lightness - other.lightness)
      if (px >= MIN_BAND_PX && step > worst.step)
        worst = { step, px, isVisible: !paint.dither && step >= VISIBLE_STEP }
    }
  }
  return worst
}

/**
 * Runs of equal colours in eight bits along a gradient's own way, where bands are as wide as they
 * are seen: a sample for each pixel of it, where the window shows that colour.
 */
function bandsOf(sample: PaintSampler, gradient: Gradient) {
  const { placeOf, seenAt } = gradientGeometry(gradient, WINDOW.width, WINDOW.height)
  const length = Math.ceil(wayOf(placeOf))
  const bands: { px: number; r: number; g: number; b: number }[] = []
  for (let step = 0; step < length; step++) {
    const { x, y } = seenAt((step + 0.5) / length)
    // A radial gradient may end beyond the window.
    if (x < 0 || y < 0 || x > WINDOW.width || y > WINDOW.height) continue
    const [r, g, b] = sample(x, y).map(Math.round) as [number, number, number]
    const last = bands[bands.length - 1]
    if (last?.r === r && last.g === g && last.b === b) last.px += 1
    else bands.push({ px: 1, r, g, b })
  }
  return bands.map(({ px, ...color }) => ({ px, lightness: lightnessOf(color) }))
}

/** Pieces that the length of a way is measured in: conic ones are round. */
const PIECES = 64

function wayOf(placeOf: GradientGeometry['placeOf']): number {
  let length = 0
  for (let piece = 1; piece <= PIECES; piece++) {
    const [from, to] = [placeOf((piece - 1) / PIECES), placeOf(piece / PIECES)]
    length += Math.hypot(to.x - from.x, to.y - from.y)
  }
  return length
}

/** CIE 1976 L*, in a room with some light. Source: ISO/CIE 11664-4. */
function lightnessOf(color: Rgb): number {
  const luminance = (relativeLuminance(color) + FLARE) / (1 + FLARE)
  return luminance > 216 / 24_389 ? 116 * Math.cbrt(luminance) - 16 : (24_389 / 27) * luminance
}
