import { Readable } from 'node:stream'
import { CHUNK_BYTES } from './BlobState'
import type { BlobStore, StoredBlob } from './BlobStore'

/** Sealed files that are remembered; a page asks for ranges of the same few over and over. */
const MAX_REMEMBERED = 1000

/**
 * Sealed files for reading. The position of a file is cached, so that a range costs one statement.
 * The cache may be out of date because unused files are swept: if a file's bytes are not found, it
 * is looked up again.
 */
export class BlobReader {
  private readonly blobs: BlobStore
  private readonly remembered = new Map<string, StoredBlob>()

  constructor(blobs: BlobStore) {
    this.blobs = blobs
  }

  /** A file by its digest, from the database. */
  async find(sha256: string): Promise<StoredBlob | null> {
    const blob = await this.blobs.findBySha256(sha256)
    if (!blob) this.remembered.delete(sha256)
    else this.remember(blob)
    return blob
  }

  /**
   * A file by its digest, from memory where it was asked for before. Whether its bytes are there,
   * `open` finds out.
   */
  async findRemembered(sha256: string): Promise<StoredBlob | null> {
    return this.remembered.get(sha256) ?? this.find(sha256)
  }

  /**
   * The bytes `[start, end)`, not empty: at once where they lie in one chunk, else as a stream that
   * reads one chunk ahead of what its reader takes. The first chunk is read before this returns, so
   * a failure of the database is an error here, not a stream that breaks off. Null where the bytes
   * are gone; the file is looked up again next time.
   */
  async open(blob: StoredBlob, start: number, end: number): Promise<Buffer | Readable | null> {
    const firstEnd = Math.min(end, (Math.floor(start / CHUNK_BYTES) + 1) * CHUNK_BYTES)
    const first = await this.blobs.read(blob.id, start, firstEnd)
    if (first.byteLength < firstEnd - start) {
      this.remembered.delete(blob.sha256)
      return null
    }
    if (firstEnd === end) return first
    return Readable.from(withFirst(first, this.blobs.stream(blob.id, firstEnd, end)), {
      objectMode: false,
      highWaterMark: 65_536,
    })
  }

  private remember(blob: StoredBlob): void {
    this.remembered.set(blob.sha256, blob)
    const oldest =
      this.remembered.size > MAX_REMEMBERED ? this.remembered.keys().next().value : undefined
    if (oldest !== undefined) this.remembered.delete(oldest)
  }
}

async function* withFirst(first: Buffer, rest: AsyncGenerator<Buffer>): AsyncGenerator<Buffer> {
  yield first
  yield* rest
}
