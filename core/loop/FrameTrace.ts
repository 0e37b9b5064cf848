import { ByteReader } from '../bytes/ByteReader'
import { ByteWriter } from '../bytes/ByteWriter'
import { ContainerError } from '../bytes/ContainerError'
import { CELLS_ACROSS, CELLS_DOWN } from '../picture/describeI420'
import type { Oklab } from '../picture/convertSrgbToOklab'

/** Cells of one moment; each takes three bytes. Source: docs/method.md (seam): 32 × 18 cells. */
export const TRACE_CELLS = CELLS_ACROSS * CELLS_DOWN
const MOMENT_BYTES = TRACE_CELLS * 3
/** Moments per second that are kept: the search needs no more, and refines on frames. */
const TRACE_RATE = 10
/** Maximum number of moments: longer clips are sampled less often. */
const MAX_MOMENTS = 9000

/**
 * A clip as a list of small descriptions, about ten a second: what the search for loops compares.
 * Kept with the source after it was measured, so that no search decodes the whole clip again. One
 * byte for lightness and each opponent axis of a cell: one level of a byte is ΔE 0.4.
 */
export interface FrameTrace {
  /** When each moment is shown, in seconds, rising. */
  readonly seconds: Float64Array
  /** `TRACE_CELLS` × 3 bytes for each moment, one after another. */
  readonly cells: Uint8Array
}

/** The least distance of two kept moments in seconds, for a clip of this length. */
export function traceStep(durationSeconds: number): number {
  return Math.max(1 / TRACE_RATE, durationSeconds / MAX_MOMENTS)
}

const byte = (value: number): number => Math.min(255, Math.max(0, Math.round(value)))

/** Collects a trace from the frames of a clip in order. */
export class TraceBuilder {
  private readonly step: number
  private readonly seconds: number[] = []
  private cells = new Uint8Array(64 * MOMENT_BYTES)

  constructor(durationSeconds: number) {
    this.step = traceStep(durationSeconds)
  }

  /** Whether the frame shown at `seconds` is to be described. */
  wants(seconds: number): boolean {
    const count = this.seconds.length
    // Half a thousandth forgives rounding: a clip of exactly ten frames a second is kept whole.
    return count === 0 || seconds >= this.seconds[count - 1]! + this.step - 0.0005
  }

  /** Takes the description of a frame that was wanted. */
  add(seconds: number, cells: readonly Oklab[]): void {
    const at = this.seconds.length * MOMENT_BYTES
    if (at + MOMENT_BYTES > this.cells.byteLength) {
      const larger = new Uint8Array(this.cells.byteLength * 2)
      larger.set(this.cells)
      this.cells = larger
    }
    this.seconds.push(seconds)
    cells.forEach((cell, index) => {
      this.cells[at + index * 3] = byte(cell.lightness * 255)
      this.cells[at + index * 3 + 1] = byte(cell.a * 255 + 128)
      this.cells[at + index * 3 + 2] = byte(cell.b * 255 + 128)
    })
  }

  finish(): FrameTrace {
    return {
      seconds: Float64Array.from(this.seconds),
      cells: this.cells.slice(0, this.seconds.length * MOMENT_BYTES),
    }
  }
}

/** Mean ΔE (OKLab × 100) between moments `i` and `j` of a trace. */
export function traceDistance({ cells }: FrameTrace, i: number, j: number): number {
  let sum = 0
  const [a, b] = [i * MOMENT_BYTES, j * MOMENT_BYTES]
  for (let at = 0; at < MOMENT_BYTES; at += 3) {
    const l = cells[a + at]! - cells[b + at]!
    const u = cells[a + at + 1]! - cells[b + at + 1]!
    const v = cells[a + at + 2]! - cells[b + at + 2]!
    sum += Math.sqrt(l * l + u * u + v * v)
  }
  return (sum * 100) / 255 / TRACE_CELLS
}

/**
 * Mean ΔE between how the picture moves on after moment `i` and after moment `j`: the difference of
 * their differences to the next moment.
 */
export function traceVelocityDistance({ cells }: FrameTrace, i: number, j: number): number {
  let sum = 0
  const [a, b] = [i * MOMENT_BYTES, j * MOMENT_BYTES]
  for (let at = 0; at < MOMENT_BYTES; at += 3) {
    const l =
      cells[a + at + MOMENT_BYTES]! -
      cells[a + at]! -
      cells[b + at + MOMENT_BYTES]! +
      cells[b + at]!
    const u =
      cells[a + at + 1 + MOMENT_BYTES]! -
      cells[a + at + 1]! -
      cells[b + at + 1 + MOMENT_BYTES]! +
      cells[b + at + 1]!
    const v =
      cells[a + at + 2 + MOMENT_BYTES]! -
      cells[a + at + 2]! -
      cells[b + at + 2 + MOMENT_BYTES]! +
      cells[b + at + 2]!
    sum += Math.sqrt(l * l + u * u + v * v)
  }
  return (sum * 100) / 255 / TRACE_CELLS
}

const MAGIC = 'TLTR'

/**
 * A trace as bytes: `TLTR`, version 1, cells across and down (a byte each), a zero, the count (32
 * bits), times in milliseconds (32 bits each), cells.
 */
export function encodeTrace({ seconds, cells }: FrameTrace): Uint8Array<ArrayBuffer> {
  const writer = new ByteWriter()
  writer.tag(MAGIC)
  for (const value of [1, CELLS_ACROSS, CELLS_DOWN, 0]) writer.u8(value)
  writer.u32(seconds.length)
  for (const each of seconds) writer.u32(Math.round(each * 1000))
  writer.raw(cells)
  return writer.finish()
}

/**
 * Reads `encodeTrace`'s bytes. Throws ContainerError `media/bad-value` for anything else,
 * `media/bad-size` where the length does not fit the count.
 */
export function decodeTrace(bytes: Uint8Array): FrameTrace {
  const reader = new ByteReader(bytes)
  const known =
    reader.remaining >= 12 &&
    reader.tag() === MAGIC &&
    reader.u8() === 1 &&
    reader.u8() === CELLS_ACROSS &&
    reader.u8() === CELLS_DOWN &&
    reader.u8() === 0
  if (!known) throw new ContainerError('media/bad-value', { subject: 'trace' })
  const count = reader.u32()
  if (reader.remaining !== count * (4 + MOMENT_BYTES))
    throw new ContainerError('media/bad-size', { subject: 'trace' })
  const seconds = Float64Array.from({ length: count }, () => reader.u32() / 1000)
  return { seconds, cells: reader.raw(count * MOMENT_BYTES).slice() }
}
