import { coverRect, type Point, type Size } from '../fit/cover'
import { convertSrgbToOklab, deltaE } from '../picture/convertSrgbToOklab'
import type { Rgb } from '../picture/srgb'
import type { Scrim } from '../scrim/Scrim'
import type { Box } from '../scrim/frameContrast'
import { compositeOver, seenThrough, type Layer } from '../scrim/scrimAt'

/** A small picture of what is behind copy, and how a screen shows it. */
export interface ShownPicture {
  /** RGBA, row after row. */
  readonly data: Uint8ClampedArray
  readonly size: Size
  readonly region: Size
  readonly focal: Point
}

/** The same with what lies over it. */
export interface SeenPicture extends ShownPicture {
  readonly scrim: Scrim
  readonly covered?: readonly CoveredBoxes[]
}

/** What lies over some boxes of a region, in CSS pixels. */
export interface CoveredBoxes {
  readonly boxes: readonly Box[]
  readonly layer: Layer
}

/** What a change takes from the picture. */
export interface PictureCost {
  /** The mean difference of what is seen: Euclidean in OKLab, times 100. */
  readonly deltaE: number
  /** The share of what is seen that differs visibly, 0 to 1. */
  readonly changed: number
}

/** Below it a difference is hard to see. */
const VISIBLE = 2
/** A region is looked at in so many places each way. */
const [ACROSS, DOWN] = [32, 20]

/**
 * How far what is seen of pictures differs before and after a change, on average over places and
 * pictures: the same ones in the same order.
 * Source: docs/method.md (contrast).
 */
export function pictureCost(
  before: readonly SeenPicture[],
  after: readonly SeenPicture[],
): PictureCost {
  let [sum, changed, count] = [0, 0, 0]
  for (const [index, picture] of before.entries()) {
    const { region } = picture
    const [was, is] = [colorsThrough(picture), colorsThrough(after[index]!)]
    for (let row = 0; row < DOWN; row++)
      for (let column = 0; column < ACROSS; column++) {
        const x = ((column + 0.5) / ACROSS) * region.width
        const y = ((row + 0.5) / DOWN) * region.height
        const [one, other] = [was(x, y), is(x, y)].map(({ r, g, b }) => convertSrgbToOklab(r, g, b))
        const difference = deltaE(one!, other!)
        sum += difference
        if (difference >= VISIBLE) changed += 1
        count += 1
      }
  }
  return count === 0 ? { deltaE: 0, changed: 0 } : { deltaE: sum / count, changed: changed / count }
}

/** What is seen of a picture at a place of its region. */
function colorsThrough({
  scrim,
  covered = [],
  ...picture
}: SeenPicture): (x: number, y: number) => Rgb {
  const { width, height } = picture.region
  const through = seenThrough(scrim, width, height)
  const colorAt = colorsOf(picture)
  return (x, y) =>
    covered
      .filter(({ boxes }) => boxes.some((box) => isIn(box, x, y)))
      .reduce((under, { layer }) => compositeOver(layer, under), through(x, y, colorAt(x, y)))
}

const isIn = (box: Box, x: number, y: number): boolean =>
  x >= box.x && x < box.x + box.width && y >= box.y && y < box.y + box.height

/** The colour of a picture at a place of the region that it covers. */
function colorsOf({ data, size, region, focal }: ShownPicture): (x: number, y: number) => Rgb {
  const { scale, shown } = coverRect(size, region, focal)
  const within = (value: number, length: number): number =>
    Math.min(length - 1, Math.max(0, Math.floor(value)))
  return (x, y) => {
    const column = within(shown.x + x / scale, size.width)
    const row = within(shown.y + y / scale, size.height)
    const at = (row * size.width + column) * 4
    return { r: data[at]!, g: data[at + 1]!, b: data[at + 2]! }
  }
}
