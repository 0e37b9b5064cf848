import { Server as TusServer } from '@tus/server'
import type { Middleware } from 'koa'
import type { Logger } from 'pino'
import { idSchema } from '../../core/api/wire'
import { ApiError } from '../ApiError'
import type { BlobStore } from '../blobs/BlobStore'
import type { Renditions } from '../store/Renditions'
import { TusRenditionStore } from '../uploads/TusRenditionStore'
import type { UploadLocks } from '../uploads/UploadLocks'
import { tusParts } from './tus'

const PATH = '/api/renditions'
/** A file is created by its announcement. */
const METHODS = new Set(['HEAD', 'PATCH'])
const FIELDS_OF_WHOLE = { 'Tus-Resumable': '1.0.0', 'Cache-Control': 'no-store' }

/**
 * The bytes of announced files by the open tus 1.0 protocol, for render workers, whose lines may
 * be poor: what has arrived is not sent again. With the last byte the file is read and kept.
 */
export function renditionUploads(
  renditions: Renditions,
  blobs: BlobStore,
  locks: UploadLocks,
  log: Logger,
): Middleware {
  const tus = new TusServer({
    ...tusParts(PATH, new TusRenditionStore(renditions, blobs), locks, log),
    onUploadFinish: async (_request, { id }) => {
      await renditions.finish(id)
      return {}
    },
  })
  return async (ctx, next) => {
    const id = ctx.path.slice(PATH.length + 1)
    if (!ctx.path.startsWith(`${PATH}/`) || !METHODS.has(ctx.method)) return next()
    const announced = idSchema.safeParse(id).success ? await renditions.announced(id) : null
    if (!announced) throw new ApiError('rendition/not-found')
    // All bytes are there, but whether the file is kept was not heard.
    if (ctx.method === 'HEAD' && announced.received === announced.size) {
      await renditions.finish(id)
      ctx.set({ ...FIELDS_OF_WHOLE, 'Upload-Offset': String(announced.size) })
      ctx.set('Upload-Length', String(announced.size))
      ctx.status = 200
      return
    }
    ctx.respond = false
    await tus.handle(ctx.req, ctx.res)
  }
}
