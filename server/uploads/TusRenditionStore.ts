import type { Readable } from 'node:stream'
import { Upload } from '@tus/server'
import { ApiError } from '../ApiError'
import type { BlobStore } from '../blobs/BlobStore'
import type { Renditions } from '../store/Renditions'
import { TusBlobs } from './TusBlobs'

/** Lets the tus 1.0 server take the bytes of files that were announced with their recipes. */
export class TusRenditionStore extends TusBlobs {
  private readonly renditions: Renditions

  constructor(renditions: Renditions, blobs: BlobStore) {
    super(blobs)
    this.renditions = renditions
  }

  override async write(stream: Readable, id: string, offset: number): Promise<number> {
    return this.append(id, id, offset, stream)
  }

  override async getUpload(id: string): Promise<Upload> {
    const announced = await this.renditions.announced(id)
    if (!announced) throw new ApiError('rendition/not-found')
    return new Upload({ id, size: announced.size, offset: announced.received })
  }
}
