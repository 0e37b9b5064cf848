import { Readable } from 'node:stream'
import type { Transaction } from 'sequelize'
import type { ByteSource } from '../../core/bytes/ByteSource'
import { ApiError } from '../ApiError'
import type { Database } from '../store/database'
import { CHUNK_BYTES, type BlobState } from './BlobState'
import { ChunkWriter } from './ChunkWriter'
import { RunningHashes } from './RunningHashes'

/** A file that is whole: its content's digest and size. */
export interface StoredBlob {
  readonly id: string
  readonly sha256: string
  readonly size: number
}

interface BlobColumns {
  id: string
  sha256: string | null
  size: string
  received: string
}

const toState = (row: BlobColumns): BlobState => ({
  id: row.id,
  sha256: row.sha256,
  size: Number(row.size),
  received: Number(row.received),
})

/**
 * Files in PostgreSQL, content-addressed. A file is created, grows chunk by chunk (also after an
 * interruption), and is sealed under the SHA-256 of its bytes; equal content is stored once.
 * Exactness: a chunk and the count of received bytes change in one statement, so the count always
 * equals what is stored. Nothing is written after a write that failed. Sealing compares the number
 * and lengths of the chunks with the announced size. A sealed file never changes.
 */
export class BlobStore {
  private readonly database: Database
  private readonly hashes = new RunningHashes()

  constructor(database: Database) {
    this.database = database
  }

  /** Begins a file of `size` bytes under an id of the caller's. */
  async begin(id: string, size: number, transaction: Transaction | null = null): Promise<void> {
    await this.database.query(
      'INSERT INTO blobs (id, size, received, created_at) VALUES ($1, $2, 0, now())',
      [id, size],
      transaction,
    )
  }

  async find(id: string, transaction: Transaction | null = null): Promise<BlobState | null> {
    const rows = await this.database.query<BlobColumns>(
      'SELECT id, sha256, size, received FROM blobs WHERE id = $1',
      [id],
      transaction,
    )
    return rows[0] ? toState(rows[0]) : null
  }

  /** A whole file by its digest. */
  async findBySha256(
    sha256: string,
    transaction: Transaction | null = null,
  ): Promise<StoredBlob | null> {
    const rows = await this.database.query<BlobColumns>(
      'SELECT id, sha256, size, received FROM blobs WHERE sha256 = $1',
      [sha256],
      transaction,
    )
    return rows[0] ? { id: rows[0].id, sha256, size: Number(rows[0].size) } : null
  }

  /**
   * Appends a stream at `offset`; returns the bytes stored afterwards. What arrived before the
   * stream broke off is kept, so that an upload can resume there. When a write fails, the rest of
   * the stream is not read. Errors: `upload/not-found`; `upload/offset` if the file has more or
   * fewer bytes; `upload/too-large`.
   */
  async append(id: string, offset: number, stream: AsyncIterable<Uint8Array>): Promise<number> {
    const blob = await this.find(id)
    if (!blob) throw new ApiError('upload/not-found')
    if (blob.received !== offset) throw new ApiError('upload/offset', { received: blob.received })
    const writer = await ChunkWriter.open(this.database, this.hashes, blob)
    try {
      for await (const part of stream) await writer.add(part)
    } catch (error) {
      // The stream broke off: what arrived is worth keeping. After a failed write nothing may be
      // written.
      if (!writer.failed && !isTooLarge(error)) await writer.finish()
      else await writer.abandon()
      throw error
    }
    return writer.finish()
  }

  /**
   * Seals a complete file under its digest. If the same content is stored already, this copy is
   * removed and that one returned; a file that is sealed already is returned unchanged. Errors:
   * `storage/incomplete`, `upload/not-found`; `upload/damaged` if `expectedSha256` is another
   * digest.
   */
  async seal(
    id: string,
    options: { transaction?: Transaction; expectedSha256?: string | null } = {},
  ): Promise<StoredBlob> {
    const blob = await this.find(id, options.transaction ?? null)
    if (!blob) throw new ApiError('upload/not-found')
    if (blob.sha256) return { id, sha256: blob.sha256, size: blob.size }
    // Bytes of a complete file cannot change any more, so the digest may be taken before the row is
    // locked.
    const sha256 = await this.digestOf(blob)
    const { expectedSha256 = null } = options
    if (expectedSha256 !== null && expectedSha256 !== sha256) throw new ApiError('upload/damaged')
    const sealed = await this.database.transaction(async (transaction) => {
      // Two files of the same content may be sealed at the same moment: the second waits, then
      // joins the first.
      await this.database.query(
        'SELECT pg_advisory_xact_lock(hashtextextended($1, 0))',
        [sha256],
        transaction,
      )
      await this.checkChunks(blob, transaction)
      const rows = await this.database.query<{ id: string; size: string }>(
        'UPDATE blobs SET unused_since = NULL, touched_at = now() WHERE sha256 = $1 RETURNING id, size',
        [sha256],
        transaction,
      )
      const same = rows[0]
      if (same && same.id !== id) {
        await this.database.query(
          'DELETE FROM blobs WHERE id = $1 AND sha256 IS NULL',
          [id],
          transaction,
        )
        return { id: same.id, sha256, size: Number(same.size) }
      }
      await this.database.query(
        'UPDATE blobs SET sha256 = $2 WHERE id = $1',
        [id, sha256],
        transaction,
      )
      return { id, sha256, size: blob.size }
    }, options.transaction)
    this.hashes.forget(id)
    return sealed
  }

  /** Stores a stream of known length. If anything fails, nothing of it is kept. */
  async store(size: number, stream: AsyncIterable<Uint8Array>): Promise<StoredBlob> {
    const id = crypto.randomUUID()
    await this.begin(id, size)
    try {
      await this.append(id, 0, stream)
      return await this.seal(id)
    } catch (error) {
      // Where the database is gone, this fails, too: what is left is swept as an abandoned file
      // later.
      await this.discard(id).catch(() => undefined)
      throw error
    }
  }

  /** Stores bytes in one go. */
  put(bytes: Uint8Array): Promise<StoredBlob> {
    return this.store(bytes.byteLength, Readable.from([bytes]))
  }

  /**
   * Removes a file that was not sealed; sealed files are only removed where nothing uses them any
   * more.
   */
  async discard(id: string, transaction: Transaction | null = null): Promise<void> {
    this.hashes.forget(id)
    await this.database.query(
      'DELETE FROM blobs WHERE id = $1 AND sha256 IS NULL',
      [id],
      transaction,
    )
  }

  /**
   * The bytes `[start, end)` as a stream of at most a chunk at a time. While one chunk is being
   * used, the next is read. Ends early where bytes are missing.
   */
  async *stream(id: string, start: number, end: number): AsyncGenerator<Buffer> {
    const partFrom = (from: number): Promise<Buffer> | null => {
      if (from >= end) return null
      const part = this.read(
        id,
        from,
        Math.min(end, (Math.floor(from / CHUNK_BYTES) + 1) * CHUNK_BYTES),
      )
      // A reader who left never reads the part that was fetched ahead, nor sees its error.
      part.catch(() => undefined)
      return part
    }
    let position = start
    let next = partFrom(position)
    while (next) {
      const part = await next
      if (part.byteLength === 0) return
      position += part.byteLength
      next = position % CHUNK_BYTES === 0 ? partFrom(position) : null
      yield part
    }
  }

  /**
   * The bytes `[start, end)`, which lie in one chunk, cut by the database; fewer where there are
   * fewer.
   */
  async read(id: string, start: number, end: number): Promise<Buffer> {
    const seq = Math.floor(start / CHUNK_BYTES)
    const from = start - seq * CHUNK_BYTES
    // The column is stored outside the row and uncompressed, so a part of it is read without the
    // rest.
    const whole = from === 0 && end - start === CHUNK_BYTES
    const rows = whole
      ? await this.database.query<{ data: Buffer }>(
          'SELECT data FROM chunks WHERE blob_id = $1 AND seq = $2',
          [id, seq],
        )
      : await this.database.query<{ data: Buffer }>(
          'SELECT substring(data FROM $3::int FOR $4::int) AS data FROM chunks WHERE blob_id = $1 AND seq = $2',
          [id, seq, from + 1, end - start],
        )
    return rows[0]?.data ?? Buffer.alloc(0)
  }

  /** A file as the core's readers want it. */
  source(blob: { readonly id: string; readonly size: number }): ByteSource {
    return {
      size: blob.size,
      read: async (offset, length) => {
        const end = Math.min(blob.size, offset + length)
        const parts: Buffer[] = []
        for await (const part of this.stream(blob.id, offset, end)) parts.push(part)
        return parts.length === 1 ? parts[0]! : Buffer.concat(parts)
      },
    }
  }

  /** The SHA-256 of what is stored, read again from the database. */
  async rehash(blob: { readonly id: string; readonly size: number }): Promise<string> {
    const hash = RunningHashes.create()
    for await (const part of this.stream(blob.id, 0, blob.size)) hash.update(part)
    return hash.digest('hex')
  }

  /**
   * The digest taken while the bytes came in, or taken from what is stored where they came in
   * several parts.
   */
  private async digestOf(blob: BlobState): Promise<string> {
    if (blob.received !== blob.size) throw new ApiError('storage/incomplete')
    return this.hashes.digest(blob.id, blob.size) ?? this.rehash(blob)
  }

  /**
   * Errors: `storage/incomplete` unless there are exactly the chunks that the size asks for, each
   * with its length.
   */
  private async checkChunks({ id, size }: BlobState, transaction: Transaction): Promise<void> {
    const [found] = await this.database.query<{ count: string; bytes: string; wrong: string }>(
      `SELECT count(*) AS count, coalesce(sum(octet_length(data)), 0) AS bytes,
        count(*) FILTER (WHERE octet_length(data) <> least($2::bigint, $3::bigint - seq * $2::bigint)) AS wrong
      FROM chunks WHERE blob_id = $1`,
      [id, CHUNK_BYTES, size],
      transaction,
    )
    const whole =
      Number(found?.count) === Math.ceil(size / CHUNK_BYTES) &&
      Number(found?.bytes) === size &&
      Number(found?.wrong) === 0
    if (!whole) throw new ApiError('storage/incomplete')
  }
}

function isTooLarge(error: unknown): boolean {
  return error instanceof ApiError && error.code === 'upload/too-large'
}
