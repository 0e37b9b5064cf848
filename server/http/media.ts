import type Router from '@koa/router'
import type { Context } from 'koa'
import parseRange from 'range-parser'
import { idSchema, sha256Schema } from '../../core/bounded'
import { ApiError } from '../ApiError'
import type { BlobReader } from '../blobs/BlobReader'
import type { StoredBlob } from '../blobs/BlobStore'
import type { Renditions } from '../store/Renditions'
import { isHeldBy } from './conditions'

type WithParams = Context & { params: Record<string, string> }

/** What a file may be asked for as. */
export const MEDIA_TYPES = new Set([
  'video/mp4',
  'video/webm',
  'video/quicktime',
  'image/webp',
  'image/jpeg',
  'image/png',
  'image/avif',
  'image/gif',
  'image/svg+xml',
])

/** Files by digest, with ranges and cacheable forever; also accepts finished renditions. */
export function mediaRoutes(router: Router, reader: BlobReader, renditions: Renditions): void {
  router.get('/media/:sha256', async (ctx: WithParams) => {
    const digest = sha256Schema.safeParse(ctx.params['sha256'])
    if (!digest.success) throw new ApiError('media/not-found')
    const { type } = ctx.query
    ctx.set('Cache-Control', 'private, max-age=31536000, immutable')
    // A drawing opened by itself may hold scripts: it gets no origin and runs none.
    ctx.set('Content-Security-Policy', "default-src 'none'; style-src 'unsafe-inline'; sandbox")
    await sendBlob(
      ctx,
      reader,
      digest.data,
      typeof type === 'string' && MEDIA_TYPES.has(type) ? type : 'application/octet-stream',
    )
  })

  router.put('/api/renditions/:id', async (ctx: WithParams) => {
    const id = idSchema.safeParse(ctx.params['id'])
    if (!id.success) throw new ApiError('rendition/not-found')
    ctx.body = await renditions.fill(id.data, ctx.req as AsyncIterable<Buffer>)
  })
}

/**
 * Sends a file, the requested range, or 304 if the caller has it already. Errors:
 * `media/not-found`, `media/range`. Source: RFC 9110, sections 13 and 14; several ranges at once
 * are answered with the whole file, as it allows.
 */
export async function sendBlob(
  ctx: Context,
  reader: BlobReader,
  sha256: string,
  type: string,
): Promise<void> {
  const isRead = ctx.method !== 'HEAD'
  const remembered = isRead ? await reader.findRemembered(sha256) : null
  const send = (blob: StoredBlob): Promise<boolean> =>
    answer(ctx, blob, type, (start, end) => reader.open(blob, start, end))
  // What was remembered may be gone by now: then it is looked up.
  if (remembered && (await send(remembered))) return
  const blob = await reader.find(sha256)
  if (!blob || !(await send(blob))) throw new ApiError('media/not-found')
}

/** Sends bytes that are at hand, as `sendBlob` does. Error: `media/range`. */
export async function sendBytes(
  ctx: Context,
  sha256: string,
  bytes: Uint8Array,
  type: string,
): Promise<void> {
  await answer(ctx, { sha256, size: bytes.byteLength }, type, async (start, end) =>
    Buffer.from(bytes.buffer, bytes.byteOffset + start, end - start),
  )
}

/** Whether the file could be sent; false where its bytes are gone. */
async function answer(
  ctx: Context,
  blob: Pick<StoredBlob, 'sha256' | 'size'>,
  type: string,
  open: (start: number, end: number) => Promise<Context['body']>,
): Promise<boolean> {
  const etag = `"${blob.sha256}"`
  ctx.set('ETag', etag)
  ctx.set('Accept-Ranges', 'bytes')
  if (isHeldBy(ctx, etag)) {
    ctx.status = 304
    return true
  }
  const range = rangeOf(ctx, blob.size, etag)
  const { start, end } = range ?? { start: 0, end: blob.size }
  if (ctx.method !== 'HEAD') {
    const body = end > start ? await open(start, end) : Buffer.alloc(0)
    if (!body) return false
    ctx.body = body
  }
  ctx.status = range ? 206 : 200
  if (range) ctx.set('Content-Range', `bytes ${start}-${end - 1}/${blob.size}`)
  ctx.type = type
  ctx.length = end - start
  return true
}

function rangeOf(ctx: Context, size: number, etag: string): { start: number; end: number } | null {
  const asked = ctx.get('Range')
  const condition = ctx.get('If-Range')
  // A range of another version of the file: the whole of this one instead.
  if (!asked.startsWith('bytes=') || (condition !== '' && condition !== etag)) return null
  const ranges = parseRange(size, asked)
  if (ranges === -1) {
    ctx.set('Content-Range', `bytes */${size}`)
    throw new ApiError('media/range')
  }
  if (ranges === -2 || ranges.length !== 1) return null
  return { start: ranges[0]!.start, end: ranges[0]!.end + 1 }
}
