import type { Logger } from 'pino'
import { describeContainerError } from '../../core/media/describeContainerError'
import { ApiError } from '../ApiError'
import type { BlobStore } from '../blobs/BlobStore'
import type { FileProber } from '../probing/FileProber'
import type { Refusal, UploadState, UploadStore } from './UploadStore'

/** How an upload ended. */
export type Finished =
  | { readonly ok: true; readonly sourceId: string; readonly known: boolean }
  | { readonly ok: false; readonly refusal: Refusal }

/**
 * Takes completely received uploads to the shelf: read by the core (their bytes are trusted, not
 * what the client said), sealed, shelved. Every step can be repeated, and a start continues
 * unfinished ones.
 */
export class UploadFinisher {
  private readonly uploads: UploadStore
  private readonly blobs: BlobStore
  private readonly prober: FileProber
  private readonly underWay = new Map<string, Promise<Finished>>()

  constructor(uploads: UploadStore, blobs: BlobStore, prober: FileProber) {
    this.uploads = uploads
    this.blobs = blobs
    this.prober = prober
  }

  /**
   * Finishes an upload; two calls for the same one are one. Errors: `upload/not-found` and those of
   * the database.
   */
  finish(id: string): Promise<Finished> {
    const running = this.underWay.get(id)
    if (running) return running
    const started = this.run(id).finally(() => this.underWay.delete(id))
    this.underWay.set(id, started)
    return started
  }

  /** Continues what an earlier run of the server had not finished, one after another. */
  async resume(log: Logger): Promise<void> {
    for (const id of await this.uploads.interrupted()) {
      await this.finish(id).catch((error: unknown) =>
        log.error({ err: error, upload: id }, 'finishing failed'),
      )
    }
  }

  private async run(id: string): Promise<Finished> {
    const upload = await this.require(id)
    const ended = outcomeOf(upload)
    if (ended) return ended
    if (upload.received < upload.size) throw new ApiError('upload/finishing')
    const read = await this.prober.probe(
      this.blobs.source({ id: upload.blobId!, size: upload.size }),
    )
    if (!read.ok) {
      await this.uploads.refuse(id, {
        code: 'upload/unusable',
        message: describeContainerError(read.error),
      })
    } else {
      try {
        await this.uploads.seal(id)
        await this.uploads.shelve(id, read.value)
      } catch (error) {
        if (!(error instanceof ApiError) || !REFUSALS.has(error.code)) throw error
        await this.uploads.refuse(id, { code: error.code, message: error.message })
      }
    }
    const finished = outcomeOf(await this.require(id))
    if (!finished) throw new ApiError('upload/finishing')
    return finished
  }

  private async require(id: string): Promise<UploadState> {
    const upload = await this.uploads.find(id)
    if (!upload) throw new ApiError('upload/not-found')
    return upload
  }
}

/** Errors that lie in the file and do not pass by trying again. */
const REFUSALS = new Set<string>(['upload/damaged', 'storage/incomplete'])

/** How an upload has ended; null while it has not. */
export function outcomeOf(upload: UploadState): Finished | null {
  if (upload.stage === 'refused') {
    const { refusal } = upload
    return {
      ok: false,
      refusal: refusal ?? { code: 'upload/unusable', message: 'The file cannot be used.' },
    }
  }
  if (upload.stage !== 'shelved') return null
  return { ok: true, sourceId: upload.sourceId ?? '', known: upload.known }
}
