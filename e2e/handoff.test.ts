import { copyFile, mkdtemp, readdir, readFile, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'
import type { Browser, BrowserContextOptions, Page } from 'playwright-core'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { probeJsonSchema, probeLineSchema } from '../core/api/probeLine'
import { memorySource } from '../core/bytes/ByteSource'
import { type Manifest } from '../core/handoff/manifest'
import { probe } from '../core/media/probe'
import { readMedia } from '../core/media/readMedia'
import { frameDifference } from '../core/picture/frameDifference'
import {
  CLIPS,
  complaintsOf,
  launchWhole,
  plays,
  serveFolder,
  telon,
  footageManifest,
  type FootageManifest,
} from './harness'

const ROOT = fileURLToPath(new URL('..', import.meta.url))

let folder: string
let manifest: FootageManifest
let browser: Browser
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'telon-deliver-'))
  const done = await telon(
    'deliver',
    join(CLIPS, 'dusk-window.mov'),
    '--out',
    folder,
    '--start',
    '2',
    '--end',
    '4',
    '--speed',
    '2',
    '--width',
    '640',
    '--budget',
    '300',
    '--heading',
    'Night trains & more',
  )
  if (done.code !== 0) throw new Error(done.err)
  manifest = await footageManifest(folder)
  browser = await launchWhole()
})
afterAll(() => browser?.close())

/** Visits the delivered page as some visitor; `missing` files answer 404. */
async function visit<T>(
  how: BrowserContextOptions,
  look: (page: Page, asked: string[]) => Promise<T>,
  missing?: (path: string) => boolean,
  path = 'index.html',
): Promise<T> {
  const site = await serveFolder(folder, missing)
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 }, ...how })
  try {
    const page = await context.newPage()
    await page.goto(`${site.url}/${path}`)
    return await look(page, site.asked)
  } finally {
    await context.close()
    await site.stop()
  }
}

const posterShows = async (page: Page): Promise<boolean> =>
  page
    .locator('img.tln-poster')
    .evaluate(
      (image: HTMLImageElement) =>
        image.complete && image.naturalWidth > 0 && image.getBoundingClientRect().height > 300,
    )
const clips = (asked: readonly string[]): string[] =>
  asked.filter((path) => /\.(webm|mp4)$/.test(path))

describe('what is delivered', () => {
  it('has exactly the planned frames, a constant rate, a first key frame and no sound', async () => {
    expect(manifest.base.loop).toMatchObject({
      seconds: 1,
      frames: 24,
      speed: 2,
      frameRate: { num: 24, den: 1 },
      cut: { startSeconds: 2, endSeconds: 4 },
    })
    for (const clip of manifest.clips) {
      const bytes = new Uint8Array(await readFile(join(folder, clip.path)))
      const read = await probe(memorySource(bytes))
      if (!read.ok || read.value.kind !== 'clip') throw new Error(`${clip.path} is no clip`)
      expect(read.value.video).toMatchObject({
        frameCount: 24,
        displayWidth: 640,
        displayHeight: 360,
        averageFps: 24,
      })
      const file = await readMedia(memorySource(bytes))
      if (!file.ok) throw file.error
      const { durations, keys, times } = file.value.video.samples
      expect([new Set(durations).size, keys[0], times[0]]).toEqual([1, 1, 0])
      expect(read.value).toMatchObject({ audio: false, bytes: clip.bytes })
      expect(bytes.byteLength).toBeLessThanOrEqual(300_000)
      expect(clip.type).toContain(read.value.video.codec.slice(0, 4))
    }
  })

  it('declares the codec strings that the browser finds in the streams', async () => {
    const page = await browser.newPage()
    for (const clip of manifest.clips)
      expect(
        await page.evaluate((type) => MediaSource.isTypeSupported(type), clip.type),
        clip.type,
      ).toBe(true)
    await page.close()
  })

  it('plays muted and in a loop under a strict policy, without a complaint', async () => {
    await visit({}, async (page) => {
      const complaints = complaintsOf(page)
      await plays(page)
      const state = await page.locator('video').evaluate((video: HTMLVideoElement) => ({
        muted: video.muted,
        loop: video.loop,
        width: video.videoWidth,
        height: video.videoHeight,
      }))
      expect(state).toEqual({ muted: true, loop: true, width: 640, height: 360 })
      expect(await page.locator('h1').textContent()).toBe('Night trains & more')
      expect(complaints).toEqual([])
    })
  })

  it('offers the poster as AVIF and WebP before JPEG, without script', async () => {
    await visit({ javaScriptEnabled: false }, async (page) => {
      expect(
        await page
          .locator('img.tln-poster')
          .evaluate((image: HTMLImageElement) => image.currentSrc),
      ).toMatch(/-poster-wide-640-[0-9a-f]{8}\.avif$/)
      const sources = await page
        .locator('picture source')
        .evaluateAll((found) => found.map((source) => (source as HTMLSourceElement).type))
      expect(sources).toEqual(['image/avif', 'image/webp'])
    })
  })

  it('fills the first instant with the mean colour and a tiny picture, before any file has come', async () => {
    await visit(
      {},
      async (page) => {
        const ground = await page.locator('.tln-backdrop').evaluate((root) => {
          const { backgroundColor, backgroundImage } = getComputedStyle(root)
          return { backgroundColor, backgroundImage }
        })
        expect(ground.backgroundColor).toMatch(/^rgb\(\d+, \d+, \d+\)$/)
        expect(ground.backgroundImage).toMatch(/^url\("data:image\/webp;base64,/)
        expect(ground.backgroundImage.length).toBeLessThan(1200)
      },
      (path) => path.startsWith('/media/'),
    )
  })

  it('begins with the frame that the poster shows', async () => {
    const difference = await visit({}, async (page) => {
      await plays(page)
      const [poster, first] = await page.evaluate(async () => {
        const video = document.querySelector('video')!
        video.pause()
        video.currentTime = 0.001
        await new Promise((resolve) => video.addEventListener('seeked', resolve, { once: true }))
        await new Promise((resolve) => setTimeout(resolve, 200))
        return [document.querySelector<HTMLImageElement>('.tln-poster')!, video].map((picture) => {
          const canvas = new OffscreenCanvas(160, 90)
          const context = canvas.getContext('2d')!
          context.drawImage(picture, 0, 0, 160, 90)
          return [...context.getImageData(0, 0, 160, 90).data]
        })
      })
      return frameDifference(Uint8Array.from(poster!), Uint8Array.from(first!))
    })
    expect(difference).toBeLessThan(2)
  })

  it('shows the poster without script, and asks for no clip', async () => {
    await visit({ javaScriptEnabled: false }, async (page, asked) => {
      await page.waitForTimeout(600)
      expect(clips(asked)).toEqual([])
      expect(asked.filter((path) => path.includes('poster'))).toEqual([
        expect.stringMatching(/-poster-wide-640-[0-9a-f]{8}\.avif$/),
      ])
      expect(await page.locator('.tln-pause').isVisible()).toBe(false)
    })
  })

  it('fetches the poster first, and once', async () => {
    await visit({}, async (page, asked) => {
      await plays(page)
      const poster = asked.findIndex((path) => path.includes('poster'))
      const clip = asked.findIndex((path) => /\.(webm|mp4)$/.test(path))
      expect(poster).toBeGreaterThan(-1)
      expect(clip).toBeGreaterThan(poster)
      expect(asked.filter((path) => path.includes('poster'))).toHaveLength(1)
    })
  })

  it('keeps still under reduced motion, and follows a change of mind at once', async () => {
    await visit({ reducedMotion: 'reduce' }, async (page, asked) => {
      await page.waitForTimeout(800)
      expect(clips(asked)).toEqual([])
      expect(await posterShows(page)).toBe(true)
      expect(await page.locator('.tln-pause').isVisible()).toBe(false)
      await page.emulateMedia({ reducedMotion: 'no-preference' })
      await plays(page)
      await page.emulateMedia({ reducedMotion: 'reduce' })
      await expect
        .poll(() => page.locator('video').evaluate((video: HTMLVideoElement) => video.paused))
        .toBe(true)
    })
  })

  it('falls back to the poster when the clips are missing', async () => {
    await visit(
      {},
      async (page) => {
        await expect
          .poll(
            () =>
              page
                .locator('.tln-backdrop')
                .evaluate((root) => root.classList.contains('tln-poster-only')),
            { timeout: 10_000 },
          )
          .toBe(true)
        expect(await posterShows(page)).toBe(true)
        expect(await page.locator('.tln-pause').isVisible()).toBe(false)
      },
      (path) => /\.(webm|mp4)$/.test(path),
    )
  })

  it('takes the next format when the first ones are missing', async () => {
    await visit(
      {},
      async (page) => {
        await plays(page)
        expect(
          await page.locator('video').evaluate((video: HTMLVideoElement) => video.currentSrc),
        ).toMatch(/-h264-[0-9a-f]{8}\.mp4$/)
      },
      (path) => /-(av1|vp9)-[0-9a-f]{8}\.mp4$/.test(path),
    )
  })

  it('falls back to the poster when playing is refused', async () => {
    const site = await serveFolder(folder)
    const page = await browser.newPage()
    await page.addInitScript(() => {
      HTMLMediaElement.prototype.play = () =>
        Promise.reject(new DOMException('not allowed', 'NotAllowedError'))
    })
    await page.goto(`${site.url}/index.html`)
    await expect
      .poll(() =>
        page
          .locator('.tln-backdrop')
          .evaluate((root) => root.classList.contains('tln-poster-only')),
      )
      .toBe(true)
    await page.close()
    await site.stop()
  })

  it('honours data saver', async () => {
    const site = await serveFolder(folder)
    const page = await browser.newPage()
    await page.addInitScript(() =>
      Object.defineProperty(navigator, 'connection', {
        value: Object.assign(new EventTarget(), { saveData: true }),
      }),
    )
    await page.goto(`${site.url}/index.html`)
    await page.waitForTimeout(800)
    expect(clips(site.asked)).toEqual([])
    await page.close()
    await site.stop()
  })

  it('can be paused and played by a labelled control, by keyboard', async () => {
    await visit({}, async (page) => {
      await plays(page)
      const paused = () => page.locator('video').evaluate((video: HTMLVideoElement) => video.paused)
      await page.getByRole('button', { name: 'Pause the background' }).focus()
      await page.keyboard.press('Enter')
      expect(await paused()).toBe(true)
      await page.getByRole('button', { name: 'Play the background' }).press('Space')
      await expect.poll(paused).toBe(false)
    })
  })

  it('stops outside the window, and goes on inside', async () => {
    await visit({ viewport: { width: 1280, height: 400 } }, async (page) => {
      await plays(page)
      const paused = () => page.locator('video').evaluate((video: HTMLVideoElement) => video.paused)
      await page.addStyleTag({ content: '' }).catch(() => undefined)
      await page.evaluate(() => {
        document.querySelector<HTMLElement>('.tln-after')!.style.height = '3000px'
        scrollTo(0, 2000)
      })
      await expect.poll(paused).toBe(true)
      await page.evaluate(() => scrollTo(0, 0))
      await expect.poll(paused).toBe(false)
    })
  })

  it('shifts nothing while it loads', async () => {
    await visit({}, async (page) => {
      await plays(page)
      const shift = await page.evaluate(
        () =>
          new Promise<number>((resolve) => {
            let sum = 0
            new PerformanceObserver((list) =>
              list
                .getEntries()
                .forEach((entry) => (sum += (entry as PerformanceEntry & { value: number }).value)),
            ).observe({ type: 'layout-shift', buffered: true })
            setTimeout(() => resolve(sum), 300)
          }),
      )
      expect(shift).toBe(0)
    })
  })

  it('is hidden from assistive technology but for its control', async () => {
    await visit({}, async (page) => {
      await plays(page)
      const tree = await page.locator('body').ariaSnapshot()
      expect(tree).toContain('heading "Night trains & more"')
      expect(tree).toContain('button "Pause the background"')
      expect(tree).not.toMatch(/img|video/)
    })
  })

  it('works as a fragment pasted into another page', async () => {
    const fragment = await readFile(join(folder, 'fragment.html'), 'utf8')
    await writeFile(
      join(folder, 'other.html'),
      `<!doctype html><title>Other</title><body><p>Before</p>${fragment}<p>After</p></body>`,
    )
    await visit({}, plays, undefined, 'other.html')
  })
})

describe('a folder that is delivered again', () => {
  it('holds the new files of its backdrop only, and all that is not Telon’s', async () => {
    const out = await mkdtemp(join(tmpdir(), 'telon-again-'))
    const deliver = async (...options: string[]): Promise<Manifest> => {
      const done = await telon(
        ...['deliver', join(CLIPS, 'viaduct-crossing.mp4'), '--out', out, '--id', 'bridge'],
        ...['--start', '3', '--end', '4', '--width', '320', '--formats', 'h264', ...options],
      )
      if (done.code !== 0) throw new Error(done.err)
      return await footageManifest(out)
    }
    const first = await deliver()
    await writeFile(join(out, 'media/of-the-site.mp4'), 'own')
    const second = await deliver('--plain-index')
    expect([first.clips[0]!.repeats > 5, second.clips[0]!.repeats]).toEqual([true, 1])
    expect(second.clips[0]!.path).not.toBe(first.clips[0]!.path)
    expect(second.clips[0]!.bytes).toBeLessThan(first.clips[0]!.bytes)
    const [visit] = second.firstVisit
    expect(visit!.clipBytes).toBe(second.clips[0]!.bytes)
    expect((await readdir(join(out, 'media'))).sort()).toEqual(
      [
        'of-the-site.mp4',
        ...second.files
          .filter((path) => path.startsWith('media/'))
          .map((path) => path.slice('media/'.length)),
      ].sort(),
    )
  })
})

describe('a clip held upright', () => {
  it('is turned as its container says, in clips and posters alike', async () => {
    const bytes = new Uint8Array(await readFile(join(CLIPS, 'viaduct-crossing.mp4')))
    // The matrix of the track header, turned by a quarter clockwise: a, b, c and d stand 40 bytes
    // into the box's fields.
    const header = Buffer.from(bytes).indexOf('tkhd') + 4
    const view = new DataView(bytes.buffer)
    ;[0, 0x10000, 0, -0x10000, 0].forEach((value, index) =>
      view.setInt32(header + 40 + index * 4, value),
    )
    const place = await mkdtemp(join(tmpdir(), 'telon-turned-'))
    await writeFile(join(place, 'turned.mp4'), bytes)
    const done = await telon(
      'deliver',
      join(place, 'turned.mp4'),
      '--out',
      join(place, 'out'),
      '--start',
      '3',
      '--end',
      '4',
      '--once',
      '--width',
      '360',
    )
    expect(done.code, done.err).toBe(0)
    const delivered = await footageManifest(join(place, 'out'))
    expect(delivered.base.loop.repeat).toBe('once')
    expect(delivered.clips.map(({ width, height }) => [width, height])).toEqual([
      [360, 640],
      [360, 640],
      [360, 640],
    ])

    // The viaduct's dark deck runs across at 55 to 59 % of the height: turned clockwise it stands
    // at 41 to 45 % of the width.
    const site = await serveFolder(join(place, 'out'))
    const page = await browser.newPage({ viewport: { width: 800, height: 700 } })
    await page.goto(`${site.url}/index.html`)
    await plays(page)
    const darkest = await page.evaluate(() =>
      [
        document.querySelector<HTMLImageElement>('.tln-poster')!,
        document.querySelector('video')!,
      ].map((picture) => {
        const canvas = new OffscreenCanvas(100, 40)
        const context = canvas.getContext('2d')!
        context.drawImage(picture, 0, 0, 100, 40)
        const { data } = context.getImageData(0, 0, 100, 40)
        const columns = Array.from({ length: 100 }, (_, x) =>
          Array.from(
            { length: 40 },
            (_, y) => data[(y * 100 + x) * 4]! + data[(y * 100 + x) * 4 + 2]!,
          ).reduce((sum, value) => sum + value),
        )
        return columns.indexOf(Math.min(...columns))
      }),
    )
    await expect
      .poll(
        () =>
          page.locator('.tln-backdrop').evaluate((root) => root.classList.contains('tln-ended')),
        { timeout: 10_000 },
      )
      .toBe(true)
    for (const column of darkest) expect(column, String(darkest)).toBeGreaterThanOrEqual(39)
    for (const column of darkest) expect(column, String(darkest)).toBeLessThanOrEqual(46)
    await page.close()
    await site.stop()
  })
})

describe('the command line', () => {
  it('prints one JSON object a file, and ends with 1 when one cannot be used', async () => {
    const { code, out } = await telon(
      'probe',
      'demo/files/rain-platform.mp4',
      'demo/files/aurora-fjord.webm',
      'package.json',
      'demo/files/none.mp4',
    )
    const lines = out
      .trim()
      .split('\n')
      .map((line) => JSON.parse(line) as Record<string, unknown>)
    expect(code).toBe(1)
    expect(lines.map((line) => line['file'])).toEqual([
      'demo/files/rain-platform.mp4',
      'demo/files/aurora-fjord.webm',
      'package.json',
      'demo/files/none.mp4',
    ])
    expect(lines[0]).toMatchObject({
      container: 'mp4',
      durationMs: 6000,
      video: {
        displayWidth: 1280,
        displayHeight: 720,
        rotationDeg: 0,
        averageFps: 30,
        frameCount: 180,
      },
      audio: false,
      indexFirst: true,
    })
    expect(lines.slice(2).map((line) => (line['error'] as { code: string }).code)).toEqual([
      'media/unknown-format',
      'file/not-found',
    ])
  })
  it('tells of posters, colour, pixel shape and findings, in the form its schema documents', async () => {
    const files = ['dusk-window.mov', 'signal-blink.gif', 'first-snow.jpg', 'route-map.svg'].map(
      (name) => `demo/files/${name}`,
    )
    const { code, out } = await telon('probe', ...files)
    const lines = out
      .trim()
      .split('\n')
      .map((line) => probeLineSchema.parse(JSON.parse(line)))
    expect(code).toBe(0)
    expect(lines[0]).toMatchObject({
      container: 'mov',
      audio: true,
      pixelAspect: { horizontal: 1, vertical: 1 },
      colour: { matrix: 1, fullRange: false },
      findings: [{ code: 'sound' }],
    })
    expect(lines[1]).toMatchObject({
      container: 'gif',
      video: { codec: 'gif', frameCount: 40 },
      durationMs: 3200,
    })
    expect(lines[2]).toMatchObject({
      container: 'jpeg',
      video: null,
      image: { orientation: 6, displayWidth: 1600, displayHeight: 900 },
      personal: ['device', 'location'],
    })
    expect(lines[3]).toMatchObject({ container: 'svg', image: { displayWidth: 800 } })
    expect(JSON.parse(await readFile(join(ROOT, 'docs/schema/probe.schema.json'), 'utf8'))).toEqual(
      JSON.parse(JSON.stringify(probeJsonSchema())),
    )
  })
  it('repairs without encoding: sound off, cut at a key frame, and the browser plays what comes out', async () => {
    const out = join(await mkdtemp(join(tmpdir(), 'telon-')), 'cut.mp4')
    const { code, err } = await telon(
      'repair',
      'demo/files/dusk-window.mov',
      '--out',
      out,
      '--no-sound',
      '--start',
      '3',
      '--end',
      '6',
      '--strip',
    )
    expect([code, err]).toEqual([0, expect.stringMatching(/starts at 1\.833 s/)])
    const read = await probe(memorySource(new Uint8Array(await readFile(out))))
    expect(read).toMatchObject({
      ok: true,
      value: { container: 'mp4', audio: false, durationMs: 4167, video: { frameCount: 100 } },
    })
    const site = await serveFolder(dirname(out))
    const page = await browser.newPage()
    await page.goto(`${site.url}/cut.mp4`)
    await expect
      .poll(() => page.evaluate(() => document.querySelector('video')!.videoWidth))
      .toBe(1920)
    expect(await page.evaluate(() => document.querySelector('video')!.duration)).toBeCloseTo(
      4.167,
      2,
    )
    await page.close()
    await site.stop()
  })
  it.each([
    [
      ['repair', 'demo/files/dusk-window.mov', '--out', '/tmp/x.avi'],
      '.mp4, .mov, .webm or .mkv',
      2,
    ],
    [
      ['repair', 'demo/files/dusk-window.mov', '--out', '/tmp/x.mp4', '--start', '5', '--end', '4'],
      'must lie after',
      2,
    ],
    [['repair', 'demo/files/none.mov', '--out', '/tmp/x.mp4'], 'no file of this name', 2],
    [
      ['repair', 'demo/files/dusk-window.mov', '--out', 'demo/files/dusk-window.mov'],
      'would overwrite',
      2,
    ],
    [
      ['repair', 'demo/files/dusk-window.mov', '--out', '/tmp/x.webm', '--no-sound'],
      'without encoding again',
      1,
    ],
    [['repair', 'demo/files/signal-blink.gif', '--out', '/tmp/x.mp4'], 'without encoding again', 1],
  ] as const)('refuses %j with a clear message', async (args, told, expected) => {
    const { code, err } = await telon(...args)
    expect([code, err]).toEqual([expected, expect.stringContaining(told)])
  })
  it('ends with 0 when every file is fine', async () =>
    expect((await telon('probe', 'demo/files/viaduct-crossing.mp4')).code).toBe(0))
  it.each([
    [['deliver', 'demo/files/viaduct-crossing.mp4'], '--out'],
    [
      ['deliver', 'demo/files/viaduct-crossing.mp4', '--out', '/tmp/x', '--speed', '9'],
      '0.25 to 4',
    ],
    [
      [
        'deliver',
        'demo/files/viaduct-crossing.mp4',
        '--out',
        '/tmp/x',
        '--start',
        '5',
        '--end',
        '2',
      ],
      'is not after',
    ],
    [
      ['deliver', 'demo/files/viaduct-crossing.mp4', '--out', '/tmp/x', '--start', '50'],
      'is after the clip',
    ],
    [
      ['deliver', 'demo/files/viaduct-crossing.mp4', '--out', '/tmp/x', '--seam', 'wavy'],
      'straight, blended, ping-pong',
    ],
    [
      ['deliver', 'demo/files/viaduct-crossing.mp4', '--out', '/tmp/x', '--find-loop', '12'],
      'such as 4-12',
    ],
    [
      ['deliver', 'demo/files/viaduct-crossing.mp4', '--out', '/tmp/x', '--find-loop', '8-4'],
      'such as 4-12',
    ],
    [
      ['deliver', 'demo/files/viaduct-crossing.mp4', '--out', '/tmp/x', '--poster', 'last'],
      'or first',
    ],
    [
      ['deliver', 'demo/files/viaduct-crossing.mp4', '--out', '/tmp/x', '--poster', '99'],
      'is after the clip',
    ],
    [
      ['deliver', 'demo/files/viaduct-crossing.mp4', '--out', '/tmp/x', '--overlap', '0'],
      '0.04 to 10',
    ],
    [
      ['deliver', 'demo/files/viaduct-crossing.mp4', '--out', '/tmp/x', '--overlap', '1'],
      'goes with --seam blended',
    ],
    [
      [
        'deliver',
        'demo/files/viaduct-crossing.mp4',
        '--out',
        '/tmp/x',
        '--once',
        '--seam',
        'ping-pong',
      ],
      'there is no seam',
    ],
    [['deliver', 'nothing.mp4', '--out', '/tmp/x'], 'does not exist'],
    [['probe'], 'missing required argument'],
    [['dance'], 'unknown command'],
  ])('refuses %j with 2 and a clear message', async (args, told) => {
    const { code, err } = await telon(...args)
    expect(code).toBe(2)
    expect(err).toContain(told)
  })
  it('says of a file that is no clip what to do, and ends with 1', async () => {
    const target = join(await mkdtemp(join(tmpdir(), 'telon-')), 'photo.mp4')
    await copyFile(join(ROOT, 'package.json'), target)
    const { code, err } = await telon('deliver', target, '--out', `${target}-out`)
    expect(code).toBe(1)
    expect(err).toContain('Export a clip as MP4')
  })
})
