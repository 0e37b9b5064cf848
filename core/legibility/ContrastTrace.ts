import { ByteReader } from '../bytes/ByteReader'
import { ByteWriter } from '../bytes/ByteWriter'
import { ContainerError } from '../bytes/ContainerError'
import type { YuvKind } from '../picture/describeCells'
import type { I420 } from '../picture/I420'
import type { ShareRect } from '../picture/pictureShape'
import type { Size } from '../picture/Size'
import { yuvTables } from '../picture/yuvTables'
import { even } from '../weight/renditionSize'

/*
 * What is behind copy in every output frame, small enough to stay in memory: decoded once, asked
 * for every scrim, colour and place. A pixel stands for about 4 × 4 of a laptop's screen: it is
 * what the blur of the measure leaves. Source: docs/method.md (contrast).
 */

/** Pixels of a frame at full fineness: 320 × 180. */
const PIXELS = 320 * 180
/** Bytes of a trace of up to ten seconds; longer ones may have as much for each ten seconds. */
export const TRACE_BYTES = 8_000_000
/** Pixels are kept in squares: those behind copy, and as many more as there is room for. */
const TILE = 16
const TILE_BYTES = (TILE * TILE * 3) / 2
const TILE_LUMA = TILE * TILE
const TILE_CHROMA = TILE_LUMA / 4
/** The whole picture is known in as many cells, by the least and most of each channel. */
export const BOUNDS_ACROSS = 32
export const BOUNDS_DOWN = 18
const BOUNDS = BOUNDS_ACROSS * BOUNDS_DOWN
/** Least red, green, blue, then most. */
export const BOUND_BYTES = 6
/** Copy may move by so many pixels of the trace before it must be made anew. */
const MARGIN = 6

/** How a trace is laid out. */
export interface TracePlan {
  /** Pixels of a frame, even. */
  readonly width: number
  readonly height: number
  readonly frames: number
  /** Where each tile is kept within a frame, in order of the whole picture's; -1 for not at all. */
  readonly slots: Int32Array
  readonly kept: number
}

/** All frames of a base behind copy. */
export interface ContrastTrace extends TracePlan {
  readonly kind: YuvKind
  /** For each frame its kept tiles: luma, then Cb, then Cr of each. */
  readonly tiles: Uint8Array
  /** For each frame its cells, row after row, with `BOUND_BYTES` bytes each. */
  readonly bounds: Uint8Array
}

const acrossOf = (width: number): number => Math.ceil(width / TILE)

/**
 * The layout for a picture of some size: what lies behind `areas` (shares of the picture) at full
 * fineness as far as the bytes allow, then the surroundings, nearest first. `seconds` is the length
 * of the loop.
 */
export function planTrace(
  picture: Size,
  frames: number,
  seconds: number,
  areas: readonly ShareRect[],
): TracePlan {
  const limit = (TRACE_BYTES * Math.max(1, seconds / 10)) / frames - BOUNDS * BOUND_BYTES
  const finest = Math.min(1, Math.sqrt(PIXELS / (picture.width * picture.height)))
  // Squares do not follow areas exactly: a few rounds find the fineness that fits.
  for (let scale = finest; ; scale *= 0.95) {
    const width = even(picture.width * scale)
    const height = even(picture.height * scale)
    const distances = distancesOf(width, height, areas)
    const needed = distances.filter((each) => each === 0).length
    const room = Math.floor(limit / TILE_BYTES)
    if (needed > room && Math.max(width, height) > TILE) continue
    return { width, height, frames, ...keepNearest(distances, Math.max(needed, room)) }
  }
}

/** How far each tile is from the nearest area, in pixels; 0 within the margin. */
function distancesOf(width: number, height: number, areas: readonly ShareRect[]): number[] {
  const distances: number[] = []
  for (let top = 0; top < height; top += TILE)
    for (let left = 0; left < width; left += TILE) {
      const away = areas.map((area) => {
        const x = Math.max(area.x * width - (left + TILE), left - (area.x + area.width) * width, 0)
        const y = Math.max(area.y * height - (top + TILE), top - (area.y + area.height) * height, 0)
        return Math.max(0, Math.hypot(x, y) - MARGIN)
      })
      distances.push(Math.min(...away, width + height))
    }
  return distances
}

function keepNearest(
  distances: readonly number[],
  room: number,
): { readonly slots: Int32Array; readonly kept: number } {
  const chosen = distances
    .map((distance, tile) => ({ distance, tile }))
    .sort((one, other) => one.distance - other.distance || one.tile - other.tile)
    .slice(0, room)
    .map(({ tile }) => tile)
    .sort((one, other) => one - other)
  const slots = new Int32Array(distances.length).fill(-1)
  chosen.forEach((tile, slot) => (slots[tile] = slot))
  return { slots, kept: chosen.length }
}

/** Bytes that a trace takes. */
export const traceBytes = ({ frames, kept }: TracePlan): number =>
  frames * (kept * TILE_BYTES + BOUNDS * BOUND_BYTES)

/** Bytes of tiles in a frame of a trace. */
export const frameBytes = ({ kept }: TracePlan): number => kept * TILE_BYTES

/** Takes frames of the plan's size in their order. */
export class TraceWriter {
  private readonly plan: TracePlan
  private readonly tiles: Uint8Array
  private readonly bounds: Uint8Array
  /** What goes into tiles, by threes: where bytes are in a picture, where in a frame, how many. */
  private readonly runs: Int32Array
  /** The pair of columns at which each column of cells begins, and the last ends. */
  private readonly columns: Int32Array
  private readonly least = new Float32Array(BOUNDS * 3)
  private readonly most = new Float32Array(BOUNDS * 3)
  private kind: YuvKind = { matrix: 'bt709', fullRange: false }
  private tables = yuvTables(this.kind)
  private count = 0

  constructor(plan: TracePlan) {
    this.plan = plan
    this.tiles = new Uint8Array(plan.frames * frameBytes(plan))
    this.bounds = new Uint8Array(plan.frames * BOUNDS * BOUND_BYTES)
    this.runs = runsOf(plan)
    const pairs = Array.from({ length: plan.width / 2 }, (_, pair) =>
      boundColumn(2 * pair, plan.width),
    )
    this.columns = Int32Array.from({ length: BOUNDS_ACROSS + 1 }, (_, column) => {
      const first = pairs.findIndex((each) => each >= column)
      return first < 0 ? pairs.length : first
    })
  }

  /** Throws RangeError for a picture of another size, or one too many. */
  add(picture: I420, kind: YuvKind): void {
    const { width, height, frames } = this.plan
    if (picture.width !== width || picture.height !== height || this.count === frames)
      throw new RangeError(`no place for frame ${this.count} of ${picture.width} px`)
    if (this.count === 0) {
      this.kind = kind
      this.tables = yuvTables(kind)
    }
    this.keepTiles(picture)
    this.keepBounds(picture)
    this.count += 1
  }

  /** Throws RangeError while frames are missing. */
  finish(): ContrastTrace {
    const { plan, kind, tiles, bounds } = this
    if (this.count !== plan.frames) throw new RangeError(`${this.count} of ${plan.frames} frames`)
    return { ...plan, kind, tiles, bounds }
  }

  private keepTiles({ data }: I420): void {
    const { runs, tiles } = this
    const base = this.count * frameBytes(this.plan)
    for (let run = 0; run < runs.length; run += 3) {
      const from = runs[run]!
      const to = base + runs[run + 1]!
      const length = runs[run + 2]!
      for (let at = 0; at < length; at++) tiles[to + at] = data[from + at]!
    }
  }

  private keepBounds({ data }: I420): void {
    const { width, height } = this.plan
    const { luma, redOfCr, greenOfCb, greenOfCr, blueOfCb } = this.tables
    const { least, most, columns } = this
    least.fill(255)
    most.fill(0)
    // Whichever of its four luma samples is least or most, chroma is the same.
    for (let y = 0; y < height; y += 2) {
      const row = boundRow(y, height)
      const top = y * width
      const cbAt = width * height + top / 4
      const crAt = cbAt + (width * height) / 4
      for (let column = 0; column < BOUNDS_ACROSS; column++) {
        let leastRed = 255
        let leastGreen = 255
        let leastBlue = 255
        let mostRed = 0
        let mostGreen = 0
        let mostBlue = 0
        const end = columns[column + 1]!
        for (let pair = columns[column]!; pair < end; pair++) {
          const at = top + 2 * pair
          const a = data[at]!
          const b = data[at + 1]!
          const c = data[at + width]!
          const d = data[at + width + 1]!
          const ab = a < b ? a : b
          const cd = c < d ? c : d
          const low = luma[ab < cd ? ab : cd]!
          const abMost = a < b ? b : a
          const cdMost = c < d ? d : c
          const high = luma[abMost > cdMost ? abMost : cdMost]!
          const cb = data[cbAt + pair]!
          const cr = data[crAt + pair]!
          const red = redOfCr[cr]!
          const green = greenOfCb[cb]! + greenOfCr[cr]!
          const blue = blueOfCb[cb]!
          if (low + red < leastRed) leastRed = low + red
          if (low + green < leastGreen) leastGreen = low + green
          if (low + blue < leastBlue) leastBlue = low + blue
          if (high + red > mostRed) mostRed = high + red
          if (high + green > mostGreen) mostGreen = high + green
          if (high + blue > mostBlue) mostBlue = high + blue
        }
        const cell = 3 * (row + column)
        least[cell] = Math.min(least[cell]!, leastRed)
        least[cell + 1] = Math.min(least[cell + 1]!, leastGreen)
        least[cell + 2] = Math.min(least[cell + 2]!, leastBlue)
        most[cell] = Math.max(most[cell]!, mostRed)
        most[cell + 1] = Math.max(most[cell + 1]!, mostGreen)
        most[cell + 2] = Math.max(most[cell + 2]!, mostBlue)
      }
    }
    let to = this.count * BOUNDS * BOUND_BYTES
    for (let cell = 0; cell < BOUNDS * 3; cell += 3) {
      for (let channel = 0; channel < 3; channel++)
        this.bounds[to++] = Math.max(0, Math.floor(least[cell + channel]!))
      for (let channel = 0; channel < 3; channel++)
        this.bounds[to++] = Math.min(255, Math.ceil(most[cell + channel]!))
    }
  }
}

/** Runs of bytes that are copied from a picture into a frame's tiles, three numbers each. */
function runsOf({ width, height, slots }: TracePlan): Int32Array {
  const across = acrossOf(width)
  const chroma = { stride: width / 2, rows: height / 2, side: TILE / 2 }
  const planes = [
    { from: 0, stride: width, rows: height, side: TILE, to: 0 },
    { from: width * height, ...chroma, to: TILE_LUMA },
    { from: (width * height * 5) / 4, ...chroma, to: TILE_LUMA + TILE_CHROMA },
  ]
  const runs: number[] = []
  slots.forEach((slot, tile) => {
    if (slot < 0) return
    const [column, row] = [tile % across, Math.floor(tile / across)]
    for (const { from, stride, rows, side, to } of planes) {
      const [left, top] = [column * side, row * side]
      for (let y = 0; y < Math.min(side, rows - top); y++)
        runs.push(
          from + (top + y) * stride + left,
          slot * TILE_BYTES + to + y * side,
          Math.min(side, stride - left),
        )
    }
  })
  return Int32Array.from(runs)
}

/** The first cell of the row of cells that a row of the trace counts to: two by two the same. */
const boundRow = (y: number, height: number): number =>
  Math.floor(((y - (y % 2)) * BOUNDS_DOWN) / height) * BOUNDS_ACROSS

const boundColumn = (x: number, width: number): number =>
  Math.floor(((x - (x % 2)) * BOUNDS_ACROSS) / width)

/** The cell of bounds that a pixel of the trace counts to. */
export const boundCell = (x: number, y: number, width: number, height: number): number =>
  boundRow(y, height) + boundColumn(x, width)

/** Whether a trace has all of some areas (shares of the picture). */
export function keepsAreas(
  { width, height, slots }: TracePlan,
  areas: readonly ShareRect[],
): boolean {
  const across = acrossOf(width)
  const tileOf = (share: number, side: number): number =>
    Math.floor(Math.min(side - 1, Math.max(0, share * side)) / TILE)
  return areas.every((area) => {
    for (let row = tileOf(area.y, height); row <= tileOf(area.y + area.height, height); row++)
      for (
        let column = tileOf(area.x, width);
        column <= tileOf(area.x + area.width, width);
        column++
      )
        if ((slots[row * across + column] ?? -1) < 0) return false
    return true
  })
}
/** Where a pixel's luma and chroma are within a frame's tiles; null where they are not kept. */
export function placeInTiles(
  { width, slots }: TracePlan,
  x: number,
  y: number,
): { readonly luma: number; readonly cb: number; readonly cr: number } | null {
  const [column, row] = [Math.floor(x / TILE), Math.floor(y / TILE)]
  const slot = slots[row * acrossOf(width) + column] ?? -1
  if (slot < 0) return null
  const base = slot * TILE_BYTES
  const [left, top] = [x - column * TILE, y - row * TILE]
  const chroma = base + TILE_LUMA + (top >> 1) * (TILE / 2) + (left >> 1)
  return { luma: base + top * TILE + left, cb: chroma, cr: chroma + TILE_CHROMA }
}

const MAGIC = 'TLCT'
const MATRICES = ['bt709', 'bt601', 'bt2020'] as const
/** No trace is larger: what claims to be is refused before anything is allocated. */
const MAX_SIDE = 4096
const MAX_FRAMES = 20_000

/**
 * A trace as bytes: `TLCT`, version 1, matrix, range, a zero (a byte each), width and height (16
 * bits), frames (32), then a byte for each tile (1 where it is kept), tiles and bounds.
 */
export function encodeContrastTrace(trace: ContrastTrace): Uint8Array<ArrayBuffer> {
  const { kind, width, height, frames, slots, tiles, bounds } = trace
  const writer = new ByteWriter()
  writer.tag(MAGIC)
  for (const byte of [1, MATRICES.indexOf(kind.matrix), kind.fullRange ? 1 : 0, 0]) writer.u8(byte)
  writer.u16(width)
  writer.u16(height)
  writer.u32(frames)
  for (const slot of slots) writer.u8(slot < 0 ? 0 : 1)
  writer.raw(tiles)
  writer.raw(bounds)
  return writer.finish()
}

/**
 * Reads `encodeContrastTrace`'s bytes. Throws ContainerError `media/bad-value` for anything else,
 * `media/bad-size` where the length does not fit.
 */
export function decodeContrastTrace(bytes: Uint8Array): ContrastTrace {
  const bad = () => new ContainerError('media/bad-value', { subject: 'contrast trace' })
  const reader = new ByteReader(bytes)
  if (reader.remaining < 16 || reader.tag() !== MAGIC || reader.u8() !== 1) throw bad()
  const matrix = MATRICES[reader.u8()]
  const range = reader.u8()
  if (!matrix || range > 1 || reader.u8() !== 0) throw bad()
  const [width, height, frames] = [reader.u16(), reader.u16(), reader.u32()]
  const isSane = (side: number): boolean => side >= 2 && side % 2 === 0 && side <= MAX_SIDE
  if (!isSane(width) || !isSane(height) || frames === 0 || frames > MAX_FRAMES) throw bad()
  const tiles = acrossOf(width) * acrossOf(height)
  const wrong = () => new ContainerError('media/bad-size', { subject: 'contrast trace' })
  if (reader.remaining < tiles) throw wrong()
  const slots = new Int32Array(tiles)
  let kept = 0
  for (let tile = 0; tile < tiles; tile++) {
    const flag = reader.u8()
    if (flag > 1) throw bad()
    slots[tile] = flag === 1 ? kept++ : -1
  }
  const plan = { width, height, frames, slots, kept }
  if (reader.remaining !== traceBytes(plan)) throw wrong()
  return {
    ...plan,
    kind: { matrix, fullRange: range === 1 },
    tiles: reader.raw(frames * frameBytes(plan)).slice(),
    bounds: reader.raw(frames * BOUNDS * BOUND_BYTES).slice(),
  }
}
