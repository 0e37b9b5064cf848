import type { SlowRun } from '../../core/api/slowMachines'
import type { Size } from '../../core/fit/cover'
import { MAX_ELEMENTS, type Definition } from '../../core/particles/Definition'
import { elementCount } from '../../core/particles/elements'
import { drawLinks } from '../../core/particles/links'
import { MEASURED_AREA, MEASURED_STYLE, particleLoad } from '../../core/particles/particleLoad'
import { painterOf } from '../../core/particles/Painter'
import { prepare } from '../../core/particles/prepare'
import { styleOf } from '../../core/particles/styles'
import { withCount } from '../../core/particles/withCount'
import { spriteImages } from './spriteImages'

/** What a frame costs with so many elements. */
export interface CostPoint {
  readonly count: number
  readonly milliseconds: number
}

/** Shares of the present count that are measured. */
const SHARES = [0.25, 0.5, 1, 1.5, 2, 3]
/** Frames for each; the first ones make sprites. */
const FRAMES = 10
const WARM = 3

/** The numbers of elements whose cost is measured, the present one among them. */
export function measuredCounts(definition: Definition, area: Size): number[] {
  const now = elementCount(prepare(definition), area)
  const counts = SHARES.map((share) => Math.max(1, Math.round(now * share)))
  return [...new Set(counts.map((count) => Math.min(MAX_ELEMENTS, count)))]
}

/**
 * What frames cost on this machine by the number of elements: drawing and painting, median of some
 * frames each. Between frames the page may do something else.
 */
export async function* costCurve(
  definition: Definition,
  area: Size,
  density: number,
  signal: AbortSignal,
): AsyncGenerator<CostPoint> {
  for (const count of measuredCounts(definition, area)) {
    const counted = withCount(definition, area, count)
    const milliseconds = await frameCost(counted, area, density, signal)
    if (milliseconds === null) return
    yield { count, milliseconds }
  }
}

/** What a frame costs on this machine, in milliseconds; null where it was ended before. */
async function frameCost(
  definition: Definition,
  area: Size,
  density: number,
  signal: AbortSignal,
): Promise<number | null> {
  const canvas = new OffscreenCanvas(
    Math.floor(area.width * density),
    Math.floor(area.height * density),
  )
  const context = canvas.getContext('2d')!
  const draw = painterOf(
    prepare(definition),
    area,
    density,
    [drawLinks],
    await spriteImages(definition),
  )
  const costs: number[] = []
  for (let frame = 0; frame < FRAMES; frame++) {
    await new Promise((resolve) => setTimeout(resolve))
    if (signal.aborted) return null
    const began = performance.now()
    draw(context, frame / 30)
    // Reading a pixel waits until all is painted.
    context.getImageData(0, 0, 1, 1)
    costs.push(performance.now() - began)
  }
  const sorted = costs.slice(WARM).sort((one, other) => one - other)
  return sorted[Math.floor(sorted.length / 2)]!
}

/** The load of particles by frames that are timed now; null where it was ended before. */
export async function measuredLoad(
  definition: Definition,
  area: Size,
  frameRate: number,
  signal: AbortSignal,
): Promise<number | null> {
  const known = styleOf(MEASURED_STYLE)!.definition
  const [one, own] = [
    await frameCost(known, MEASURED_AREA, 1, signal),
    await frameCost(definition, area, 1, signal),
  ]
  return one === null || own === null ? null : particleLoad(own / one, area, frameRate)
}

/** What frames cost on a machine that is so many times slower, by what was drawn there. */
export const slowPoints = (runs: readonly SlowRun[], factor: number): CostPoint[] =>
  runs
    .filter((run) => run.factor === factor)
    .flatMap(({ drawn, milliseconds }) =>
      milliseconds === null ? [] : [{ count: drawn, milliseconds }],
    )
    .sort((one, other) => one.count - other.count)

/** The share of its frame rate that a machine must reach to keep it. */
const KEPT_RATE = 0.85

/**
 * The most elements with which the slowest machine keeps its frame rate, of what was tried; 0 where
 * it does with none, null where nothing was tried.
 */
export function mostOnSlow(runs: readonly SlowRun[], limit: number): number | null {
  const slowest = Math.max(0, ...runs.map(({ factor }) => factor))
  const tried = runs.filter(({ factor }) => factor === slowest)
  if (tried.length === 0) return null
  const kept = tried.filter(
    ({ drawn, framesPerSecond }) => drawn > 0 && framesPerSecond >= (KEPT_RATE * 1000) / limit,
  )
  return Math.max(0, ...kept.map(({ drawn }) => drawn))
}
