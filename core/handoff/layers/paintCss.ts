import { cssNumber } from '../cssNumber'
import { parseHex } from '../../picture/srgb'
import { fallbackStops } from '../../kinds/paint/gradientColors'
import type { Gradient, Paint, Stop } from '../../kinds/paint/Paint'
import { paintTransform } from '../../kinds/paint/paintMotion'

const percent = (share: number): string => `${cssNumber(share * 100)}%`

/**
 * A gradient as a CSS image in an element that is `oversize` times the region, around its middle.
 */
function gradientCss(gradient: Gradient, oversize: number, inOklab: boolean): string {
  const { shape, angleDeg, centre, radius, opacity } = gradient
  /** A share of the region as a share of the element. */
  const placed = (share: number): number => (share + (oversize - 1) / 2) / oversize
  const place = `${percent(placed(centre.x))} ${percent(placed(centre.y))}`
  const space = inOklab && gradient.space === 'oklab' ? ' in oklab' : ''
  const stops = inOklab ? gradient.stops : fallbackStops(gradient)
  const color = (hex: string): string => {
    const { r, g, b } = parseHex(hex)
    return opacity === 1 ? hex : `rgb(${r} ${g} ${b} / ${cssNumber(opacity)})`
  }
  const list = (placeOf: (stop: Stop) => number): string =>
    stops.map((stop) => `${color(stop.color)} ${percent(placeOf(stop))}`).join(', ')
  switch (shape) {
    case 'linear':
      return `linear-gradient(${cssNumber(angleDeg)}deg${space}, ${list(({ at }) => placed(at))})`
    case 'radial': {
      const size = percent(radius / oversize)
      return `radial-gradient(${size} ${size} at ${place}${space}, ${list(({ at }) => at)})`
    }
    case 'conic':
      return `conic-gradient(from ${cssNumber(angleDeg)}deg at ${place}${space}, ${list(({ at }) => at)})`
  }
}

/**
 * The gradients of a paint as a list of CSS images, the front one first; `none` for an even colour.
 * Without `inOklab` for browsers that mix in sRGB only: with more stops, which look the same.
 */
export function paintImages(paint: Paint, inOklab: boolean): string {
  const { oversize } = paintTransform(paint)
  return paint.gradients.length === 0
    ? 'none'
    : [...paint.gradients]
        .reverse()
        .map((gradient) => gradientCss(gradient, oversize, inOklab))
        .join(', ')
}

/** Whether browsers without `in oklab` need a list of their own. */
export const needsFallback = ({ gradients }: Pick<Paint, 'gradients'>): boolean =>
  gradients.some(({ space }) => space === 'oklab')

/** The blend modes of the list of images; null where none is mixed. */
export function paintBlends({ gradients, blend }: Paint): string | null {
  return gradients.length > 1 && blend !== 'normal' ? `${blend}, normal` : null
}

/** A paint as one value of `background`, for swatches and previews. */
export function paintBackground(paint: Paint): string {
  const still = { ...paint, motion: null }
  const images = paintImages(still, true)
  return images === 'none' ? paint.color : `${images}, ${paint.color}`
}
