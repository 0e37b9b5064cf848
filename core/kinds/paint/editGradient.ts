import { addedStop, movedStop, placeOf } from '../../picture/gradientStops'
import { formatHex } from '../../picture/srgb'
import { colorAt } from './gradientColors'
import { MAX_STOPS, type Gradient } from './Paint'

/** A gradient with a stop moved: never past its neighbours, so that it stays the same stop. */
export const moveStop = (gradient: Gradient, index: number, at: number): Gradient =>
  withStops(gradient, movedStop(gradient.stops, index, at))

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
  const place = placeOf(at)
  const stop = { at: place, color: formatHex(colorAt(gradient, place)) }
  return withStops(gradient, addedStop(gradient.stops, stop))
}

/** A gradient without a stop; the same gradient where it has two only. */
export function removeStop(gradient: Gradient, index: number): Gradient {
  return gradient.stops.length <= 2
    ? gradient
    : withStops(gradient, gradient.stops.toSpliced(index, 1))
}

/** The colours the other way round. */
export function reversed(gradient: Gradient): Gradient {
  return withStops(
    gradient,
    gradient.stops.toReversed().map(({ at, color }) => ({ at: placeOf(1 - at), color })),
  )
}

const withStops = (gradient: Gradient, stops: Gradient['stops']): Gradient => ({
  ...gradient,
  stops,
})
