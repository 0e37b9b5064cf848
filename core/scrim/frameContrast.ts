import { blendSamples } from '../picture/blend'
import type { Size } from '../picture/Size'
import type { Rgb } from '../picture/srgb'
import { ratioOfLuminances, relativeLuminance } from './contrast'
import { compositeOver, isLinearScrim, layersOver, scrimRuns, seenThrough } from './scrimAt'
import { plateAt, type Plate } from './Plate'
import type { Scrim } from './Scrim'

/** The region's pixels as the visitor sees them without scrim: RGBA, row after row. */
export interface RegionPixels {
  readonly data: Uint8ClampedArray | Uint8Array
  readonly width: number
  readonly height: number
  /** What of the region is in `data`, in whole pixels: all of it where this is left out. */
  readonly part?: Box
}

/** A box in pixels of the region. */
export interface Box {
  readonly x: number
  readonly y: number
  readonly width: number
  readonly height: number
}

/**
 * Which cell counts: not the very worst, which may be a speck, but the one at this share from it.
 */
export const PERCENTILE = 0.05

/**
 * Contrast of copy over one frame: the frame under the scrim, averaged in cells of `cellPx`, the
 * 5th percentile cell of the box. Null if the box is outside. Source: docs/method.md (contrast);
 * WCAG 2.2.
 */
export function frameContrast(
  pixels: RegionPixels,
  scrim: Scrim,
  box: Box,
  copyColor: Rgb,
  cellPx = 4,
  plate: Plate | null = null,
): number | null {
  return worstPlace(pixels, scrim, [box], copyColor, cellPx, plate)?.ratio ?? null
}

/** The cell that counts: its contrast, and its middle in pixels of the region. */
export interface WorstPlace {
  readonly ratio: number
  readonly x: number
  readonly y: number
}

/**
 * The same for copy over several boxes, with its place; `plate` lies over the scrim. Null if all of
 * them are outside.
 */
export function worstPlace(
  pixels: RegionPixels,
  scrim: Scrim,
  boxes: readonly Box[],
  copyColor: Rgb,
  cellPx = 4,
  plate: Plate | null = null,
): WorstPlace | null {
  const copy = relativeLuminance(copyColor)
  const seenIn = cellsSeen(pixels, scrim, cellPx)
  const cells: WorstPlace[] = []
  for (const box of boxes) {
    const { left, top, right, bottom } = pixelsIn(pixels, box)
    for (let y = top; y < bottom; y += cellPx)
      for (let x = left; x < right; x += cellPx) {
        const [width, height] = [Math.min(cellPx, right - x), Math.min(cellPx, bottom - y)]
        const under = seenIn(x, y, width, height)
        const middle = { x: x + cellPx / 2, y: y + cellPx / 2 }
        const seen = plate ? compositeOver(plateAt(plate, cells.length), under) : under
        const ratio = ratioOfLuminances(copy, relativeLuminance(seen))
        cells.push({ ratio, ...middle })
      }
  }
  cells.sort((one, other) => one.ratio - other.ratio)
  return cells[Math.floor((cells.length - 1) * PERCENTILE)] ?? null
}

/** The pixels of a region that a box touches. */
function pixelsIn(region: Size, { x, y, width, height }: Box) {
  return {
    left: Math.max(0, Math.floor(x)),
    top: Math.max(0, Math.floor(y)),
    right: Math.min(region.width, Math.ceil(x + width)),
    bottom: Math.min(region.height, Math.ceil(y + height)),
  }
}

/** The part of a region that `worstPlace` looks at behind boxes; null where that is nothing. */
export function partBehind(region: Size, boxes: readonly Box[]): Box | null {
  const touched = boxes.map((box) => pixelsIn(region, box))
  const within = touched.filter(({ left, top, right, bottom }) => right > left && bottom > top)
  if (within.length === 0) return null
  const x = Math.min(...within.map(({ left }) => left))
  const y = Math.min(...within.map(({ top }) => top))
  const width = Math.max(...within.map(({ right }) => right)) - x
  const height = Math.max(...within.map(({ bottom }) => bottom)) - y
  return { x, y, width, height }
}

/**
 * The mean of what is seen of some pixels through a scrim, of a box in pixels, of which four CSS
 * pixels take `cellPx`. Where blending them is not what it is of their mean, each is blended.
 */
export function cellsSeen(
  pixels: RegionPixels,
  scrim: Scrim,
  cellPx: number,
): (left: number, top: number, width: number, height: number) => Rgb {
  if (isLinearScrim(scrim)) {
    const through = seenThrough(scrim, pixels.width, pixels.height, cellPx)
    return (left, top, width, height) =>
      through(left + width / 2, top + height / 2, meanOf(pixels, left, top, width, height))
  }
  const runs = scrimRuns(scrim).map(({ blend, layers }) => ({
    blend,
    layerAt: layersOver(layers, pixels.width, pixels.height, cellPx),
  }))
  const { x: partLeft, y: partTop, width: stride } = partOf(pixels)
  return (left, top, width, height) => {
    const count = width * height
    const [seen, over] = [new Float64Array(3 * count), new Float64Array(4 * count)]
    const each = (act: (x: number, y: number, sample: number) => void): void => {
      for (let sample = 0; sample < count; sample++)
        act(left + (sample % width), top + Math.floor(sample / width), sample)
    }
    each((x, y, sample) => {
      const from = ((y - partTop) * stride + x - partLeft) * 4
      for (let channel = 0; channel < 3; channel++)
        seen[3 * sample + channel] = pixels.data[from + channel]!
    })
    for (const { blend, layerAt } of runs) {
      each((x, y, sample) => {
        const layer = layerAt(x + 0.5, y + 0.5)
        over[4 * sample] = layer.r
        over[4 * sample + 1] = layer.g
        over[4 * sample + 2] = layer.b
        over[4 * sample + 3] = layer.alpha
      })
      blendSamples(seen, blend, over, count)
    }
    let [r, g, b] = [0, 0, 0]
    for (let at = 0; at < 3 * count; at += 3) {
      r += seen[at]!
      g += seen[at + 1]!
      b += seen[at + 2]!
    }
    return { r: r / count, g: g / count, b: b / count }
  }
}

const partOf = ({ part, width, height }: RegionPixels): Box => part ?? { x: 0, y: 0, width, height }

function meanOf(
  pixels: RegionPixels,
  left: number,
  top: number,
  width: number,
  height: number,
): Rgb {
  const { x: partLeft, y: partTop, width: stride } = partOf(pixels)
  let [r, g, b] = [0, 0, 0]
  for (let y = top - partTop; y < top - partTop + height; y++) {
    for (let x = left - partLeft; x < left - partLeft + width; x++) {
      const at = (y * stride + x) * 4
      r += pixels.data[at]!
      g += pixels.data[at + 1]!
      b += pixels.data[at + 2]!
    }
  }
  const count = width * height
  return { r: r / count, g: g / count, b: b / count }
}

/** What WCAG 2.2 (1.4.3) asks: 3 for large text (24 px, or 18.66 px bold), 4.5 otherwise. */
export function neededContrast(fontPx: number, weight: number): number {
  return fontPx >= 24 || (fontPx >= 18.66 && weight >= 700) ? 3 : 4.5
}
