/**
 * Bytes a chunk row holds; only the last of a file holds fewer. The database checks the length,
 * too.
 */
export const CHUNK_BYTES = 1024 * 1024

/** A file that is there, or on its way. */
export interface BlobState {
  readonly id: string
  /** Null until it is sealed. */
  readonly sha256: string | null
  readonly size: number
  readonly received: number
}
