import type { Family } from '../../../core/weight/families'
import type { ProbeCurve } from '../../../core/weight/ProbeCurve'

/** A place on a format's curve: bytes of the file against its quality. */
export interface CurvePoint {
  readonly kilobytes: number
  readonly ssim: number
}

/** A place that was pointed at. */
export interface CurvePlace {
  readonly family: Family
  readonly index: number
}

/**
 * A format's curve, from its coarsest to its finest probed setting; empty where it was not probed.
 */
export interface TradeCurve {
  readonly family: Family
  readonly curve: readonly CurvePoint[]
}

const CURVE_STEPS = 28

/** Points along a curve, from its coarsest to its finest probed setting. */
export function curvePoints(curve: ProbeCurve, frames: number): CurvePoint[] {
  const [finest, coarsest] = [
    curve.points[0]!.setting,
    curve.points[curve.points.length - 1]!.setting,
  ]
  const between = (share: number): number =>
    curve.steering === 'rate'
      ? finest * (coarsest / finest) ** share
      : finest + (coarsest - finest) * share
  return Array.from({ length: CURVE_STEPS + 1 }, (_, index) => {
    const setting = between(1 - index / CURVE_STEPS)
    return {
      kilobytes: Math.round(curve.loopBytes(setting, frames) / 100) / 10,
      ssim: Math.round(curve.ssim(setting) * 10_000) / 10_000,
    }
  })
}

/** Round numbers of kilobytes on a logarithmic axis. */
export function niceTicks(min: number, max: number): number[] {
  const all = [10, 20, 50, 100, 200, 500, 1000, 2000, 5000, 10_000, 20_000, 50_000]
  return all.filter((tick) => tick >= min && tick <= max)
}

/** Seconds to write along a stretch of time, at most nine: from 0 on, in round steps. */
export function timeTicks(seconds: number): number[] {
  const step =
    [0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100, 200, 500].find((each) => seconds / each < 8) ??
    seconds / 8
  return Array.from({ length: Math.floor(seconds / step) + 1 }, (_, index) =>
    Number((index * step).toFixed(1)),
  )
}

/** The place on the first curve nearest to a number of bytes; null without curves. */
export function nearestPlace(curves: readonly TradeCurve[], kilobytes: number): CurvePlace | null {
  const drawn = curves.find(({ curve }) => curve.length > 0)
  if (!drawn) return null
  const distances = drawn.curve.map((point) => Math.abs(Math.log(point.kilobytes / kilobytes)))
  return { family: drawn.family, index: distances.indexOf(Math.min(...distances)) }
}

/**
 * Where a key leads from a place: along its curve, or to the neighbouring curve at the nearest
 * bytes. The same place for other keys.
 */
export function steppedPlace(
  curves: readonly TradeCurve[],
  place: CurvePlace,
  key: string,
): CurvePlace {
  const drawn = curves.filter(({ curve }) => curve.length > 0)
  const at = drawn.findIndex(({ family }) => family === place.family)
  const own = drawn[at]
  if (!own) return place
  const along: Record<string, number> = {
    ArrowLeft: place.index - 1,
    ArrowRight: place.index + 1,
    Home: 0,
    End: own.curve.length - 1,
  }
  if (key in along)
    return { ...place, index: Math.min(own.curve.length - 1, Math.max(0, along[key]!)) }
  const other = drawn[key === 'ArrowUp' ? at - 1 : key === 'ArrowDown' ? at + 1 : at]
  return other && other !== own ? nearestPlace([other], own.curve[place.index]!.kilobytes)! : place
}
