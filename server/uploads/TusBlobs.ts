import type { Readable } from 'node:stream'
import { DataStore } from '@tus/server'
import type { BlobStore } from '../blobs/BlobStore'

/** Bytes that come by tus 1.0, kept in PostgreSQL as they come. */
export abstract class TusBlobs extends DataStore {
  /**
   * Why the last write of an upload failed. The tus server pipes streams: if a write fails in the
   * middle, it reports an aborted stream and not the cause.
   */
  private readonly failures = new Map<string, unknown>()

  constructor(private readonly blobs: BlobStore) {
    super()
  }

  /** The cause of an upload's last failed write; returned once; undefined if there was none. */
  takeFailure(id: string): unknown {
    const failure = this.failures.get(id)
    this.failures.delete(id)
    return failure
  }

  /** Appends to a blob as `BlobStore.append` does, for an upload. */
  protected async append(
    id: string,
    blobId: string,
    offset: number,
    stream: Readable,
  ): Promise<number> {
    try {
      return await this.blobs.append(blobId, offset, stream)
    } catch (error) {
      this.failures.set(id, error)
      throw error
    }
  }
}
