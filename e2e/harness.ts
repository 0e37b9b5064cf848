import { spawn } from 'node:child_process'
import { existsSync } from 'node:fs'
import { mkdtemp, readFile } from 'node:fs/promises'
import { createServer, type Server } from 'node:http'
import { tmpdir } from 'node:os'
import { extname, join, normalize, resolve } from 'node:path'
import { fileURLToPath } from 'node:url'
import { chromium, type Browser, type Page } from 'playwright-core'
import { manifestSchema, type Manifest } from '../core/handoff/manifest'
import type { DescribedFootage } from '../core/kinds/footage/describeFootage'
import { CHROMIUM } from '../headless/RenderBrowser'

/** Where the demonstration's clips lie. */
export const CLIPS = fileURLToPath(new URL('../demo/files/', import.meta.url))

/** The same Chromium without a window system: its pages open in a third of the time. */
const SHELL = '/usr/bin/chromium-headless-shell'

/** A real Chromium, for tests that look at the studio. */
export function launch(args: readonly string[] = []): Promise<Browser> {
  const executablePath = existsSync(SHELL) ? SHELL : CHROMIUM.executablePath
  return chromium.launch({ executablePath, args: [...CHROMIUM.args, ...args] })
}

/** The Chromium that visitors have, for what is delivered and for what is timed. */
export function launchWhole(args: readonly string[] = []): Promise<Browser> {
  return chromium.launch({ ...CHROMIUM, args: [...CHROMIUM.args, ...args] })
}

/** Collects what a page complains about: errors on the console, failed scripts. */
export function complaintsOf(page: Page): string[] {
  const complaints: string[] = []
  page.on('pageerror', (error) => complaints.push(error.message))
  page.on('console', (message) => message.type() === 'error' && complaints.push(message.text()))
  return complaints
}

const TYPES: Readonly<Record<string, string>> = {
  '.html': 'text/html',
  '.css': 'text/css',
  '.js': 'text/javascript',
  '.mp4': 'video/mp4',
  '.webm': 'video/webm',
  '.webp': 'image/webp',
  '.avif': 'image/avif',
  '.svg': 'image/svg+xml',
  '.jpg': 'image/jpeg',
}

/**
 * A plain static server, as any host is: files by path, ranges, a strict policy. `missing` paths
 * answer 404. `asked` lists what was requested.
 */
export async function serveFolder(
  folder: string,
  missing: (path: string) => boolean = () => false,
): Promise<{ url: string; asked: string[]; stop: () => Promise<void> }> {
  const asked: string[] = []
  const server: Server = createServer((request, response) => {
    const path = normalize(new URL(request.url ?? '/', 'http://x').pathname)
    asked.push(path)
    void (missing(path) ? Promise.reject(new Error('missing')) : readFile(join(folder, path))).then(
      (bytes) => {
        const range = /^bytes=(\d+)-(\d*)$/.exec(request.headers.range ?? '')
        const [start, end] = range
          ? [Number(range[1]), range[2] ? Number(range[2]) : bytes.byteLength - 1]
          : [0, bytes.byteLength - 1]
        response.writeHead(range ? 206 : 200, {
          'Content-Type': TYPES[extname(path)] ?? 'application/octet-stream',
          'Accept-Ranges': 'bytes',
          'Content-Length': end - start + 1,
          'Content-Security-Policy':
            "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data:; media-src 'self'",
          ...(range ? { 'Content-Range': `bytes ${start}-${end}/${bytes.byteLength}` } : {}),
        })
        response.end(bytes.subarray(start, end + 1))
      },
      () => response.writeHead(404).end(),
    )
  })
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
  const address = server.address()
  return {
    url: `http://127.0.0.1:${typeof address === 'object' && address ? address.port : 0}`,
    asked,
    stop: async () => {
      server.closeAllConnections()
      await new Promise((resolve) => server.close(resolve))
    },
  }
}

const ROOT = fileURLToPath(new URL('..', import.meta.url))

/** Runs the built command line as a script would. */
export function telon(...args: string[]): Promise<{ code: number; out: string; err: string }> {
  // Encoder programs are slow; what is tested with them asks for them.
  return telonWith({ TELON_ENCODERS: 'none' }, ...args)
}

/** Runs the command line with an environment of its own. */
export function telonWith(
  environment: Readonly<Record<string, string>>,
  ...args: string[]
): Promise<{ code: number; out: string; err: string }> {
  return new Promise((resolve) => {
    const child = spawn(process.execPath, ['dist/server/telon.js', ...args], {
      cwd: ROOT,
      env: { ...process.env, TELON_CWD: ROOT, ...environment },
    })
    let [out, err] = ['', '']
    child.stdout.on('data', (part: Buffer) => (out += part.toString()))
    child.stderr.on('data', (part: Buffer) => (err += part.toString()))
    child.on('close', (code) => resolve({ code: code ?? 1, out, err }))
  })
}

/** Waits until a page's clip plays; throws after a minute, with the clip's state. */
export async function plays(page: Page): Promise<void> {
  const end = Date.now() + 60_000
  const state = (): Promise<Record<string, unknown>> =>
    page.locator('video').evaluate((video: HTMLVideoElement) => ({
      paused: video.paused,
      time: video.currentTime,
      network: video.networkState,
      ready: video.readyState,
      file: video.currentSrc,
      error: video.error?.message,
      root: video.parentElement?.className,
      hidden: document.hidden,
    }))
  for (;;) {
    const now = await state()
    if (!now['paused'] && Number(now['time']) > 0.1) return
    if (Date.now() > end) throw new Error(`the clip does not play: ${JSON.stringify(now)}`)
    await page.waitForTimeout(100)
  }
}

/** A manifest of footage, which most tests are about. */
export type FootageManifest = Manifest & {
  readonly base: DescribedFootage
  readonly poster: NonNullable<Manifest['poster']>
}

/** The manifest of a folder of footage. Throws where it is of another kind. */
export async function footageManifest(folder: string): Promise<FootageManifest> {
  const { base, poster, ...rest } = manifestSchema.parse(
    JSON.parse(await readFile(join(folder, 'manifest.json'), 'utf8')),
  )
  if (base.kind !== 'footage' || !poster) throw new Error(`${folder} is no footage`)
  return { ...rest, base, poster }
}

/** Delivers a demo clip with these options and gives its manifest and folder. */
export async function delivered(
  clip: string,
  ...options: string[]
): Promise<{ manifest: FootageManifest; out: string; err: string }> {
  const out = join(await mkdtemp(join(tmpdir(), 'telon-loop-')), 'out')
  const done = await telon('deliver', resolve(CLIPS, clip), '--out', out, ...options)
  if (done.code !== 0) throw new Error(done.err)
  return {
    manifest: await footageManifest(out),
    out,
    err: done.err,
  }
}
