import type { Plane } from '../picture/I420'
import type { Place } from './MarkMeter'

/** Luma (limited range, 16 is black) up to which a row counts as black, and how even it must be. */
const BLACKEST = 24
const MAX_SPREAD = 6
/** Luma that a row of picture reaches now and then: black bars have an edge, a night sky fades. */
const PICTURE_LUMA = 40
/** A side's bar counts from this share of the picture. */
const MIN_SHARE = 0.01
const MAX_SHARE = 0.4

/**
 * Finds black bars around a clip's picture: rows and columns at its edges that are black in every
 * frame and end at an edge.
 */
export class BarMeter {
  /**
   * Black lines from top, bottom, left and right, the fewest of all frames; null before the first
   * frame with a picture.
   */
  private min: [number, number, number, number] | null = null
  private size = { width: 0, height: 0 }

  /** Measures a frame's luma. Completely black frames are ignored. */
  see(luma: Plane): void {
    const rows = (from: number, step: number): number =>
      count(luma.height, (line) => isBlack(luma, from + step * line, 0, luma.width, 1))
    const columns = (from: number, step: number): number =>
      count(luma.width, (line) => isBlack(luma, 0, from + step * line, luma.height, luma.width))
    const top = rows(0, 1)
    if (top === luma.height) return
    const sides: [number, number, number, number] = [
      top,
      rows(luma.height - 1, -1),
      columns(0, 1),
      columns(luma.width - 1, -1),
    ]
    // A dark picture that fades into the edge has no line where it begins: such a side holds no
    // bar.
    const [upper, lower, left, right] = sides
    const edges = [
      lineReaches(luma, upper, 0, luma.width, 1),
      lineReaches(luma, luma.height - 1 - lower, 0, luma.width, 1),
      lineReaches(luma, 0, left, luma.height, luma.width),
      lineReaches(luma, 0, luma.width - 1 - right, luma.height, luma.width),
    ]
    this.size = { width: luma.width, height: luma.height }
    const seen = sides.map((lines, side) =>
      edges[side] ? lines : this.min ? Math.min(lines, this.min[side]!) : 0,
    ) as [number, number, number, number]
    this.min = this.min
      ? (this.min.map((lines, side) => Math.min(lines, seen[side]!)) as [
          number,
          number,
          number,
          number,
        ])
      : seen
  }

  /** The picture within the bars, in shares of the whole; null where there are none. */
  find(): Place | null {
    if (!this.min) return null
    const { width, height } = this.size
    const share = (lines: number, of: number): number =>
      lines / of >= MIN_SHARE && lines / of <= MAX_SHARE ? (lines + 1) / of : 0
    const [top, bottom, left, right] = [
      share(this.min[0], height),
      share(this.min[1], height),
      share(this.min[2], width),
      share(this.min[3], width),
    ]
    if (top + bottom + left + right === 0) return null
    const round = (value: number): number => Math.round(value * 10_000) / 10_000
    return {
      x: round(left),
      y: round(top),
      width: round(1 - left - right),
      height: round(1 - top - bottom),
    }
  }
}

function count(most: number, black: (line: number) => boolean): number {
  let lines = 0
  while (lines < most && black(lines)) lines += 1
  return lines
}

/** Whether a row (`step` 1) or column (`step` the width) is black and even. */
function isBlack(
  { data, width }: Plane,
  y: number,
  x: number,
  length: number,
  step: number,
): boolean {
  let [low, high] = [255, 0]
  for (let index = 0, at = y * width + x; index < length; index++, at += step) {
    const value = data[at]!
    if (value > BLACKEST) return false
    low = Math.min(low, value)
    high = Math.max(high, value)
  }
  return high - low <= MAX_SPREAD
}

function lineReaches(
  { data, width, height }: Plane,
  y: number,
  x: number,
  length: number,
  step: number,
): boolean {
  if (y < 0 || x < 0 || y >= height || x >= width) return false
  let bright = 0
  for (let index = 0, at = y * width + x; index < length; index++, at += step)
    if (data[at]! > PICTURE_LUMA) bright += 1
  return bright > length / 4
}
