import { Readable } from 'node:stream'
import type Router from '@koa/router'
import type { Context } from 'koa'
import { renditionFactsSchema, sha256Schema, storeRenditionQuerySchema } from '../../core/api/wire'
import { ApiError } from '../ApiError'
import type { BlobStore, StoredBlob } from '../blobs/BlobStore'
import type { Workshop } from '../store/Workshop'
import { readBody } from './route'

/** A rendition larger than this is no background. */
const LARGEST_RENDITION = 64 * 1024 * 1024

/** Files by digest, ranged and cacheable for ever; and the door by which finished renditions come in. */
export function mediaRoutes(router: Router, workshop: Workshop, blobs: BlobStore): void {
  router.get('/media/:sha256', async (ctx: Context & { params: Record<string, string> }) => {
    const digest = sha256Schema.safeParse(ctx.params['sha256'])
    const blob = digest.success ? await blobs.findBySha256(digest.data) : null
    if (!blob) throw new ApiError('media/not-found')
    ctx.set('Cache-Control', 'private, max-age=31536000, immutable')
    // A drawing opened by itself may hold scripts: it gets no origin and runs none.
    ctx.set('Content-Security-Policy', "default-src 'none'; style-src 'unsafe-inline'; sandbox")
    ctx.set('ETag', `"${blob.sha256}"`)
    await sendBlob(ctx, blobs, blob, typeof ctx.query['type'] === 'string' && MEDIA_TYPES.has(ctx.query['type']) ? ctx.query['type'] : 'application/octet-stream')
  })

  router.put('/api/renditions', async (ctx) => {
    const query = storeRenditionQuerySchema.parse(ctx.query)
    const facts = renditionFactsSchema.parse(parseJson(query.facts))
    const bytes = await readBody(ctx, LARGEST_RENDITION)
    if (bytes.byteLength === 0) throw new ApiError('request/invalid', 'The body is empty.')
    const blob = await blobs.put(bytes)
    ctx.body = await workshop.keepRendition(query.key, blob.sha256, blob.size, facts)
  })
}

/** What a file may be asked for as. */
export const MEDIA_TYPES = new Set(['video/mp4', 'video/webm', 'video/quicktime', 'image/webp', 'image/jpeg', 'image/png', 'image/avif', 'image/gif', 'image/svg+xml'])

/** Sends a file or the range that is asked for. Errors: `media/range`. Source: RFC 9110, section 14. */
export async function sendBlob(ctx: Context, blobs: BlobStore, blob: StoredBlob, type: string): Promise<void> {
  ctx.type = type
  ctx.set('Accept-Ranges', 'bytes')
  const asked = /^bytes=(\d*)-(\d*)$/.exec(ctx.get('Range'))
  let [start, end] = [0, blob.size]
  if (asked && (asked[1] !== '' || asked[2] !== '')) {
    if (asked[1] === '') start = Math.max(0, blob.size - Number(asked[2]))
    else {
      start = Number(asked[1])
      end = asked[2] === '' ? blob.size : Math.min(blob.size, Number(asked[2]) + 1)
    }
    if (start >= end) {
      ctx.set('Content-Range', `bytes */${blob.size}`)
      throw new ApiError('media/range')
    }
    ctx.status = 206
    ctx.set('Content-Range', `bytes ${start}-${end - 1}/${blob.size}`)
  } else ctx.status = 200
  ctx.length = end - start
  ctx.body = ctx.method === 'HEAD' ? null : Readable.from(blobs.stream(blob.id, start, end), { objectMode: false })
  ctx.type = type
  ctx.length = end - start
}

function parseJson(text: string): unknown {
  try {
    return JSON.parse(text) as unknown
  } catch {
    throw new ApiError('request/invalid', 'The facts are not JSON.')
  }
}
