import { MemoryLocker, Server as TusServer } from '@tus/server'
import { describeContainerError } from '../../core/media/describeContainerError'
import { probe } from '../../core/media/probe'
import type { BlobStore } from '../blobs/BlobStore'
import { TusBlobStore } from '../blobs/TusBlobStore'
import type { Config } from '../config'
import type { Shelf } from '../store/Shelf'

/** Where uploads go. */
export const UPLOAD_PATH = '/api/uploads'

/**
 * The tus 1.0 server. When the last byte has come the file is read by the core (its bytes are trusted, not what the
 * client said), sealed and put on the shelf, so that an upload ends well even when its tab was closed at the end.
 */
export function uploadServer(shelf: Shelf, blobs: BlobStore, config: Pick<Config, 'maxUploadBytes'>): TusServer {
  return new TusServer({
    path: UPLOAD_PATH,
    datastore: new TusBlobStore(blobs),
    locker: new MemoryLocker(),
    maxSize: config.maxUploadBytes,
    relativeLocation: true,
    namingFunction: () => crypto.randomUUID(),
    onUploadFinish: async (_request, upload) => {
      const source = blobs.source({ id: upload.id, size: upload.size ?? 0 })
      const read = await probe(source)
      if (!read.ok) {
        await blobs.remove(upload.id)
        throw { status_code: 422, body: JSON.stringify({ error: { code: 'upload/unusable', message: describeContainerError(read.error) } }) }
      }
      const blob = await blobs.seal(upload.id)
      const { source: added, known } = await shelf.add(upload.metadata?.['projectId'] ?? '', upload.metadata?.['filename'] ?? 'clip', blob.sha256, read.value)
      // Content that lies on the shelf already is told by the name it has there.
      return { headers: { 'X-Source-Id': added.id, ...(known ? { 'X-Known-As': encodeURIComponent(added.name) } : {}) } }
    },
  })
}
