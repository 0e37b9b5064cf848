import type { Rgb } from '../picture/srgb'
import { ratioOfLuminances, relativeLuminance } from '../scrim/contrast'
import type { Box, RegionPixels } from '../scrim/frameContrast'
import { scrimOver } from '../scrim/scrimAt'
import type { Scrim } from '../scrim/Scrim'
import { tableLuminance } from './luminanceTable'

/**
 * Where copy of a colour would have less contrast than it needs in front of a frame: parts of rows
 * of cells of `cellPx` pixels, in pixels of the region. Cells are averaged, then the scrim lies
 * over them. Source: docs/method.md (contrast).
 */
export function failingBoxes(
  { data, width, height }: RegionPixels,
  scrim: Scrim,
  color: Rgb,
  needed: number,
  cellPx = 4,
): Box[] {
  const copy = relativeLuminance(color)
  const layerAt = scrimOver(scrim, width, height)
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
    let [r, g, b] = [0, 0, 0]
    for (let y = top; y < top + down; y++)
      for (let x = left; x < left + across; x++) {
        const at = (y * width + x) * 4
        r += data[at]!
        g += data[at + 1]!
        b += data[at + 2]!
      }
    const layer = layerAt(left + across / 2, top + down / 2)
    const share = (1 - layer.alpha) / (across * down)
    const seen = tableLuminance(
      layer.r * layer.alpha + r * share,
      layer.g * layer.alpha + g * share,
      layer.b * layer.alpha + b * share,
    )
    return ratioOfLuminances(copy, seen) < needed
  }
}
