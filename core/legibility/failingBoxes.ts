import type { Rgb } from '../picture/srgb'
import { ratioOfLuminances, relativeLuminance } from '../scrim/contrast'
import { cellsSeen, type Box, type RegionPixels } from '../scrim/frameContrast'
import type { Plate } from '../scrim/Plate'
import { compositeOver } from '../scrim/scrimAt'
import type { Scrim } from '../scrim/Scrim'
import { tableLuminance } from './luminanceTable'

interface FailingOptions {
  readonly cellPx?: number
  /** Pixels of the region for each CSS pixel. */
  readonly scale?: number
  /** What letters have around them; null for nothing. */
  readonly plate?: Plate | null
}

/**
 * Where copy of a colour would have less contrast than it needs in front of a frame: parts of rows
 * of cells of `cellPx` pixels, in pixels of the region. Cells are averaged, then the scrim lies
 * over them, and a plate that the copy has. Source: docs/method.md (contrast).
 */
export function failingBoxes(
  pixels: RegionPixels,
  scrim: Scrim,
  color: Rgb,
  needed: number,
  { cellPx = 4, scale = 1, plate = null }: FailingOptions = {},
): Box[] {
  const { width, height } = pixels
  const copy = relativeLuminance(color)
  const seenIn = cellsSeen(pixels, scrim, 4 * scale)
  const boxes: Box[] = []
  for (let top = 0; top < height; top += cellPx) {
    const down = Math.min(cellPx, height - top)
    let start = -1
    for (let left = 0; left <= width; left += cellPx) {
      const across = Math.min(cellPx, width - left)
      const fails = across > 0 && failsIn(left, top, across, down)
      if (fails && start < 0) start = left
      if (fails && left + across < width) continue
      const end = fails ? left + across : left
      if (start >= 0) boxes.push({ x: start, y: top, width: end - start, height: down })
      start = -1
    }
  }
  return boxes

  function failsIn(left: number, top: number, across: number, down: number): boolean {
    const under = seenIn(left, top, across, down)
    const { r, g, b } = plate ? compositeOver(plate.layer, under) : under
    return ratioOfLuminances(copy, tableLuminance(r, g, b)) < needed
  }
}
