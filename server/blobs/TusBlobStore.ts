import type { Readable } from 'node:stream'
import { DataStore, ERRORS, Upload } from '@tus/server'
import type { BlobStore } from './BlobStore'

/** Lets the tus 1.0 server keep uploads in PostgreSQL, where several servers can share them and a restart loses nothing. */
export class TusBlobStore extends DataStore {
  private readonly blobs: BlobStore

  constructor(blobs: BlobStore) {
    super()
    this.blobs = blobs
    this.extensions = ['creation', 'termination']
  }

  override async create(upload: Upload): Promise<Upload> {
    await this.blobs.begin(upload.id, upload.size ?? 0, upload.metadata ?? {})
    return upload
  }

  override async write(stream: Readable, id: string, offset: number): Promise<number> {
    return this.blobs.append(id, offset, stream)
  }

  override async getUpload(id: string): Promise<Upload> {
    const row = await this.blobs.find(id)
    if (!row) throw ERRORS.FILE_NOT_FOUND
    return new Upload({
      id,
      size: row.size,
      offset: row.received,
      metadata: row.metadata as Record<string, string | null>,
      creation_date: row.createdAt.toISOString(),
    })
  }

  override async remove(id: string): Promise<void> {
    const row = await this.blobs.find(id)
    // A sealed file belongs to the shelf: deleting the upload must not take it away.
    if (!row || row.sha256 !== null) throw ERRORS.FILE_NOT_FOUND
    await this.blobs.remove(id)
  }
}
