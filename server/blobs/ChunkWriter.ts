import { ApiError } from '../ApiError'
import type { Database } from '../store/database'
import { CHUNK_BYTES, type BlobState } from './BlobState'
import type { RunningHashes } from './RunningHashes'

/*
 * One statement updates the count of received bytes and stores the chunk, so that both happen or
 * neither. It does nothing if the count is not the one this writer knows: then another request has
 * written in between.
 */
const STORE_CHUNK = `
  WITH moved AS (
    UPDATE blobs SET received = $4, touched_at = now()
    WHERE id = $1 AND received = $3 AND sha256 IS NULL AND $4 <= size
    RETURNING id
  )
  INSERT INTO chunks (blob_id, seq, data) SELECT id, $2, $5 FROM moved
  ON CONFLICT (blob_id, seq) DO UPDATE SET data = EXCLUDED.data
  RETURNING seq`

/**
 * Fills chunks from a stream and stores them, one while the next one fills. Memory: two chunks at
 * any time. After a write has failed every further call fails with the same error.
 */
export class ChunkWriter {
  private readonly database: Database
  private readonly hashes: RunningHashes
  private readonly blob: BlobState
  /** Bytes stored, or about to be: where the next ones belong. */
  private received: number
  private buffer: Buffer
  private spare: Buffer | null = null
  /** Bytes in the buffer, and how many of them were stored before. */
  private filled: number
  private storedBefore: number
  private writing: Promise<void> = Promise.resolve()
  private failure: { readonly error: unknown } | null = null

  private constructor(database: Database, hashes: RunningHashes, blob: BlobState, held: Buffer) {
    this.database = database
    this.hashes = hashes
    this.blob = blob
    this.received = blob.received
    this.buffer = Buffer.allocUnsafe(CHUNK_BYTES)
    held.copy(this.buffer)
    this.filled = held.byteLength
    this.storedBefore = held.byteLength
  }

  /**
   * A writer that continues an existing file: a partly filled last chunk is fetched and filled up.
   */
  static async open(
    database: Database,
    hashes: RunningHashes,
    blob: BlobState,
  ): Promise<ChunkWriter> {
    const within = blob.received % CHUNK_BYTES
    if (within === 0) return new ChunkWriter(database, hashes, blob, Buffer.alloc(0))
    const rows = await database.query<{ data: Buffer }>(
      'SELECT substring(data FROM 1 FOR $3::int) AS data FROM chunks WHERE blob_id = $1 AND seq = $2',
      [blob.id, Math.floor(blob.received / CHUNK_BYTES), within],
    )
    const held = rows[0]?.data ?? Buffer.alloc(0)
    if (held.byteLength !== within) throw new ApiError('storage/incomplete')
    return new ChunkWriter(database, hashes, blob, held)
  }

  get failed(): boolean {
    return this.failure !== null
  }

  /**
   * Takes a part of the stream. Errors: `upload/too-large` for more bytes than were announced;
   * those of storing.
   */
  async add(part: Uint8Array): Promise<void> {
    if (this.failure) throw this.failure.error
    if (this.received - this.storedBefore + this.filled + part.byteLength > this.blob.size) {
      throw new ApiError('upload/too-large')
    }
    for (let at = 0; at < part.byteLength;) {
      const taken = Math.min(part.byteLength - at, CHUNK_BYTES - this.filled)
      this.buffer.set(part.subarray(at, at + taken), this.filled)
      this.filled += taken
      at += taken
      if (this.filled === CHUNK_BYTES) await this.store()
    }
  }

  /**
   * Stores what is left and waits until everything is stored; returns the bytes that the file holds
   * then.
   */
  async finish(): Promise<number> {
    if (this.filled > this.storedBefore) await this.store()
    await this.writing
    if (this.failure) throw this.failure.error
    return this.received
  }

  /** Waits until nothing is being written any more; stores nothing further. */
  async abandon(): Promise<void> {
    await this.writing
  }

  /**
   * Gives the buffer to the database and continues with the other one, once the previous write has
   * succeeded.
   */
  private async store(): Promise<void> {
    await this.writing
    if (this.failure) throw this.failure.error
    const { buffer, filled, storedBefore, received } = this
    const from = received
    const to = received + filled - storedBefore
    this.writing = this.write(buffer.subarray(0, filled), storedBefore, from, to).then(
      () => void (this.spare = buffer),
      (error: unknown) => {
        this.failure = { error }
        this.hashes.forget(this.blob.id)
      },
    )
    this.received = to
    // A chunk that stays partly filled is the last of this stream: it need not be kept for more.
    this.buffer = this.spare ?? Buffer.allocUnsafe(CHUNK_BYTES)
    this.spare = null
    this.filled = 0
    this.storedBefore = 0
  }

  private async write(
    chunk: Buffer,
    storedBefore: number,
    from: number,
    to: number,
  ): Promise<void> {
    const seq = Math.floor(from / CHUNK_BYTES)
    const rows = await this.database.query(STORE_CHUNK, [this.blob.id, seq, from, to, chunk])
    if (rows.length === 0) throw new ApiError('upload/offset')
    this.hashes.update(this.blob.id, from, chunk.subarray(storedBefore))
  }
}
