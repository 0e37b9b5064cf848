import { Server as TusServer, type ServerOptions } from '@tus/server'
import type { Context, Middleware } from 'koa'
import type { Logger } from 'pino'
import { z } from 'zod'
import { fileNameSchema, idSchema } from '../../core/api/wire'
import { ApiError } from '../ApiError'
import type { BlobStore } from '../blobs/BlobStore'
import type { Config } from '../config'
import { TusUploadStore } from '../uploads/TusUploadStore'
import { outcomeOf, type Finished, type UploadFinisher } from '../uploads/UploadFinisher'
import type { UploadLocks } from '../uploads/UploadLocks'
import type { UploadStore } from '../uploads/UploadStore'
import { tusParts } from './tus'

/** Where uploads go. */
const UPLOAD_PATH = '/api/uploads'

type UploadConfig = Pick<Config, 'maxUploadBytes' | 'uploadOrigins'>

const METHODS_OF_ONE = new Set(['HEAD', 'PATCH', 'DELETE', 'OPTIONS'])

const metadataSchema = z.object({ projectId: idSchema, filename: fileNameSchema })

/**
 * Uploads by the open tus 1.0 protocol. When the last byte has come the file is read, sealed and
 * put on the shelf, so that an upload ends well even when its tab was closed at the end. Until then
 * HEAD answers 423 with Retry-After.
 */
export function uploadRoutes(
  uploads: UploadStore,
  blobs: BlobStore,
  finisher: UploadFinisher,
  locks: UploadLocks,
  config: UploadConfig,
  log: Logger,
): Middleware {
  const datastore = new TusUploadStore(uploads, blobs)
  const tus = new TusServer({
    ...optionsOf(uploads, finisher, config),
    ...tusParts(UPLOAD_PATH, datastore, locks, log),
  })
  return async (ctx, next) => {
    if (ctx.path !== UPLOAD_PATH && !ctx.path.startsWith(`${UPLOAD_PATH}/`)) return next()
    const id = ctx.path.slice(UPLOAD_PATH.length + 1)
    if (id === '') {
      if (ctx.method !== 'POST' && ctx.method !== 'OPTIONS') throw new ApiError('request/method')
    } else {
      if (!METHODS_OF_ONE.has(ctx.method)) throw new ApiError('request/method')
      if (ctx.method !== 'OPTIONS') await beforeOne(ctx, id, uploads, finisher, log)
      // A HEAD of an upload that was refused is answered already.
      if (ctx.status === 410) return
    }
    ctx.respond = false
    await tus.handle(ctx.req, ctx.res)
  }
}

/** What an upload's state has to say before the protocol does. */
async function beforeOne(
  ctx: Context,
  id: string,
  uploads: UploadStore,
  finisher: UploadFinisher,
  log: Logger,
): Promise<void> {
  const upload = idSchema.safeParse(id).success ? await uploads.find(id) : null
  if (!upload) throw new ApiError('upload/not-found')
  const ended = outcomeOf(upload)
  if (ctx.method === 'PATCH' && ended && !ended.ok) throw refusalOf(ended)
  if (ctx.method !== 'HEAD') return
  if (ended?.ok)
    for (const [name, value] of Object.entries(await headersOf(ended, id, uploads)))
      ctx.res.setHeader(name, value)
  else if (ended) {
    // The upload is gone, in the protocol's terms: the client starts again and gets the reason at
    // the end.
    ctx.set('Cache-Control', 'no-store')
    ctx.status = 410
  } else if (upload.received === upload.size) {
    finisher
      .finish(id)
      .catch((error: unknown) => log.error({ err: error, upload: id }, 'finishing failed'))
    throw new ApiError('upload/finishing')
  }
}

function optionsOf(
  uploads: UploadStore,
  finisher: UploadFinisher,
  config: UploadConfig,
): Omit<ServerOptions, 'path' | 'locker'> {
  return {
    maxSize: config.maxUploadBytes,
    relativeLocation: true,
    // Pages of other origins may not upload, unless the configuration names them.
    allowedOrigins: (origin: string) => config.uploadOrigins.includes(origin),
    exposedHeaders: ['X-Source-Id', 'X-Known-As'],
    namingFunction: () => crypto.randomUUID(),
    onUploadCreate: async (_request, upload) => {
      const metadata = metadataSchema.safeParse(upload.metadata ?? {})
      if (!metadata.success) throw new ApiError('request/invalid', metadata.error.issues)
      return { metadata: metadata.data }
    },
    onIncomingRequest: async (request, id) => {
      const digest =
        request.method === 'PATCH' ? readDigest(request.headers.get('repr-digest')) : null
      if (digest) await uploads.expectDigest(id, digest)
    },
    onUploadFinish: async (_request, { id }) => {
      const finished = await finisher.finish(id)
      if (!finished.ok) throw refusalOf(finished)
      return { headers: await headersOf(finished, id, uploads) }
    },
  }
}

/** Where the shelf shows the uploaded file; content that was there already has its former name. */
async function headersOf(
  { sourceId, known }: Extract<Finished, { ok: true }>,
  id: string,
  uploads: UploadStore,
): Promise<Record<string, string>> {
  if (sourceId === '') return {}
  const name = known ? await uploads.nameOnShelf(id) : null
  return {
    'X-Source-Id': sourceId,
    ...(name === null ? {} : { 'X-Known-As': encodeURIComponent(name) }),
  }
}

function refusalOf({ refusal }: Extract<Finished, { ok: false }>): ApiError {
  return new ApiError(refusal.code, undefined, refusal.message)
}

/** SHA-256 as hex from a digest field; null where there is none. Source: RFC 9530, section 3. */
function readDigest(field: string | null): string | null {
  const found = /(?:^|,)\s*sha-256=:([A-Za-z0-9+/]{43}=):/.exec(field ?? '')
  return found ? Buffer.from(found[1]!, 'base64').toString('hex') : null
}
