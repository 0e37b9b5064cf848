import { readFile } from 'node:fs/promises'
import { createServer, type ServerResponse } from 'node:http'
import { extname, join, normalize } from 'node:path'

const TYPES: Readonly<Record<string, string>> = {
  '.html': 'text/html',
  '.css': 'text/css',
  '.js': 'text/javascript',
  '.mjs': 'text/javascript',
  '.mp4': 'video/mp4',
  '.webm': 'video/webm',
  '.webp': 'image/webp',
  '.avif': 'image/avif',
  '.svg': 'image/svg+xml',
  '.jpg': 'image/jpeg',
}

/** A site of someone else's, with delivered folders on it. */
export interface HostSite {
  readonly url: string
  /** Pages by path; may be changed at any time. */
  readonly pages: Map<string, string>
  /** What was asked for, in order. */
  readonly asked: string[]
  /** Paths that are never answered, or with 404. */
  readonly rules: { hangs: (path: string) => boolean; missing: (path: string) => boolean }
  stop(): Promise<void>
}

/** Serves pages, and folders below their prefixes such as `/b/`, as a plain host does. */
export async function serveHost(folders: Readonly<Record<string, string>>): Promise<HostSite> {
  const pages = new Map<string, string>()
  const asked: string[] = []
  const rules: HostSite['rules'] = { hangs: () => false, missing: () => false }
  const send = (response: ServerResponse, path: string, bytes: Buffer, range = ''): void => {
    const parts = /^bytes=(\d+)-(\d*)$/.exec(range)
    const start = parts ? Number(parts[1]) : 0
    const end = parts?.[2] ? Number(parts[2]) : bytes.byteLength - 1
    response.writeHead(parts ? 206 : 200, {
      'Content-Type': TYPES[extname(path)] ?? 'text/html; charset=utf-8',
      'Accept-Ranges': 'bytes',
      'Content-Length': end - start + 1,
      ...(parts ? { 'Content-Range': `bytes ${start}-${end}/${bytes.byteLength}` } : {}),
    })
    response.end(bytes.subarray(start, end + 1))
  }
  const server = createServer((request, response) => {
    const path = normalize(new URL(request.url ?? '/', 'http://x').pathname)
    asked.push(path)
    if (rules.hangs(path)) return
    if (path === '/favicon.ico') return response.writeHead(204).end()
    const page = pages.get(path)
    if (page !== undefined) return send(response, '.html', Buffer.from(page))
    const prefix = Object.keys(folders).find((each) => path.startsWith(each))
    if (!prefix || rules.missing(path)) return response.writeHead(404).end()
    void readFile(join(folders[prefix]!, path.slice(prefix.length))).then(
      (bytes) => send(response, path, bytes, request.headers.range),
      () => response.writeHead(404).end(),
    )
  })
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
  const address = server.address()
  return {
    url: `http://127.0.0.1:${typeof address === 'object' && address ? address.port : 0}`,
    pages,
    asked,
    rules,
    stop: async () => {
      server.closeAllConnections()
      await new Promise((resolve) => server.close(resolve))
    },
  }
}
