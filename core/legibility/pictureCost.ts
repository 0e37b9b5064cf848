import { coverRect, type Point, type Size } from '../fit/cover'
import { convertSrgbToOklab, deltaE } from '../picture/convertSrgbToOklab'
import type { Rgb } from '../picture/srgb'
import type { Scrim } from '../scrim/Scrim'
import { seenThrough } from '../scrim/scrimAt'

/** A small picture of what is behind copy, and how a screen shows it. */
export interface ShownPicture {
  /** RGBA, row after row. */
  readonly data: Uint8ClampedArray
  readonly size: Size
  readonly region: Size
  readonly focal: Point
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
 * How far what is seen of pictures differs between two scrims of each, on average over places and
 * pictures.
 * Source: docs/method.md (contrast).
 */
export function pictureCost<P extends ShownPicture>(
  pictures: readonly P[],
  before: (picture: P) => Scrim,
  after: (picture: P) => Scrim,
): PictureCost {
  let [sum, changed, count] = [0, 0, 0]
  for (const picture of pictures) {
    const { region } = picture
    const [was, is] = [before, after].map((scrimOf) =>
      seenThrough(scrimOf(picture), region.width, region.height),
    )
    const colorAt = colorsOf(picture)
    for (let row = 0; row < DOWN; row++)
      for (let column = 0; column < ACROSS; column++) {
        const x = ((column + 0.5) / ACROSS) * region.width
        const y = ((row + 0.5) / DOWN) * region.height
        const ground = colorAt(x, y)
        const [one, other] = [was!(x, y, ground), is!(x, y, ground)].map(({ r, g, b }) =>
          convertSrgbToOklab(r, g, b),
        )
        const difference = deltaE(one!, other!)
        sum += difference
        if (difference >= VISIBLE) changed += 1
        count += 1
      }
  }
  return count === 0 ? { deltaE: 0, changed: 0 } : { deltaE: sum / count, changed: changed / count }
}

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
