import { blendRange, type Range } from '../picture/blend'
import type { Rgb } from '../picture/srgb'
import { ratioOfLuminances, relativeLuminance } from '../scrim/contrast'
import type { Box } from '../scrim/frameContrast'
import { layersOver, scrimRuns } from '../scrim/scrimAt'
import type { Scrim } from '../scrim/Scrim'
import { BOUND_BYTES, BOUNDS_ACROSS, BOUNDS_DOWN, type ContrastTrace } from './ContrastTrace'
import { traceGrid, type ScreenView } from './CopySamples'
import { tableLuminance } from './luminanceTable'

/** A part of a region, in CSS pixels, and what contrast is there at least over the whole loop. */
export interface MapCell extends Box {
  readonly ratio: number
}

/**
 * The least contrast of copy of a colour anywhere in a region over all frames: from the least and
 * most of each channel in 32 × 18 cells of the picture, so nothing is told better than it is.
 * Particles are not included. Source: docs/method.md (contrast).
 */
export function loopMap(
  trace: ContrastTrace,
  view: ScreenView,
  scrim: Scrim,
  color: Rgb,
): MapCell[] {
  const { region } = view
  const grid = traceGrid(view, trace)
  const runs = scrimRuns(scrim).map(({ blend, layers }) => ({
    blend,
    layerAt: layersOver(layers, region.width, region.height),
  }))
  const copy = relativeLuminance(color)
  const [wide, high] = [trace.width / BOUNDS_ACROSS, trace.height / BOUNDS_DOWN]
  const cells: MapCell[] = []
  for (let row = 0; row < BOUNDS_DOWN; row++)
    for (let column = 0; column < BOUNDS_ACROSS; column++) {
      // The middle of a pixel is half a pixel further than its edge.
      const left = Math.max(0, grid.xOf(column * wide - 0.5))
      const top = Math.max(0, grid.yOf(row * high - 0.5))
      const right = Math.min(region.width, grid.xOf((column + 1) * wide - 0.5))
      const bottom = Math.min(region.height, grid.yOf((row + 1) * high - 0.5))
      if (right <= left || bottom <= top) continue
      const ranges = rangeOf(trace, row * BOUNDS_ACROSS + column)
      for (const { blend, layerAt } of runs) {
        const { r, g, b, alpha } = layerAt((left + right) / 2, (top + bottom) / 2)
        for (const [channel, value] of [r, g, b].entries())
          ranges[channel] = blendRange(ranges[channel]!, blend, [value, value], [alpha, alpha])
      }
      const [red, green, blue] = ranges
      const low = tableLuminance(red[0], green[0], blue[0])
      const bright = tableLuminance(red[1], green[1], blue[1])
      const ratio =
        copy >= low && copy <= bright
          ? 1
          : Math.min(ratioOfLuminances(copy, low), ratioOfLuminances(copy, bright))
      cells.push({ x: left, y: top, width: right - left, height: bottom - top, ratio })
    }
  return cells
}

/** Least and most of red, green and blue in a cell over all frames. */
function rangeOf({ frames, bounds }: ContrastTrace, cell: number): [Range, Range, Range] {
  const ranges: [least: number, most: number][] = [
    [255, 0],
    [255, 0],
    [255, 0],
  ]
  for (let frame = 0; frame < frames; frame++) {
    const at = (frame * BOUNDS_ACROSS * BOUNDS_DOWN + cell) * BOUND_BYTES
    for (const [channel, range] of ranges.entries()) {
      range[0] = Math.min(range[0], bounds[at + channel]!)
      range[1] = Math.max(range[1], bounds[at + 3 + channel]!)
    }
  }
  return [ranges[0]!, ranges[1]!, ranges[2]!]
}

/** What a text in some boxes has at least, by a map: its 5th percentile by area; null outside. */
export function leastInBoxes(
  map: readonly MapCell[],
  boxes: readonly Box[],
  percentile: number,
): number | null {
  const parts = boxes.flatMap((box) =>
    map.flatMap(({ ratio, x, y, width, height }) => {
      const across = Math.min(x + width, box.x + box.width) - Math.max(x, box.x)
      const down = Math.min(y + height, box.y + box.height) - Math.max(y, box.y)
      return across > 0 && down > 0 ? { ratio, area: across * down } : []
    }),
  )
  if (parts.length === 0) return null
  parts.sort((one, other) => one.ratio - other.ratio)
  let left = percentile * parts.reduce((sum, { area }) => sum + area, 0)
  for (const { ratio, area } of parts) {
    if (left < area) return ratio
    left -= area
  }
  return parts.at(-1)!.ratio
}
