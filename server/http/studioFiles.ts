import { createReadStream } from 'node:fs'
import { stat } from 'node:fs/promises'
import { extname, join, normalize, sep } from 'node:path'
import type { Middleware } from 'koa'
import { isHeldBy } from './conditions'

const FILE_TYPES: Readonly<Record<string, string>> = {
  '.js': 'text/javascript',
  '.css': 'text/css',
  '.html': 'text/html',
  '.woff2': 'font/woff2',
  '.svg': 'image/svg+xml',
  '.png': 'image/png',
}

/** The built studio; addresses that are no file are views of the one page. */
export function studioFiles(root: string): Middleware {
  return async (ctx, next) => {
    const reads = ctx.method === 'GET' || ctx.method === 'HEAD'
    if (!reads || /^\/(api|media|handoff|runtime)(\/|$)/.test(ctx.path)) return next()
    const wanted = normalize(decodeURIComponent(ctx.path))
    const type = FILE_TYPES[extname(wanted)]
    const file = join(root, wanted)
    const found = type !== undefined && file.startsWith(root + sep) ? await sizeOf(file) : null
    if (type !== undefined && type !== 'text/html' && !found) return next()
    const page = found ? file : join(root, 'index.html')
    const facts = found ?? (await sizeOf(page))
    if (!facts) return next()
    // File names carry a digest, except the pages themselves.
    const named = wanted.startsWith('/assets/')
    ctx.set('Cache-Control', named ? 'public, max-age=31536000, immutable' : 'no-cache')
    const etag = `"${facts.size.toString(36)}-${facts.changedMs.toString(36)}"`
    ctx.set('ETag', etag)
    ctx.status = 200
    if (isHeldBy(ctx, etag)) {
      ctx.status = 304
      return
    }
    ctx.type = found ? type! : 'text/html'
    if (ctx.method === 'GET') ctx.body = createReadStream(page)
    ctx.type = found ? type! : 'text/html'
    ctx.length = facts.size
  }
}

async function sizeOf(file: string): Promise<{ size: number; changedMs: number } | null> {
  const facts = await stat(file).catch(() => null)
  return facts?.isFile() ? { size: facts.size, changedMs: Math.round(facts.mtimeMs) } : null
}
