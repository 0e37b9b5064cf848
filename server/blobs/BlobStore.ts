import { createHash } from 'node:crypto'
import { Readable } from 'node:stream'
import { Op } from 'sequelize'
import type { ByteSource } from '../../core/bytes/ByteSource'
import type { Database } from '../store/database'
import type { BlobRow } from '../store/models'

/** Bytes a chunk row holds; only the last of a file holds fewer. */
export const CHUNK_BYTES = 1024 * 1024

/** A file that is whole: its content's digest and size. */
export interface StoredBlob {
  readonly id: string
  readonly sha256: string
  readonly size: number
}

/**
 * Files in PostgreSQL, content-addressed. A file is begun, grows chunk by chunk (also after an interruption), and is
 * sealed under the SHA-256 of its bytes; equal content is kept once. Reads touch only the chunks they need.
 */
export class BlobStore {
  private readonly database: Database

  constructor(database: Database) {
    this.database = database
  }

  /** Begins a file of `size` bytes under an id of the caller's. */
  async begin(id: string, size: number, metadata: unknown): Promise<void> {
    await this.database.models.Blob.create({ id, sha256: null, size, received: 0, metadata })
  }

  async find(id: string): Promise<BlobRow | null> {
    return this.database.models.Blob.findByPk(id)
  }

  /** A whole file by its digest. */
  async findBySha256(sha256: string): Promise<StoredBlob | null> {
    const row = await this.database.models.Blob.findOne({ where: { sha256 } })
    return row ? { id: row.id, sha256, size: row.size } : null
  }

  /**
   * Appends a stream at `offset`; returns the bytes held afterwards. What came before the stream broke off is kept,
   * so that an upload can resume there.
   */
  async append(id: string, offset: number, stream: AsyncIterable<Uint8Array>): Promise<number> {
    let seq = Math.floor(offset / CHUNK_BYTES)
    let pending = await this.chunk(id, seq).then((held) => held.subarray(0, offset % CHUNK_BYTES))
    let received = offset
    const flush = async (data: Buffer): Promise<void> => {
      const { Chunk, Blob } = this.database.models
      await Chunk.upsert({ blobId: id, seq, data })
      received = seq * CHUNK_BYTES + data.byteLength
      await Blob.update({ received }, { where: { id } })
    }
    try {
      for await (const part of stream) {
        pending = Buffer.concat([pending, part])
        while (pending.byteLength >= CHUNK_BYTES) {
          await flush(pending.subarray(0, CHUNK_BYTES))
          pending = pending.subarray(CHUNK_BYTES)
          seq += 1
        }
      }
    } finally {
      if (pending.byteLength > 0) await flush(pending)
    }
    return received
  }

  /** Hashes a complete file and seals it; where the same content is held already, this copy goes and that one is returned. */
  async seal(id: string): Promise<StoredBlob> {
    const { Blob } = this.database.models
    const row = await Blob.findByPk(id, { rejectOnEmpty: true })
    const hash = createHash('sha256')
    for await (const part of this.stream(id, 0, row.size)) hash.update(part)
    const sha256 = hash.digest('hex')
    const same = await this.findBySha256(sha256)
    if (same) {
      await this.remove(id)
      return same
    }
    await row.update({ sha256 })
    return { id, sha256, size: row.size }
  }

  /** Stores bytes in one go. */
  async put(bytes: Uint8Array): Promise<StoredBlob> {
    const id = crypto.randomUUID()
    await this.begin(id, bytes.byteLength, {})
    await this.append(id, 0, Readable.from([bytes]))
    return this.seal(id)
  }

  async remove(id: string): Promise<void> {
    await this.database.models.Blob.destroy({ where: { id } })
  }

  /** The bytes `[start, end)` as a stream of at most a chunk at a time. */
  async *stream(id: string, start: number, end: number): AsyncGenerator<Buffer> {
    for (let seq = Math.floor(start / CHUNK_BYTES); seq * CHUNK_BYTES < end; seq++) {
      const data = await this.chunk(id, seq)
      const from = Math.max(0, start - seq * CHUNK_BYTES)
      const to = Math.min(data.byteLength, end - seq * CHUNK_BYTES)
      if (to > from) yield data.subarray(from, to)
    }
  }

  /** A file as the core's readers want it. */
  source(blob: { readonly id: string; readonly size: number }): ByteSource {
    return {
      size: blob.size,
      read: async (offset, length) => {
        const end = Math.min(blob.size, offset + length)
        const parts: Buffer[] = []
        for await (const part of this.stream(blob.id, offset, end)) parts.push(part)
        return Buffer.concat(parts)
      },
    }
  }

  /** Files begun and not finished, newest first. */
  async unfinished(): Promise<BlobRow[]> {
    return this.database.models.Blob.findAll({ where: { sha256: { [Op.is]: null } }, order: [['createdAt', 'DESC']] })
  }

  private async chunk(blobId: string, seq: number): Promise<Buffer> {
    const row = await this.database.models.Chunk.findOne({ where: { blobId, seq } })
    return row?.data ?? Buffer.alloc(0)
  }
}
