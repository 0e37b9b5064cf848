import type { Readable } from 'node:stream'
import { Upload } from '@tus/server'
import { ApiError } from '../ApiError'
import type { BlobStore } from '../blobs/BlobStore'
import { TusBlobs } from './TusBlobs'
import type { UploadStore } from './UploadStore'

/**
 * Lets the tus 1.0 server keep uploads in PostgreSQL, where several servers can share them and a
 * restart loses nothing.
 */
export class TusUploadStore extends TusBlobs {
  private readonly uploads: UploadStore

  constructor(uploads: UploadStore, blobs: BlobStore) {
    super(blobs)
    this.uploads = uploads
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
    return this.append(id, upload.blobId!, offset, stream)
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
