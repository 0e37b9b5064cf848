import type { ByteSource } from '../../bytes/ByteSource'
import { ContainerError } from '../../bytes/ContainerError'

/** What to do to a file without encoding anything again. */
export interface RepairOrder {
  readonly container: 'mp4' | 'mov' | 'webm' | 'mkv'
  readonly keepSound: boolean
  /**
   * The part to keep, in milliseconds on the presentation time line; null: from the start, to the
   * end.
   */
  readonly startMs: number | null
  readonly endMs: number | null
  /** Whether metadata about people, places, devices and times go. */
  readonly strip: boolean
}

/** A part of the new file: new bytes, or a range copied from the old file. */
export type Piece =
  { readonly bytes: Uint8Array } | { readonly offset: number; readonly length: number }

/** A new file, made up of pieces in order. */
export interface RepairPlan {
  readonly pieces: readonly Piece[]
  readonly bytes: number
  /**
   * Where the picture really starts, in milliseconds of the old file: the key frame at or before
   * what was asked.
   */
  readonly startMs: number
  readonly container: RepairOrder['container']
}

/** Ranges are copied in steps of so many bytes. */
const STEP_BYTES = 4 * 1024 * 1024

/**
 * The new file's bytes, step by step. Errors: `media/truncated` where the old file ends before it
 * said it would.
 */
export async function* bytesOfPlan(
  plan: Pick<RepairPlan, 'pieces'>,
  source: ByteSource,
): AsyncGenerator<Uint8Array> {
  for (const piece of plan.pieces) {
    if ('bytes' in piece) {
      yield piece.bytes
      continue
    }
    for (let done = 0; done < piece.length; done += STEP_BYTES) {
      const want = Math.min(STEP_BYTES, piece.length - done)
      const bytes = await source.read(piece.offset + done, want)
      if (bytes.byteLength < want)
        throw new ContainerError('media/truncated', { offset: piece.offset + done })
      yield bytes
    }
  }
}

/** Pieces with neighbouring ranges joined. */
export function joinPieces(pieces: readonly Piece[]): Piece[] {
  const joined: Piece[] = []
  for (const piece of pieces) {
    const last = joined[joined.length - 1]
    if (last && 'offset' in last && 'offset' in piece && last.offset + last.length === piece.offset)
      joined[joined.length - 1] = { offset: last.offset, length: last.length + piece.length }
    else joined.push(piece)
  }
  return joined
}

/** Bytes that a list of pieces comes to. */
export function lengthOf(pieces: readonly Piece[]): number {
  return pieces.reduce(
    (sum, piece) => sum + ('bytes' in piece ? piece.bytes.byteLength : piece.length),
    0,
  )
}
