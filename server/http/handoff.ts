import { Readable } from 'node:stream'
import type Router from '@koa/router'
import { Zip, ZipPassThrough, strToU8 } from 'fflate'
import type { Context } from 'koa'
import { z } from 'zod'
import { isClip } from '../../core/api/wire'
import { assembleHandoff } from '../../core/handoff/assembleHandoff'
import type { EmittedFile } from '../../core/handoff/emitHandoff'
import { ApiError } from '../ApiError'
import type { BlobStore } from '../blobs/BlobStore'
import type { Stores } from '../store/stores'
import { sendBlob } from './media'

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
  json: 'application/json; charset=utf-8',
  txt: 'text/plain; charset=utf-8',
  mp4: 'video/mp4',
  webm: 'video/webm',
  avif: 'image/avif',
  webp: 'image/webp',
  jpg: 'image/jpeg',
}

/** A delivered folder: its texts, and its media by digest. */
interface Folder {
  readonly name: string
  readonly texts: readonly EmittedFile[]
  readonly media: readonly { readonly path: string; readonly sha256: string }[]
}

/** The delivered folder of a backdrop: as pages to open, and as a zip. */
export function handoffRoutes(
  router: Router,
  {
    backdrops,
    shelf,
    renditions,
    blobs,
    reader,
  }: Pick<Stores, 'backdrops' | 'shelf' | 'renditions' | 'blobs' | 'reader'>,
  script: () => Promise<string>,
): void {
  const folderOf = async (id: string): Promise<Folder> => {
    if (!z.uuid().safeParse(id).success) throw new ApiError('backdrop/not-found')
    const record = await backdrops.read(id)
    const source = await shelf.read(record.document.material.sourceId)
    if (!isClip(source)) throw new ApiError('source/other-kind')
    const assembled = await assembleHandoff({
      name: record.name,
      document: record.document,
      source: {
        sha256: source.sha256,
        width: source.facts.video.displayWidth,
        height: source.facts.video.displayHeight,
      },
      find: (keys) => renditions.find(keys),
      script: await script(),
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
      const digest = folder.media.find((file) => file.path === path)?.sha256
      if (!digest) throw new ApiError('media/not-found')
      await sendBlob(ctx, reader, digest, type)
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
  for (const { path, sha256 } of folder.media) {
    const blob = await blobs.findBySha256(sha256)
    if (!blob) throw new ApiError('media/not-found')
    const entry = new ZipPassThrough(`${slug}/${path}`)
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
