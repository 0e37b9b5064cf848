import { convertOklabToSrgb } from '../../picture/convertOklabToHex'
import { convertSrgbToOklab } from '../../picture/convertSrgbToOklab'
import { formatHex, parseHex, type Rgb } from '../../picture/srgb'
import type { Gradient, Stop } from './Paint'

/** Steps of a table of colours: finer than any screen is wide. */
const STEPS = 4096
/** Colours between two stops for browsers that mix in sRGB only. */
const FALLBACK_PARTS = 6

/** The colour between two, at a share of the way. Source: CSS Color Level 4, clause 12. */
export function mixColors(from: string, to: string, share: number, space: Gradient['space']): Rgb {
  const [a, b] = [parseHex(from), parseHex(to)]
  const mix = (one: number, other: number): number => one + (other - one) * share
  if (space === 'srgb') return { r: mix(a.r, b.r), g: mix(a.g, b.g), b: mix(a.b, b.b) }
  const [one, other] = [convertSrgbToOklab(a.r, a.g, a.b), convertSrgbToOklab(b.r, b.g, b.b)]
  return convertOklabToSrgb({
    lightness: mix(one.lightness, other.lightness),
    a: mix(one.a, other.a),
    b: mix(one.b, other.b),
  })
}

/** The colour of stops at a place, 0 to 1: before the first and after the last it stays. */
export function colorAt({ stops, space }: Pick<Gradient, 'stops' | 'space'>, at: number): Rgb {
  const after = stops.findIndex((stop) => stop.at > at)
  if (after === 0) return parseHex(stops[0]!.color)
  if (after < 0) return parseHex(stops[stops.length - 1]!.color)
  const [from, to] = [stops[after - 1]!, stops[after]!]
  return mixColors(from.color, to.color, (at - from.at) / (to.at - from.at), space)
}

/** A table of the colours from 0 to 1, as bytes of red, green and blue. */
export function colorTable(gradient: Pick<Gradient, 'stops' | 'space'>): Float32Array {
  const table = new Float32Array((STEPS + 1) * 3)
  for (let step = 0; step <= STEPS; step++) {
    const { r, g, b } = colorAt(gradient, step / STEPS)
    table.set([r, g, b], step * 3)
  }
  return table
}

/** The place of a share in such a table. */
export const tableIndex = (at: number): number =>
  Math.round(Math.min(1, Math.max(0, at)) * STEPS) * 3

/** Stops that look in sRGB as these do in OKLab: more of them, between. */
export function fallbackStops({ stops, space }: Pick<Gradient, 'stops' | 'space'>): Stop[] {
  if (space === 'srgb') return [...stops]
  return stops.flatMap((stop, index) => {
    const next = stops[index + 1]
    if (!next || next.at === stop.at || next.color === stop.color) return [stop]
    return Array.from({ length: FALLBACK_PARTS }, (_, part) => ({
      at: stop.at + ((next.at - stop.at) * part) / FALLBACK_PARTS,
      color: formatHex(mixColors(stop.color, next.color, part / FALLBACK_PARTS, space)),
    }))
  })
}
