import { mkdtemp, readFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { Browser, BrowserContext, BrowserContextOptions, Page } from 'playwright-core'
import { afterAll, afterEach, beforeAll } from 'vitest'
import { CLIPS, launchWhole, telon } from './harness'
import type { HostPage } from './hostPages'
import { serveHost, type HostSite } from './hostSite'

/** What tests on pages of other people's making have. */
export interface OnHost {
  readonly browser: Browser
  readonly site: HostSite
  /** The folder of the backdrop `hero`. */
  readonly folder: string
  /** What is pasted of it. */
  readonly pasted: { readonly fragment: string; readonly alone: string }
  /** Puts a page on the site and opens it; closed after the test. */
  open(html: string, how?: BrowserContextOptions, path?: string): Promise<Page>
}

/** Delivers a clip in two seconds of work: one small file, and its posters. */
export async function deliverSmall(
  clip: string,
  id: string,
  ...options: readonly string[]
): Promise<string> {
  const folder = await mkdtemp(join(tmpdir(), `telon-${id}-`))
  const done = await telon(
    ...['deliver', join(CLIPS, clip), '--out', folder, '--id', id, '--formats', 'h264'],
    ...['--base-url', `/b/${id}`, '--heading', 'Night trains'],
    ...options,
  )
  if (done.code !== 0) throw new Error(done.err)
  return folder
}

/** The parts that are pasted: for the head, and for the body. */
export async function snippet(
  folder: string,
  name: 'fragment.html' | 'backdrop-only.html',
): Promise<string> {
  return readFile(join(folder, name), 'utf8')
}

/** A page with what is pasted at `SLOT`; what belongs into the head goes there. */
export function pageOf(page: Pick<HostPage, 'html' | 'css' | 'body'>, pasted: string): string {
  const [, head, body] = /^<!--[^>]*-->\n([\s\S]*?)\n\n([\s\S]*)$/.exec(pasted)!
  return `<!doctype html>${page.html ?? '<html lang="en">'}<head><meta charset="utf-8"><title>Host</title>
    <style>${page.css}</style>${head}</head><body>${page.body.replace('SLOT', body!)}</body></html>`
}

/** A site with the backdrop `hero` at `/b/hero/`, and others that are named by their folders. */
export function onHost(
  ready: (host: OnHost) => void,
  others: () => Promise<Readonly<Record<string, string>>> = async () => ({}),
): void {
  let browser: Browser
  let site: HostSite
  let opened: BrowserContext[] = []
  beforeAll(async () => {
    const folder = await deliverSmall(
      'dusk-window.mov',
      'hero',
      ...['--start', '2', '--end', '3', '--width', '320'],
    )
    const pasted = {
      fragment: await snippet(folder, 'fragment.html'),
      alone: await snippet(folder, 'backdrop-only.html'),
    }
    browser = await launchWhole()
    site = await serveHost({ '/b/hero/': folder, ...(await others()) })
    ready({
      browser,
      site,
      folder,
      pasted,
      open: async (html, how = {}, path = '/about/team/') => {
        site.pages.set(path, html)
        const context = await browser.newContext({
          viewport: { width: 1280, height: 800 },
          ...how,
        })
        opened.push(context)
        const page = await context.newPage()
        page.setDefaultTimeout(15_000)
        await page.goto(site.url + path, { waitUntil: 'domcontentloaded' })
        return page
      },
    })
  })
  afterEach(async () => {
    site.rules.hangs = () => false
    site.rules.missing = () => false
    await Promise.all(opened.map((context) => context.close()))
    opened = []
  })
  afterAll(async () => {
    await browser?.close()
    await site?.stop()
  })
}
