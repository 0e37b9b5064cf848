/** A stop of any gradient: where it is, 0 to 1. */
interface Placed {
  readonly at: number
}

/** To a thousandth, 0 to 1. */
export const placeOf = (value: number): number =>
  Math.round(Math.min(1, Math.max(0, value)) * 1000) / 1000

/** Stops with one moved: never past its neighbours, so that it stays the same stop. */
export function movedStop<T extends Placed>(stops: readonly T[], index: number, at: number): T[] {
  const low = stops[index - 1]?.at ?? 0
  const high = stops[index + 1]?.at ?? 1
  return stops.with(index, { ...stops[index]!, at: Math.min(high, Math.max(low, placeOf(at))) })
}

/** Stops with one more, in its place among them. */
export function addedStop<T extends Placed>(stops: readonly T[], stop: T): T[] {
  const before = stops.filter((each) => each.at <= stop.at)
  return [...before, stop, ...stops.slice(before.length)]
}

/** The middle of the widest gap between stops: where one more is put. */
export function widestGap(stops: readonly Placed[]): number {
  const edges = [0, ...stops.map(({ at }) => at), 1]
  let best = 1
  for (let index = 1; index < edges.length; index++)
    if (edges[index]! - edges[index - 1]! > edges[best]! - edges[best - 1]!) best = index
  return placeOf((edges[best]! + edges[best - 1]!) / 2)
}
