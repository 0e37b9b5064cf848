import { existsSync } from 'node:fs'
import { mkdtemp } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import puppeteer, { type Browser, type Page } from 'puppeteer-core'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { seedDemo } from '../demo/seedDemo'
import { startTestServer, type TestServer } from '../server/testing/testServer'
import { digestOf } from '../core/particles/digest'
import { farthest, PATCHES_SIZE, patchesPage } from './blendPatches'
import { CLIPS, telon } from './harness'
import { serveHost, type HostSite } from './hostSite'
import { deliverSmall, pageOf, snippet } from './onHost'
import { AREA, DEFINITIONS, digestExpression, engineScript, TIMES } from './particleEngine'

/* Another engine: what is delivered plays there, and the workbench opens and decodes. */

const FIREFOX = '/usr/bin/firefox-esr'
const missing = !existsSync(FIREFOX)
if (missing) console.info('Firefox is not installed: its tests are left out.')

describe.skipIf(missing)('in Firefox', () => {
  let browser: Browser
  let site: HostSite | undefined
  let server: TestServer | undefined
  const complaints: string[] = []
  beforeAll(async () => {
    // A home of its own: Firefox refuses to run as root in that of someone else.
    const HOME = await mkdtemp(join(tmpdir(), 'telon-firefox-'))
    browser = await puppeteer.launch({
      browser: 'firefox',
      executablePath: FIREFOX,
      env: { ...process.env, HOME },
    })
  })
  afterAll(async () => {
    await browser?.close()
    await site?.stop()
    await server?.stop()
  })
  const open = async (url: string): Promise<Page> => {
    const page = await browser.newPage()
    complaints.length = 0
    page.on('pageerror', (error) => complaints.push(String(error)))
    await page.setViewport({ width: 1280, height: 800 })
    await page.goto(url)
    return page
  }
  const video = (page: Page) =>
    page.$eval('.tln-video', (element) => {
      const { paused, currentTime, currentSrc } = element as HTMLVideoElement
      return { plays: !paused && currentTime > 0.1, file: currentSrc.split('/').pop() }
    })

  it('blend modes of the scrim are what our formulas say, within 4 of 255', async () => {
    const page = await browser.newPage()
    await page.setViewport(PATCHES_SIZE)
    await page.setContent(patchesPage())
    const { off, what } = await farthest(await page.screenshot())
    await page.close()
    expect(off, what).toBeLessThanOrEqual(4)
  })

  it('a fragment plays muted, behind its copy, and can be paused', async () => {
    const folder = await deliverSmall(
      'dusk-window.mov',
      'hero',
      ...['--start', '2', '--end', '3', '--width', '320'],
    )
    site = await serveHost({ '/b/hero/': folder })
    site.pages.set(
      '/about/',
      pageOf({ css: 'body { margin: 0 }', body: 'SLOT' }, await snippet(folder, 'fragment.html')),
    )
    const page = await open(`${site.url}/about/`)
    await expect.poll(() => video(page).then(({ plays }) => plays)).toBe(true)
    expect((await video(page)).file).toMatch(/^hero-clip-wide-320-h264-[0-9a-f]{8}\.mp4$/)
    const seen = await page.evaluate(() => {
      const box = (selector: string) => {
        const { x, y, width, height } = document.querySelector(selector)!.getBoundingClientRect()
        return [x, y, width, height].map(Math.round)
      }
      const heading = document.querySelector('h1')!.getBoundingClientRect()
      return {
        region: box('.tln-region'),
        layers: ['.tln-poster', '.tln-video', '.tln-scrim'].map(box),
        control: box('.tln-pause').slice(2),
        front: document.elementFromPoint(heading.x + 20, heading.y + 20)?.tagName,
        muted: document.querySelector('video')!.muted,
      }
    })
    expect(seen.layers).toEqual(Array(3).fill(seen.region))
    expect(seen.region.slice(0, 3)).toEqual([0, 0, 1280])
    expect(seen.control).toEqual([44, 44])
    expect(seen.front).toBe('H1')
    expect(seen.muted).toBe(true)
    await page.click('.tln-pause')
    await expect.poll(() => video(page).then(({ plays }) => plays)).toBe(false)
    expect(complaints).toEqual([])
    await page.close()
  })

  it('a slideshow goes round with script and without, and fetches one image after another', async () => {
    const folder = await mkdtemp(join(tmpdir(), 'telon-slides-'))
    const images = ['stop-snow-line.jpg', 'cabin-berth.jpg', 'stop-lakeside.jpg']
    const done = await telon(
      ...['deliver', ...images.map((name) => join(CLIPS, name))],
      ...['--out', folder, '--width', '320', '--hold', '2', '--transition', '0.4'],
      ...['--id', 'stops', '--base-url', '/b/stops/'],
    )
    expect(done.code, done.err).toBe(0)
    await site?.stop()
    site = await serveHost({ '/b/stops/': folder })
    const fragment = await snippet(folder, 'fragment.html')
    const css = 'body { margin: 0 }'
    site.pages.set('/with/', pageOf({ css, body: 'SLOT' }, fragment))
    const bare = fragment.replace(/<script[^>]*><\/script>/, '')
    site.pages.set('/without/', pageOf({ css, body: 'SLOT' }, bare))
    for (const path of ['/with/', '/without/']) {
      const page = await open(site.url + path)
      const fetched = await page.evaluate(() =>
        performance
          .getEntriesByType('resource')
          .map(({ name }) => /-slide(\d)-/.exec(name)?.[1])
          .filter((slide) => slide !== undefined),
      )
      expect(fetched, path).not.toContain('3')
      const seen = await page.evaluate(async () => {
        const order: string[] = []
        const end = Date.now() + 9000
        while (Date.now() < end && order.length < 4) {
          const shown = [...document.querySelectorAll('.tln-slide')].findLast(
            (slide) =>
              Number(getComputedStyle(slide).opacity) > 0.9 &&
              slide.getBoundingClientRect().top > -9999,
          )
          const image = shown?.querySelector('img')
          const number = /tln-slide-(\d)/.exec(shown?.className ?? '')?.[1] ?? 'none'
          if (image?.naturalWidth && order.at(-1) !== number) order.push(number)
          await new Promise((resolve) => setTimeout(resolve, 50))
        }
        return order
      })
      expect(seen, path).toEqual(['1', '2', '3', '1'])
      expect(complaints).toEqual([])
      await page.close()
    }
  })

  it('the workbench opens, plays the proof, and decodes the filmstrip frame by frame', async () => {
    server = await startTestServer({ prepare: seedDemo })
    const [project] = (await (await fetch(`${server.url}/api/projects`)).json()) as {
      latestBackdropId: string
    }[]
    const page = await open(`${server.url}/backdrops/${project!.latestBackdropId}/timing`)
    const playhead = await page.waitForSelector('[aria-label="Playhead on the clip"]', {
      timeout: 60_000,
    })
    await playhead!.focus()
    for (let press = 0; press < 12; press++) await page.keyboard.press('+')
    // At this zoom every picture of the strip is a frame of its own, decoded from the clip.
    await expect
      .poll(() =>
        page.$$eval('canvas[aria-hidden]:not([hidden])', (tiles) => {
          const shades = tiles.map((tile) => {
            const canvas = tile as HTMLCanvasElement
            const { data } = canvas
              .getContext('2d')!
              .getImageData(0, 0, canvas.width, canvas.height)
            const step = Math.floor(data.length / 800) * 4
            return new Set(Array.from({ length: 200 }, (_, at) => data[at * step])).size
          })
          return shades.filter((different) => different > 10).length
        }),
      )
      .toBeGreaterThan(4)
    const stage = await (await page.waitForSelector('iframe'))!.contentFrame()
    await expect
      .poll(() =>
        stage.$eval('.tln-video', (element) => (element as HTMLVideoElement).currentTime > 0),
      )
      .toBe(true)
    expect(complaints).toEqual([])
    await page.close()
  })
  it('the engine of particles gives the same bits as in Node', async () => {
    const page = await browser.newPage()
    const there = await page.evaluate(digestExpression(await engineScript()))
    expect(there).toEqual(DEFINITIONS.map((each) => digestOf(each, AREA, TIMES)))
    await page.close()
  })
})
