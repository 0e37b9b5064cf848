import { mkdtemp, readFile, writeFile } from 'node:fs/promises'
import { createServer, type Server } from 'node:http'
import { tmpdir } from 'node:os'
import { extname, join } from 'node:path'
import { gzipSync } from 'node:zlib'
import { chromium, type Browser, type Page } from 'playwright-core'
import { createBackdrop } from '../core/backdrop/createBackdrop'
import { emitRegion } from '../core/handoff/emitMarkup'
import { emitBackdropStyle, emitCopyStyle, emitPageStyle } from '../core/handoff/emitStyle'
import { assembleScript } from '../core/handoff/scripts'
import type { Base } from '../core/kinds'
import { createImage } from '../core/kinds/image/Image'
import { createSlideshow } from '../core/kinds/slideshow/Slideshow'
import { FIRST_TRANSITION } from '../core/kinds/slideshow/transition'
import { readDeliveredScripts } from '../node/deliveredScripts'
import { inProject } from '../node/projectRoot'
import { CHROMIUM } from '../headless/RenderBrowser'
import { wideJpegs } from './wideJpegs'

/*
 * When the first slide has come, beside a page with that image alone, on a slow line; and whether a
 * cycle shifts the page or holds up its thread.
 */

const SLIDES = [
  'stop-lakeside.jpg',
  'cabin-berth.jpg',
  'stop-snow-line.jpg',
  'stop-salt-flats.jpg',
  'cabin-corridor.jpg',
]
/** 1.6 Mbit/s, with a round trip of 150 ms. */
const LINE = { offline: false, latency: 150, downloadThroughput: 200_000, uploadThroughput: 94_000 }
const TURNS = 7
const WATCHED_TURNS = 3
/** Two slides of 1.5 s and their transitions of 0.5 s. */
const WATCHED_MS = 5000

/** The files of a page as they are delivered: style sheets and script of their own. */
function pageFiles(name: string, base: Base, script: string | null): Record<string, string> {
  const document = createBackdrop({
    base,
    picture: null,
    scope: 'region',
    height: { unit: 'svh', value: 100 },
    brand: 'Vesperline',
  })
  const isSlideshow = base.kind === 'slideshow'
  const posters = wideJpegs(isSlideshow ? SLIDES : SLIDES.slice(0, 1), isSlideshow)
  const media = { clips: [], placeholder: null, posters }
  const sheet = (use: string): string => `<link rel="stylesheet" href="${name}-${use}.css">`
  return {
    [`${name}-page.css`]: emitPageStyle(document),
    [`${name}-backdrop.css`]: emitBackdropStyle(name, document, media),
    [`${name}-copy.css`]: emitCopyStyle(name, document, media),
    [`${name}.html`]: `<!doctype html><html lang="en"><head><meta charset="utf-8"><title>Bench</title><link rel="icon" href="data:,">${['page', 'backdrop', 'copy'].map(sheet).join('')}${script === null ? '' : `<script src="${name}.js" defer></script>`}</head><body>${emitRegion(name, document, media, 'page')}</body></html>`,
    ...(script === null ? {} : { [`${name}.js`]: script }),
  }
}

const TYPES: Readonly<Record<string, string>> = {
  '.html': 'text/html',
  '.css': 'text/css',
  '.js': 'text/javascript',
  '.jpg': 'image/jpeg',
}

async function serve(folder: string, media: string): Promise<{ server: Server; url: string }> {
  const server = createServer((request, response) => {
    const name = (request.url ?? '/').slice(1)
    // Texts go as servers send them.
    const isText = !name.endsWith('.jpg')
    const type = { 'Content-Type': TYPES[extname(name)] ?? 'text/plain' }
    void readFile(join(isText ? folder : media, name)).then(
      (bytes) =>
        response
          .writeHead(200, isText ? { ...type, 'Content-Encoding': 'gzip' } : type)
          .end(isText ? gzipSync(bytes) : bytes),
      () => response.writeHead(404).end(),
    )
  })
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
  const address = server.address()
  return { server, url: `http://127.0.0.1:${typeof address === 'object' ? address?.port : 0}` }
}

/** A page whose line is slow and that keeps nothing; its context is its own. */
export async function pageOnSlowLine(browser: Browser): Promise<Page> {
  const context = await browser.newContext({ viewport: { width: 1280, height: 720 } })
  const page = await context.newPage()
  const cdp = await context.newCDPSession(page)
  await cdp.send('Network.enable')
  await cdp.send('Network.setCacheDisabled', { cacheDisabled: true })
  await cdp.send('Network.emulateNetworkConditions', LINE)
  return page
}

interface Visit {
  /** When the first image had come, in milliseconds after the page was asked for. */
  readonly arrivedMs: number
  readonly layoutShift: number
  readonly longestTaskMs: number
}

async function visit(browser: Browser, address: string, watchedMs: number): Promise<Visit> {
  const page = await pageOnSlowLine(browser)
  await page.addInitScript(() => {
    const seen = { shift: 0, task: 0 }
    Object.assign(window, { seen })
    new PerformanceObserver((list) => {
      for (const entry of list.getEntries())
        seen.shift += (entry as PerformanceEntry & { value: number }).value
    }).observe({ type: 'layout-shift', buffered: true })
    new PerformanceObserver((list) => {
      for (const { duration } of list.getEntries()) {
        seen.task = Math.max(seen.task, duration)
      }
    }).observe({ type: 'longtask', buffered: true })
  })
  await page.goto(address, { waitUntil: 'commit' })
  const arrivedMs = await page
    .waitForFunction(
      (name) =>
        performance
          .getEntriesByType('resource')
          .find(
            (entry) =>
              entry.name.endsWith(name) && (entry as PerformanceResourceTiming).responseEnd > 0,
          ),
      SLIDES[0]!,
      { polling: 50 },
    )
    .then((handle) => handle.evaluate((entry) => (entry as PerformanceResourceTiming).responseEnd))
  await page.waitForTimeout(watchedMs)
  const { shift, task } = await page.evaluate(
    () => (window as unknown as { seen: { shift: number; task: number } }).seen,
  )
  await page.context().close()
  return { arrivedMs, layoutShift: shift, longestTaskMs: task }
}

/** Visits three pages in turns, and prints their medians. */
export async function measureArrival(demoFiles: string): Promise<void> {
  const folder = await mkdtemp(join(tmpdir(), 'telon-arrival-'))
  const ids = SLIDES.map((_, index) => `00000000-0000-4000-8000-00000000000${index}`)
  const slideshow = {
    ...createSlideshow(ids),
    holdSeconds: 1.5,
    transition: { ...FIRST_TRANSITION, seconds: 0.5 },
  }
  const script = assembleScript(await readDeliveredScripts(inProject('dist')), 'classic', [
    'slides',
  ])
  const pages = {
    alone: pageFiles('alone', createImage(ids[0]!), null),
    style: pageFiles('style', slideshow, null),
    script: pageFiles('script', slideshow, script),
  }
  for (const files of Object.values(pages))
    for (const [name, text] of Object.entries(files)) await writeFile(join(folder, name), text)
  const { server, url } = await serve(folder, demoFiles)
  const browser = await chromium.launch({ ...CHROMIUM, args: [...CHROMIUM.args] })
  const names = Object.keys(pages)
  const visits = new Map<string, Visit[]>(names.map((name) => [name, []]))
  for (let turn = 0; turn < TURNS; turn++)
    for (const name of names) {
      // Whole cycles are watched in some turns only.
      const watched = turn < WATCHED_TURNS && name !== 'alone' ? WATCHED_MS * 2.5 : 200
      visits.get(name)!.push(await visit(browser, `${url}/${name}.html`, watched))
    }
  await browser.close()
  server.close()
  const median = (values: readonly number[]): number =>
    [...values].sort((a, b) => a - b)[values.length >> 1]!
  const alone = median(visits.get('alone')!.map(({ arrivedMs }) => arrivedMs))
  for (const name of names) {
    const own = visits.get(name)!
    // Tasks below 50 ms are not told; only visits of whole cycles count.
    const tasks = own.slice(0, WATCHED_TURNS).map(({ longestTaskMs }) => longestTaskMs)
    const arrived = median(own.map(({ arrivedMs }) => arrivedMs))
    console.log(
      `first slide, ${name}: ${Math.round(arrived)} ms, ${(arrived / alone).toFixed(3)} of the image alone; layout shift ${Math.max(...own.map(({ layoutShift }) => layoutShift)).toFixed(4)}; longest task ${Math.round(median(tasks))} ms, once ${Math.round(Math.max(...tasks))} ms`,
    )
  }
}
