import { nearestRate, type Fraction } from '../Fraction'
import type { Presentation } from './presentation'

/**
 * The constant rate behind a clip's frame times. Containers round times: WebM and MKV to
 * milliseconds (0, 42, 83, 125 … at 24 frames a second), others to ticks of 600 or 1000.
 */
export interface FrameGrid {
  /** Ticks from one place to the next; not rounded. */
  readonly period: number
  /** Time of place 0, in ticks; not rounded. */
  readonly first: number
  /** For each frame its place, rising; places without a frame are gaps. */
  readonly places: readonly number[]
}

/** Maximum deviation of a frame's time: rounding to a tick, or a small share of a period. */
const TOLERANCE = { ticks: 1.01, share: 0.06 } as const
/** Distances up to this multiple of the median count as one period when it is estimated. */
const ONE_PERIOD = 1.4

const known = new WeakMap<readonly number[], FrameGrid | null>()

/** The grid that a clip's frames are on; null if their rate varies, or for a single frame. */
export function frameGrid(presentation: Pick<Presentation, 'times'>): FrameGrid | null {
  const { times } = presentation
  const found = known.get(times)
  if (found !== undefined) return found
  const grid = fitGrid(times)
  known.set(times, grid)
  return grid
}

/** The constant frame rate of a clip; null if it varies. Gaps (dropped frames) do not count. */
export function constantRate(
  presentation: Pick<Presentation, 'times' | 'timescale'>,
): Fraction | null {
  const grid = frameGrid(presentation)
  return grid && nearestRate(presentation.timescale / grid.period)
}

/**
 * Places from distances in units of the period, then a least-squares line through times and places.
 * A wrong place would deviate by a whole period, so the tolerance detects it.
 */
function fitGrid(times: readonly number[]): FrameGrid | null {
  if (times.length < 2) return null
  const distances = times.slice(1).map((time, index) => time - times[index]!)
  const median = [...distances].sort((a, b) => a - b)[distances.length >> 1]!
  const single = distances.filter((distance) => distance <= median * ONE_PERIOD)
  const rough = single.reduce((sum, distance) => sum + distance, 0) / single.length
  if (!(rough > 0)) return null
  const places = [0]
  for (const distance of distances)
    places.push(places[places.length - 1]! + Math.max(1, Math.round(distance / rough)))
  const { period, first } = line(places, times)
  const most = Math.max(TOLERANCE.ticks, TOLERANCE.share * period)
  const fits = times.every(
    (time, index) => Math.abs(time - first - places[index]! * period) <= most,
  )
  return fits && period > 0 ? { period, first, places } : null
}

function line(
  places: readonly number[],
  times: readonly number[],
): { readonly period: number; readonly first: number } {
  const mean = (values: readonly number[]): number =>
    values.reduce((sum, value) => sum + value, 0) / values.length
  const [place, time] = [mean(places), mean(times)]
  let [both, square] = [0, 0]
  places.forEach((each, index) => {
    both += (each - place) * (times[index]! - time)
    square += (each - place) ** 2
  })
  const period = both / square
  return { period, first: time - place * period }
}
