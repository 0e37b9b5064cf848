import type Router from '@koa/router'
import { Zip, ZipPassThrough, strToU8 } from 'fflate'
import type { Context } from 'koa'
import { Readable } from 'node:stream'
import { z } from 'zod'
import { knownSource } from '../../core/api/knownSource'
import { assembleHandoff, type AssembledHandoff } from '../../core/handoff/assembleHandoff'
import { shortId } from '../../core/handoff/deliveredFiles'
import type { DeliveredScripts } from '../../core/handoff/scripts'
import { kindOf } from '../../core/kinds'
import type { KnownSource } from '../../core/kinds/Kind'
import { ApiError } from '../ApiError'
import type { BlobStore } from '../blobs/BlobStore'
import type { Stores } from '../store/stores'
import { sendBlob, sendBytes } from './media'
import { PlainClips } from './PlainClips'

/**
 * The policy a strict site would set; the demonstration page is served under it, so what ships is
 * proven to bear it.
 */
const STRICT_POLICY =
  "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data:; media-src 'self'; base-uri 'none'; form-action 'none'; frame-ancestors 'self'"

const TYPES: Readonly<Record<string, string>> = {
  html: 'text/html; charset=utf-8',
  css: 'text/css; charset=utf-8',
  js: 'text/javascript; charset=utf-8',
  mjs: 'text/javascript; charset=utf-8',
  ts: 'text/plain; charset=utf-8',
  json: 'application/json; charset=utf-8',
  txt: 'text/plain; charset=utf-8',
  mp4: 'video/mp4',
  webm: 'video/webm',
  avif: 'image/avif',
  webp: 'image/webp',
  jpg: 'image/jpeg',
}

/** A delivered folder with the name of its backdrop. */
interface Folder extends AssembledHandoff {
  readonly name: string
}

/** The delivered folder of a backdrop: as pages to open, and as a zip. */
export function handoffRoutes(
  router: Router,
  {
    backdrops,
    shelf,
    renditions,
    triedParticles,
    blobs,
    reader,
  }: Pick<Stores, 'backdrops' | 'shelf' | 'renditions' | 'triedParticles' | 'blobs' | 'reader'>,
  scripts: () => Promise<DeliveredScripts>,
): void {
  const plainClips = new PlainClips(blobs)
  const folderOf = async (id: string): Promise<Folder> => {
    if (!z.uuid().safeParse(id).success) throw new ApiError('backdrop/not-found')
    const record = await backdrops.read(id)
    const known = new Map<string, KnownSource>()
    for (const { sourceId } of kindOf(record.document.base).sources(record.document.base))
      known.set(sourceId, knownSource(await shelf.read(sourceId)))
    const { particles } = record.document
    const assembled = await assembleHandoff({
      particleCost: particles && (await triedParticles.find(particles)),
      id: shortId(record.id),
      name: record.name,
      document: record.document,
      known,
      find: (keys) => renditions.find(keys),
      plain: (sha256) => plainClips.find(sha256),
      scripts: await scripts(),
    })
    if (!assembled.ok) throw new ApiError('handoff/not-ready', { missing: assembled.error })
    return { name: record.name, ...assembled.value }
  }

  router.get('/handoff/:id/zip', async (ctx: Context & { params: Record<string, string> }) => {
    const folder = await folderOf(ctx.params['id'] ?? '')
    const slug =
      folder.name
        .toLowerCase()
        .replaceAll(/[^a-z0-9]+/g, '-')
        .replaceAll(/^-|-$/g, '') || 'backdrop'
    ctx.type = 'application/zip'
    ctx.attachment(`${slug}.zip`)
    ctx.body = Readable.from(zipOf(folder, slug, blobs), { objectMode: false })
  })

  router.get(
    '/handoff/:id/site/*path',
    async (ctx: Context & { params: Record<string, string> }) => {
      const folder = await folderOf(ctx.params['id'] ?? '')
      const path = ctx.params['path'] || 'index.html'
      const type = TYPES[path.split('.').pop() ?? ''] ?? 'application/octet-stream'
      ctx.set('Content-Security-Policy', STRICT_POLICY)
      ctx.set('Cache-Control', 'no-cache')
      const text = folder.texts.find((file) => file.path === path)
      if (text) {
        ctx.type = type
        ctx.body = text.text
        return
      }
      const medium = folder.media.find((file) => file.path === path)
      if (!medium) throw new ApiError('media/not-found')
      if (medium.content) await sendBytes(ctx, medium.sha256, medium.content, type)
      else await sendBlob(ctx, reader, medium.sha256, type)
    },
  )
}

/**
 * The folder as a zip, stored without further packing (media are packed already), streamed as it is
 * made.
 */
async function* zipOf(folder: Folder, slug: string, blobs: BlobStore): AsyncGenerator<Uint8Array> {
  let ready: Uint8Array[] = []
  const zip = new Zip((error, data) => {
    if (error) throw error
    ready.push(data)
  })
  const drain = (): Uint8Array[] => {
    const out = ready
    ready = []
    return out
  }
  for (const { path, text } of folder.texts) {
    const entry = new ZipPassThrough(`${slug}/${path}`)
    zip.add(entry)
    entry.push(strToU8(text), true)
    yield* drain()
  }
  for (const { path, sha256, content } of folder.media) {
    const entry = new ZipPassThrough(`${slug}/${path}`)
    if (content) {
      zip.add(entry)
      entry.push(content, true)
      yield* drain()
      continue
    }
    const blob = await blobs.findBySha256(sha256)
    if (!blob) throw new ApiError('media/not-found')
    zip.add(entry)
    for await (const part of blobs.stream(blob.id, 0, blob.size)) {
      entry.push(new Uint8Array(part))
      yield* drain()
    }
    entry.push(new Uint8Array(0), true)
    yield* drain()
  }
  zip.end()
  yield* drain()
}
