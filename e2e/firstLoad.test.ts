import { mkdtemp, readFile, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { Browser } from 'playwright-core'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { memorySource } from '../core/bytes/ByteSource'
import { readMedia } from '../core/media/readMedia'
import { firstLoad, type Line, type LoadedPage, type Machine } from '../core/weight/firstLoad'
import {
  CLIPS,
  launchWhole,
  serveFolder,
  telon,
  footageManifest,
  type FootageManifest,
} from './harness'

/*
 * What a delivered folder really costs its visitors, and whether the model of a first load tells
 * the truth: a real Chromium, its lines emulated.
 */

let folder: string
let manifest: FootageManifest
let browser: Browser
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'telon-load-'))
  const done = await telon(
    'deliver',
    join(CLIPS, 'dusk-window.mov'),
    '--out',
    folder,
    '--start',
    '2',
    '--end',
    '5',
    '--budget',
    'phone=250,laptop=500,wide=700',
    '--formats',
    'h264',
  )
  if (done.code !== 0) throw new Error(done.err)
  manifest = await footageManifest(folder)
  await writeFile(
    join(folder, 'without-clip.html'),
    (await readFile(join(folder, 'index.html'), 'utf8')).replace(/<video[\s\S]*?<\/video>/, ''),
  )
  browser = await launchWhole()
})
afterAll(() => browser?.close())

/**
 * A line as Chromium emulates it: the round trip counts for each request, connections neither shake
 * hands nor grow.
 */
const emulated = (bitsPerSecond: number, roundTripMs: number): Line => ({
  bitsPerSecond,
  roundTripMs,
  handshakes: 0,
  slowStart: false,
})

const isClip = (path: string): boolean => /\.(mp4|webm)$/.test(path)

const FAST = emulated(80_000_000, 10)

interface Visit {
  readonly posterMs: number
  readonly motionMs: number | null
  /** Whether the poster had come before any clip was asked for. */
  readonly clipAfterPoster: boolean
  readonly asked: readonly string[]
  readonly bytes: number
}

/**
 * Visits the delivered page on a line: when its poster had come, when its clip showed its first
 * frame, and what was fetched.
 */
async function visit(
  { bitsPerSecond, roundTripMs }: Line,
  width: number,
  how: { readonly withoutClip?: boolean; readonly seconds?: number } = {},
): Promise<Visit> {
  const site = await serveFolder(folder)
  const context = await browser.newContext({ viewport: { width, height: 800 } })
  try {
    const page = await context.newPage()
    const cdp = await context.newCDPSession(page)
    await cdp.send('Network.enable')
    await cdp.send('Network.setCacheDisabled', { cacheDisabled: true })
    await cdp.send('Network.emulateNetworkConditions', {
      offline: false,
      latency: roundTripMs,
      downloadThroughput: bitsPerSecond / 8,
      uploadThroughput: bitsPerSecond / 8,
    })
    let bytes = 0
    const came = new Set<string>()
    let clipAfterPoster = true
    const paths = new Map<string, string>()
    cdp.on('Network.requestWillBeSent', ({ requestId, request }) => {
      paths.set(requestId, request.url)
      if (isClip(request.url) && ![...came].some((url) => url.includes('poster')))
        clipAfterPoster = false
    })
    cdp.on('Network.loadingFinished', ({ requestId }) => came.add(paths.get(requestId) ?? ''))
    cdp.on('Network.dataReceived', ({ dataLength }) => (bytes += dataLength))
    await page.addInitScript(() => {
      const held = window as unknown as { firstFrame: number | null }
      held.firstFrame = null
      addEventListener('DOMContentLoaded', () => {
        const video = document.querySelector('video')
        video?.requestVideoFrameCallback((now) => (held.firstFrame = now))
      })
    })
    await page.goto(`${site.url}/${how.withoutClip ? 'without-clip' : 'index'}.html`)
    const seen = async (withoutClip: boolean | undefined) =>
      (
        await page.waitForFunction(
          (poster) => {
            const held = performance
              .getEntriesByType('resource')
              .find((entry) => entry.name.includes('poster')) as
              PerformanceResourceTiming | undefined
            const { firstFrame } = window as unknown as { firstFrame: number | null }
            return held && (poster || firstFrame !== null)
              ? { poster: held.responseEnd, motion: firstFrame }
              : null
          },
          withoutClip,
          { timeout: 30_000, polling: 50 },
        )
      ).jsonValue()
    const { poster, motion } = (await seen(how.withoutClip))!
    await page.waitForTimeout((how.seconds ?? 0) * 1000)
    return { posterMs: poster, motionMs: motion, clipAfterPoster, asked: site.asked, bytes }
  } finally {
    await context.close()
    await site.stop()
  }
}

/**
 * The second quickest visit of each kind: a busy machine adds to what a line takes, and now and
 * then a player is lucky. Turn by turn, so that whatever else the machine does meets all kinds
 * alike, until a few turns have changed nothing.
 */
async function quickest(
  kinds: readonly (() => Promise<Visit>)[],
): Promise<{ readonly poster: number; readonly motion: number }[]> {
  const visits = kinds.map((): Visit[] => [])
  const second = (values: readonly number[]): number =>
    values.toSorted((a, b) => a - b)[1] ?? Infinity
  const told = () =>
    visits.map((each) => ({
      poster: second(each.map(({ posterMs }) => posterMs)),
      motion: second(each.map(({ motionMs }) => motionMs ?? 0)),
    }))
  for (let [turn, same] = [0, 0]; turn < 8 && same < 3; turn++) {
    const before = told()
    for (const [k, kind] of kinds.entries()) visits[k]!.push(await kind())
    same = told().every(
      ({ poster, motion }, k) =>
        poster > before[k]!.poster * 0.98 && motion >= before[k]!.motion * 0.98,
    )
      ? same + 1
      : 0
  }
  return told()
}

/**
 * The page as the model wants it, from what was really delivered: this server compresses nothing.
 */
async function loadedPage(screen: 'phone' | 'laptop' | 'wide'): Promise<LoadedPage> {
  const size = async (path: string): Promise<number> =>
    (await readFile(join(folder, path))).byteLength
  const clip = manifest.clips.find((each) => each.screen === screen)!
  const read = await readMedia(
    memorySource(new Uint8Array(await readFile(join(folder, clip.path)))),
  )
  if (!read.ok) throw read.error
  const { sizes, count } = read.value.video.samples
  const frameBytes = Array.from({ length: count }, (_, index) => sizes[index]!)
  return {
    markup: await size('index.html'),
    style:
      (await size(`backdrop-${manifest.id}.css`)) +
      (await size(`copy-${manifest.id}.css`)) +
      (await size('page.css')),
    script: await size('backdrop.js'),
    autoplay: false,
    poster: Math.min(
      ...manifest.posters.filter((poster) => poster.screen === screen).map(({ bytes }) => bytes),
    ),
    clip: {
      headBytes: clip.bytes - frameBytes.reduce((sum, bytes) => sum + bytes, 0),
      frameBytes,
      framesPerSecond: manifest.base.loop.frameRate.num / manifest.base.loop.frameRate.den,
    },
  }
}

describe('a delivered folder', () => {
  it.each([
    ['phone', 390],
    ['laptop', 1280],
    ['wide', 1800],
  ] as const)('gives a %s window its own files only', async (screen, width) => {
    const { asked, bytes } = await visit(FAST, width, { seconds: 2 })
    const media = [...new Set(asked.filter((path) => path.startsWith('/media/')))]
    expect(media.length).toBe(2)
    expect(media.every((path) => path.includes(`-${screen}-`))).toBe(true)
    const { budgetBytes } = manifest.firstVisit.find((each) => each.screen === screen)!
    expect(bytes).toBeGreaterThan(20_000)
    expect(bytes).toBeLessThanOrEqual(budgetBytes)
  })
  it('crops phones’ files to what they show', () => {
    const phone = manifest.clips.find((clip) => clip.screen === 'phone')!
    expect(phone.height).toBeGreaterThan(phone.width)
  })
  it('keeps every budget, or is at the ceiling of quality', () => {
    for (const clip of manifest.clips) {
      expect(clip.bytes, clip.path).toBeLessThanOrEqual(clip.budgetBytes!)
      if (clip.ssim! < 0.985)
        expect(clip.bytes / clip.budgetBytes!, clip.path).toBeGreaterThan(0.95)
    }
  })
  it('asks for no clip before its poster has come, and for the rest as a page without a clip', async () => {
    const slow = emulated(1_600_000, 150)
    const withClip = await visit(slow, 1280)
    const without = await visit(slow, 1280, { withoutClip: true })
    expect(withClip.clipAfterPoster).toBe(true)
    const beforeClip = withClip.asked.slice(0, withClip.asked.findIndex(isClip)).slice(1)
    expect(beforeClip.toSorted()).toEqual(without.asked.slice(1).toSorted())
  })
})

describe('the model of a first load', () => {
  const lines = {
    slow: emulated(1_600_000, 150),
    middling: emulated(5_000_000, 80),
    better: emulated(12_000_000, 300),
  }
  // Like those that are told: on much quicker ones the page itself still keeps the machine busy.
  const asides = [emulated(3_000_000, 110), emulated(8_000_000, 200)]
  const seen = new Map<Line, { readonly poster: number; readonly motion: number }>()
  let page: LoadedPage
  let machine: Machine
  /** All lines and the machine, turn by turn: what else the machine does meets all of them. */
  async function measure(): Promise<void> {
    const asked = [...asides, ...Object.values(lines)]
    for (const [k, quick] of (
      await quickest(asked.map((line) => () => visit(line, 1280)))
    ).entries())
      seen.set(asked[k]!, quick)
    // How fast this machine is at its own part is no matter of the line: what others tell of it
    // holds for the three. The smaller figure of two: a busy moment makes one too large.
    const thinkingMs = Math.min(
      ...asides.map((aside) => {
        const idle = { thinkingMs: 0, playerMs: 0 }
        return Math.max(0, (seen.get(aside)!.poster - firstLoad(page, aside, idle).posterMs) / 2)
      }),
    )
    const long = 1000
    const playerMs = Math.min(
      ...asides.map((aside) => {
        const told = firstLoad(page, aside, { thinkingMs, playerMs: long })
        return seen.get(aside)!.motion - (told.motionMs! - long)
      }),
    )
    machine = { thinkingMs, playerMs }
    console.info(
      `this machine thinks for ${thinkingMs.toFixed(0)} ms, and its player takes ${machine.playerMs.toFixed(0)} ms to wake`,
    )
  }
  beforeAll(async () => {
    page = await loadedPage('laptop')
    await measure()
  }, 180_000)

  it.for(['slow', 'middling', 'better'] as const)(
    'agrees with Chromium on a %s line within 15 percent for poster and motion',
    async (name, { task }) => {
      const { bitsPerSecond, roundTripMs } = lines[name]
      // A second attempt at the same figures would tell nothing; and a machine that was slower for
      // one line than for the others has told something wrong of itself.
      if (task.result?.retryCount) await measure()
      const told = firstLoad(page, lines[name], machine)
      const { poster, motion } = seen.get(lines[name])!
      console.info(
        `${bitsPerSecond / 1e6} Mbit/s, ${roundTripMs} ms: poster ${poster.toFixed(0)} (told ${told.posterMs.toFixed(0)}), motion ${motion.toFixed(0)} (told ${told.motionMs!.toFixed(0)})`,
      )
      expect(Math.abs(told.posterMs - poster) / poster).toBeLessThanOrEqual(0.15)
      expect(Math.abs(told.motionMs! - motion) / motion).toBeLessThanOrEqual(0.15)
    },
  )
})
