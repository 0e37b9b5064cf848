import type { Plane } from '../picture/I420'
import { shrinkPlane } from '../picture/shrinkPlane'

/** The grid on which edges are watched: fine enough for the letters of a station mark. */
const ACROSS = 480
const DOWN = 270
/** An edge is a step of so many luma levels between neighbours. */
const MIN_EDGE = 14
/** It stays if the mean picture has it too, and so large a share of the frames. */
const MIN_KEPT = 0.82
/** The surroundings of a mark change by at least so many levels (standard deviation). */
const MIN_CHANGE = 5
/** Edge pixels so near each other belong together. */
const REACH = 4
const MIN_PIXELS = 40
const FEWEST_FRAMES = 6

/** A place of the picture, as shares of width and height. */
export interface Place {
  readonly x: number
  readonly y: number
  readonly width: number
  readonly height: number
}

/**
 * Finds lettering or marks burnt into a clip: edges that stay while their surroundings and
 * background change. Memory does not grow with the number of frames.
 */
export class MarkMeter {
  private readonly sum = new Float32Array(ACROSS * DOWN)
  private readonly squares = new Float32Array(ACROSS * DOWN)
  /** In how many frames there was an edge. */
  private readonly edges = new Uint32Array(ACROSS * DOWN)
  private frames = 0

  /** Takes a frame's luma at any size. A dozen frames spread over the clip are enough. */
  see(luma: Plane): void {
    const grid = shrinkPlane(luma, ACROSS, DOWN)
    this.frames += 1
    for (let at = 0; at < grid.length; at++) {
      const value = grid[at]!
      this.sum[at]! += value
      this.squares[at]! += value * value
      if (edgeAt(grid, at) >= MIN_EDGE) this.edges[at]! += 1
    }
  }

  /**
   * The places of marks, the largest first; none if nothing moves, because then every edge stays.
   */
  find(): Place[] {
    if (this.frames < FEWEST_FRAMES) return []
    const mean = this.sum.map((sum) => sum / this.frames)
    const change = this.squares.map((sum, at) =>
      Math.sqrt(Math.max(0, sum / this.frames - mean[at]! ** 2)),
    )
    const stays = new Uint8Array(ACROSS * DOWN)
    for (let at = 0; at < stays.length; at++) {
      const kept = edgeAt(mean, at)
      if (kept >= MIN_EDGE && this.edges[at]! >= MIN_KEPT * this.frames) stays[at] = 1
    }
    return joinWords(clusters(stays).filter((cluster) => isMark(cluster, stays, mean, change)))
      .sort((a, b) => b.pixels - a.pixels)
      .map(({ left, top, right, bottom }) => ({
        x: left / ACROSS,
        y: top / DOWN,
        width: (right - left + 1) / ACROSS,
        height: (bottom - top + 1) / DOWN,
      }))
  }
}

/** The step to the right and downward neighbours, the larger of both, signed as it comes. */
function edgeAt(grid: Float32Array, at: number): number {
  const x = at % ACROSS
  const right = x + 1 < ACROSS ? Math.abs(grid[at + 1]! - grid[at]!) : 0
  const below = at + ACROSS < grid.length ? Math.abs(grid[at + ACROSS]! - grid[at]!) : 0
  return Math.max(right, below)
}

interface Cluster {
  readonly left: number
  readonly top: number
  readonly right: number
  readonly bottom: number
  readonly pixels: number
}

/** Groups marked pixels that lie within reach of each other. */
function clusters(stays: Uint8Array): Cluster[] {
  const seen = new Uint8Array(stays.length)
  const found: Cluster[] = []
  for (let start = 0; start < stays.length; start++) {
    if (stays[start] !== 1 || seen[start] === 1) continue
    const queue = [start]
    seen[start] = 1
    let [left, top, right, bottom] = [ACROSS, DOWN, 0, 0]
    for (let next = 0; next < queue.length; next++) {
      const x = queue[next]! % ACROSS
      const y = Math.floor(queue[next]! / ACROSS)
      left = Math.min(left, x)
      right = Math.max(right, x)
      top = Math.min(top, y)
      bottom = Math.max(bottom, y)
      for (const at of neighbours(x, y)) {
        if (stays[at] !== 1 || seen[at] === 1) continue
        seen[at] = 1
        queue.push(at)
      }
    }
    found.push({ left, top, right, bottom, pixels: queue.length })
  }
  return found
}

/** The places of the grid within `REACH` of one, as indexes; the place itself included. */
function* neighbours(x: number, y: number): Generator<number> {
  const right = Math.min(ACROSS - 1, x + REACH)
  for (let row = Math.max(0, y - REACH); row <= Math.min(DOWN - 1, y + REACH); row++)
    for (let column = Math.max(0, x - REACH); column <= right; column++) yield row * ACROSS + column
}

/** Words of a line so near each other are one mark, in grid columns. */
const WORD_GAP = 20

/** Joins marks that stand beside each other on one line. */
function joinWords(marks: readonly Cluster[]): Cluster[] {
  const joined: Cluster[] = []
  for (const mark of [...marks].sort((a, b) => a.left - b.left)) {
    const line = joined.findIndex(
      (other) =>
        mark.left - other.right <= WORD_GAP && mark.top <= other.bottom && mark.bottom >= other.top,
    )
    if (line < 0) joined.push(mark)
    else {
      const other = joined[line]!
      joined[line] = {
        left: Math.min(other.left, mark.left),
        top: Math.min(other.top, mark.top),
        right: Math.max(other.right, mark.right),
        bottom: Math.max(other.bottom, mark.bottom),
        pixels: other.pixels + mark.pixels,
      }
    }
  }
  return joined
}

/**
 * Lettering is compact, has many edges, crosses from light to dark many times in a row, and its
 * surroundings change on all sides.
 */
function isMark(
  { left, top, right, bottom, pixels }: Cluster,
  stays: Uint8Array,
  mean: Float32Array,
  change: Float32Array,
): boolean {
  const width = right - left + 1
  const height = bottom - top + 1
  if (
    pixels < MIN_PIXELS ||
    width > ACROSS * 0.6 ||
    height > DOWN * 0.35 ||
    pixels < width * height * 0.12
  )
    return false
  let most = 0
  for (let y = top; y <= bottom; y++) {
    let crossings = 0
    let last = 0
    for (let x = Math.max(1, left); x <= right; x++) {
      const step = mean[y * ACROSS + x]! - mean[y * ACROSS + x - 1]!
      if (Math.abs(step) < MIN_EDGE * 0.6 || Math.sign(step) === last) continue
      crossings += 1
      last = Math.sign(step)
    }
    most = Math.max(most, crossings)
  }
  return most >= 4 && groundChanges({ left, top, right, bottom, pixels }, stays, change)
}

/**
 * All four sides must change: a ridge or a window frame has quiet surroundings on one side at
 * least.
 */
function groundChanges(
  { left, top, right, bottom }: Cluster,
  stays: Uint8Array,
  change: Float32Array,
): boolean {
  const side = (x0: number, y0: number, x1: number, y1: number): boolean => {
    let moving = 0
    let count = 0
    for (let y = Math.max(0, y0); y <= Math.min(DOWN - 1, y1); y++) {
      for (let x = Math.max(0, x0); x <= Math.min(ACROSS - 1, x1); x++) {
        if (stays[y * ACROSS + x] === 1) continue
        count += 1
        if (change[y * ACROSS + x]! >= MIN_CHANGE) moving += 1
      }
    }
    // A mark at the picture's edge has no ground on that side.
    return count === 0 || moving >= count * 0.6
  }
  return (
    side(left - 6, top, left - 2, bottom) &&
    side(right + 2, top, right + 6, bottom) &&
    side(left, top - 6, right, top - 2) &&
    side(left, bottom + 2, right, bottom + 6)
  )
}
