import { formatHex } from '../../picture/srgb'
import { colorAt } from './gradientColors'
import { MAX_STOPS, type Gradient } from './Paint'

const rounded = (value: number): number => Math.round(Math.min(1, Math.max(0, value)) * 1000) / 1000

/** A gradient with a stop moved: never past its neighbours, so that it stays the same stop. */
export function moveStop(gradient: Gradient, index: number, at: number): Gradient {
  const { stops } = gradient
  const low = stops[index - 1]?.at ?? 0
  const high = stops[index + 1]?.at ?? 1
  const place = Math.min(high, Math.max(low, rounded(at)))
  return withStops(gradient, stops.with(index, { ...stops[index]!, at: place }))
}

/** A gradient with a stop of another colour. */
export function colorStop(gradient: Gradient, index: number, color: string): Gradient {
  return withStops(gradient, gradient.stops.with(index, { ...gradient.stops[index]!, color }))
}

/**
 * A gradient with one more stop, of the colour that is there already; the same gradient where it
 * has as many as it may.
 */
export function addStop(gradient: Gradient, at: number): Gradient {
  if (gradient.stops.length >= MAX_STOPS) return gradient
  const place = rounded(at)
  const stop = { at: place, color: formatHex(colorAt(gradient, place)) }
  const before = gradient.stops.filter((each) => each.at <= place)
  return withStops(gradient, [...before, stop, ...gradient.stops.slice(before.length)])
}

/** A gradient without a stop; the same gradient where it has two only. */
export function removeStop(gradient: Gradient, index: number): Gradient {
  return gradient.stops.length <= 2
    ? gradient
    : withStops(gradient, gradient.stops.toSpliced(index, 1))
}

/** The middle of the widest gap between stops: where one more is put. */
export function widestGap({ stops }: Pick<Gradient, 'stops'>): number {
  const edges = [0, ...stops.map(({ at }) => at), 1]
  let best = 1
  for (let index = 1; index < edges.length; index++)
    if (edges[index]! - edges[index - 1]! > edges[best]! - edges[best - 1]!) best = index
  return rounded((edges[best]! + edges[best - 1]!) / 2)
}

/** The colours the other way round. */
export function reversed(gradient: Gradient): Gradient {
  return withStops(
    gradient,
    gradient.stops.toReversed().map(({ at, color }) => ({ at: rounded(1 - at), color })),
  )
}

const withStops = (gradient: Gradient, stops: Gradient['stops']): Gradient => ({
  ...gradient,
  stops,
})
