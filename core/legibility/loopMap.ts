import type { Rgb } from '../picture/srgb'
import { ratioOfLuminances, relativeLuminance } from '../scrim/contrast'
import type { Box } from '../scrim/frameContrast'
import { scrimOver } from '../scrim/scrimAt'
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
  const layerAt = scrimOver(scrim, region.width, region.height)
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
      const { r, g, b, alpha } = layerAt((left + right) / 2, (top + bottom) / 2)
      const through = (channel: number, byte: number): number =>
        channel * alpha + byte * (1 - alpha)
      const [least, most] = rangeOf(trace, row * BOUNDS_ACROSS + column)
      const low = tableLuminance(
        through(r, least[0]!),
        through(g, least[1]!),
        through(b, least[2]!),
      )
      const bright = tableLuminance(
        through(r, most[0]!),
        through(g, most[1]!),
        through(b, most[2]!),
      )
      const ratio =
        copy >= low && copy <= bright
          ? 1
          : Math.min(ratioOfLuminances(copy, low), ratioOfLuminances(copy, bright))
      cells.push({ x: left, y: top, width: right - left, height: bottom - top, ratio })
    }
  return cells
}

/** Least and most of each channel in a cell over all frames. */
function rangeOf({ frames, bounds }: ContrastTrace, cell: number): [number[], number[]] {
  const [least, most] = [
    [255, 255, 255],
    [0, 0, 0],
  ]
  for (let frame = 0; frame < frames; frame++) {
    const at = (frame * BOUNDS_ACROSS * BOUNDS_DOWN + cell) * BOUND_BYTES
    for (let channel = 0; channel < 3; channel++) {
      least![channel] = Math.min(least![channel]!, bounds[at + channel]!)
      most![channel] = Math.max(most![channel]!, bounds[at + 3 + channel]!)
    }
  }
  return [least!, most!]
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
