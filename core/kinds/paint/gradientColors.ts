import { convertOklabToSrgb } from '../../picture/convertOklabToHex'
import { convertSrgbToOklab } from '../../picture/convertSrgbToOklab'
import { formatHex, parseHex, type Rgb } from '../../picture/srgb'
import type { Gradient, Stop } from './Paint'

/** Steps of a table of colours: finer than any screen is wide. */
const STEPS = 4096
/**
 * How far colours mixed in sRGB may be from those in OKLab, of 255: a piece that is further off is
 * halved, down to the shortest. Most pairs need two or three pieces; only where a channel leaves
 * sRGB does the shortest piece end it, up to 8 off (all pairs of 27 colours; 3 pieces shorter would
 * double the stops of those).
 */
const FALLBACK_DIFFERENCE = 3
const SHORTEST_PIECE = 1 / 64
/** Where in a piece the difference is looked for. */
const PROBED = [1 / 8, 1 / 4, 1 / 2, 3 / 4, 7 / 8]

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

/** Tables of gradients that are drawn again and again while something else changes. */
const tables = new WeakMap<object, Float32Array>()

/** A table of the colours from 0 to 1: red, green and blue of each, 0 to 255. */
export function colorTable(gradient: Pick<Gradient, 'stops' | 'space'>): Float32Array {
  const made = tables.get(gradient)
  if (made) return made
  const table = new Float32Array((STEPS + 1) * 3)
  for (let step = 0; step <= STEPS; step++) {
    const { r, g, b } = colorAt(gradient, step / STEPS)
    table.set([r, g, b], step * 3)
  }
  tables.set(gradient, table)
  return table
}

/** The place of a share in such a table. */
export const tableIndex = (at: number): number =>
  Math.round(Math.min(1, Math.max(0, at)) * STEPS) * 3

/** Stops that look in sRGB as these do in OKLab: more of them, where they differ. */
export function fallbackStops({ stops, space }: Pick<Gradient, 'stops' | 'space'>): Stop[] {
  if (space === 'srgb') return [...stops]
  return stops.flatMap((stop, index) => {
    const next = stops[index + 1]
    if (!next || next.at === stop.at || next.color === stop.color) return [stop]
    return pieceStarts(stop.color, next.color, 0, 1).map((share) => ({
      at: stop.at + (next.at - stop.at) * share,
      color: oklabHex(stop.color, next.color, share),
    }))
  })
}

const oklabHex = (from: string, to: string, share: number): string =>
  formatHex(mixColors(from, to, share, 'oklab'))

/** Where the pieces between two shares begin that look the same mixed in sRGB. */
function pieceStarts(from: string, to: string, start: number, end: number): number[] {
  const length = end - start
  const [first, last] = [oklabHex(from, to, start), oklabHex(from, to, end)]
  const isAlike = PROBED.every((share) => {
    const shown = mixColors(first, last, share, 'srgb')
    const wanted = mixColors(from, to, start + length * share, 'oklab')
    return (['r', 'g', 'b'] as const).every(
      (channel) => Math.abs(shown[channel] - wanted[channel]) <= FALLBACK_DIFFERENCE,
    )
  })
  if (isAlike || length <= SHORTEST_PIECE) return [start]
  const middle = start + length / 2
  return [...pieceStarts(from, to, start, middle), ...pieceStarts(from, to, middle, end)]
}
