import type { Readable } from 'node:stream'
import { DataStore, Upload } from '@tus/server'
import { ApiError } from '../ApiError'
import type { BlobStore } from '../blobs/BlobStore'
import type { UploadStore } from './UploadStore'

/**
 * Lets the tus 1.0 server keep uploads in PostgreSQL, where several servers can share them and a
 * restart loses nothing.
 */
export class TusUploadStore extends DataStore {
  private readonly uploads: UploadStore
  private readonly blobs: BlobStore
  /**
   * Why the last write of an upload failed. The tus server pipes streams: if a write fails in the
   * middle, it reports an aborted stream and not the cause.
   */
  private readonly failures = new Map<string, unknown>()

  constructor(uploads: UploadStore, blobs: BlobStore) {
    super()
    this.uploads = uploads
    this.blobs = blobs
    this.extensions = ['creation', 'termination']
  }

  override async create(upload: Upload): Promise<Upload> {
    await this.uploads.begin({
      id: upload.id,
      projectId: upload.metadata?.['projectId'] ?? '',
      name: upload.metadata?.['filename'] ?? 'file',
      size: upload.size ?? 0,
    })
    return upload
  }

  override async write(stream: Readable, id: string, offset: number): Promise<number> {
    const upload = await this.uploads.find(id)
    if (!upload) throw new ApiError('upload/not-found')
    // All bytes have arrived: there is nothing to write, and sealed content never changes.
    if (upload.received === upload.size) return upload.size
    try {
      return await this.blobs.append(upload.blobId!, offset, stream)
    } catch (error) {
      this.failures.set(id, error)
      throw error
    }
  }

  /** The cause of an upload's last failed write; returned once; undefined if there was none. */
  takeFailure(id: string): unknown {
    const failure = this.failures.get(id)
    this.failures.delete(id)
    return failure
  }

  override async getUpload(id: string): Promise<Upload> {
    const upload = await this.uploads.find(id)
    if (!upload) throw new ApiError('upload/not-found')
    return new Upload({
      id,
      size: upload.size,
      offset: upload.received,
      metadata: { filename: upload.name, projectId: upload.projectId },
      creation_date: upload.createdAt.toISOString(),
    })
  }

  override async remove(id: string): Promise<void> {
    await this.uploads.cancel(id)
  }
}
