import { copyFile, mkdtemp, readdir, rm, stat, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { basename, extname, join, resolve } from 'node:path'
import { chromium, type Browser, type Page } from 'playwright-core'
import type { ProbeLine } from '../core/api/probeLine'
import { footageManifest, type FootageManifest } from '../e2e/harness'
import { presentationOf } from '../core/media/presentation'
import { readMedia } from '../core/media/readMedia'
import { plays, serveFolder, telon } from '../e2e/harness'
import { openFileSource } from '../headless/fileSource'
import { CHROMIUM, RenderBrowser } from '../headless/RenderBrowser'

/*
 * `npm run real -- PATH...`: every file through `telon probe` and a short `telon deliver` at
 * constant quality, then a check of the delivered folder in Chromium. Exits with 1 if a file
 * neither plays correctly nor is refused with a sentence. Works on the build, as users do.
 */

const SECONDS = 2
const QUALITY = '0.985'
/** Mean difference per channel, 0 to 255, between the delivered and the source clip. */
const MAX_COLOUR_DIFFERENCE = 3
/**
 * A frame repeats the one before it if it differs by less than this share of the source's usual
 * step nearby: a repeated picture, coded again, is nearly equal.
 */
const REPEATED_SHARE = 0.15
/** How far "nearby" reaches. */
const NEAR_SECONDS = 0.15
/**
 * Where steps are smaller (mean of 0 to 255) they are noise, which encoders leave out: repetition
 * cannot be told from it.
 */
const MIN_STEP = 0.2
/** Repeated frames beyond the source's, as a share of all: judder repeats one in three or four. */
const MAX_EXTRA_REPEATS = 0.1
/** Size at which both clips are shown, in CSS pixels. */
const SHOWN = { width: 640, height: 360 }
/** Size of the pictures that are compared; larger would compare the scalers. */
const PICTURE = { width: 64, height: 36 }

interface Row {
  readonly file: string
  readonly source: string
  readonly outcome: string
  readonly ok: boolean
}

const paths = process.argv.slice(2)
if (paths.length === 0) {
  console.error('Name files or folders: npm run real -- PATH...')
  process.exit(2)
}
const browser = await chromium.launch({ ...CHROMIUM, args: [...CHROMIUM.args] })
const decoder = await RenderBrowser.start()
const rows: Row[] = []
try {
  for (const file of await filesOf(paths.map((path) => resolve(path)))) {
    const row = await check(browser, file)
    rows.push(row)
    console.error(`${row.ok ? 'ok  ' : 'FAIL'} ${row.file}: ${row.outcome}`)
  }
} finally {
  await browser.close()
  await decoder.stop()
}
console.log('| file | coded as | outcome |\n| --- | --- | --- |')
for (const { file, source, outcome, ok } of rows)
  console.log(`| ${file} | ${source} | ${ok ? '' : '**fails**: '}${outcome} |`)
process.exit(rows.every(({ ok }) => ok) ? 0 : 1)

async function filesOf(all: readonly string[]): Promise<string[]> {
  const found: string[] = []
  for (const path of all) {
    if (!(await stat(path)).isDirectory()) found.push(path)
    else {
      const inside = (await readdir(path)).sort().map((name) => join(path, name))
      found.push(...(await filesOf(inside)))
    }
  }
  return found.filter((path) => !/\.(md|sh|txt)$/.test(path))
}

async function check(chromiumBrowser: Browser, path: string): Promise<Row> {
  const file = basename(path)
  const probed = await telon('probe', path)
  const line = JSON.parse(probed.out.trim().split('\n')[0] ?? '{}') as ProbeLine
  const { video } = line
  const source = video
    ? `${video.codec}, ${video.displayWidth} × ${video.displayHeight}, ${video.averageFps} fps`
    : 'not read'
  const row = (ok: boolean, outcome: string): Row => ({ file, source, outcome, ok })
  const folder = await mkdtemp(join(tmpdir(), 'telon-real-'))
  try {
    const out = join(folder, 'out')
    const end = Math.min(SECONDS, (line.durationMs ?? 0) / 1000)
    const cut = end >= 0.5 ? ['--start', '0', '--end', end.toFixed(3)] : []
    const options = ['--quality', QUALITY, '--formats', 'h264', '--width', '640', ...cut]
    const delivered = await telon('deliver', path, '--out', out, ...options)
    if (delivered.code === 0) {
      const { ok, outcome } = await playedRight(chromiumBrowser, path, out, folder)
      return row(ok, outcome)
    }
    const said = delivered.err.trim().split('\n').at(-1) ?? ''
    const sentence = said.replace(`${path}: `, '')
    if (/^\s+at |\.(js|ts):\d|^\w*Error:/m.test(delivered.err) || !/^[A-Z].{20,}\.$/.test(sentence))
      return row(false, `no sentence: ${delivered.err.slice(0, 200)}`)
    if (!line.error) return row(false, `refused, which probe did not say: ${sentence}`)
    return row(probed.code === 1, `refused: ${sentence}`)
  } finally {
    await rm(folder, { recursive: true, force: true })
  }
}

async function playedRight(
  chromiumBrowser: Browser,
  path: string,
  out: string,
  folder: string,
): Promise<Pick<Row, 'outcome' | 'ok'>> {
  const manifest = await footageManifest(out)
  const clip = manifest.clips[0]!
  const source = `source${extname(path)}`
  await copyFile(path, join(folder, source))
  await writeFile(join(folder, 'page.html'), '<!doctype html>')
  const site = await serveFolder(folder)
  const page = await chromiumBrowser.newPage({ viewport: { width: 1920, height: 1080 } })
  const facts: string[] = []
  const fails: string[] = []
  const note = (ok: boolean, fact: string): void => void (ok ? facts : fails).push(fact)
  try {
    await page.goto(`${site.url}/out/index.html`)
    note(
      await plays(page).then(
        () => true,
        () => false,
      ),
      'plays',
    )
    await page.goto(`${site.url}/page.html`)
    const moment = (0.5 * manifest.base.loop.seconds) / manifest.base.loop.frames
    const ours = await pictureAt(page, `${site.url}/out/${clip.path}`, moment)
    const theirs = await pictureAt(page, `${site.url}/${source}`, moment)
    if (!ours) return { ok: false, outcome: 'Chromium does not play the delivered clip' }
    const isSize = ours.width === clip.width && ours.height === clip.height
    note(isSize, `${ours.width} × ${ours.height}`)
    await repeats(path, join(out, clip.path), manifest, note)
    if (theirs) {
      const difference = [0, 1, 2].map((channel) => meanDifference(ours, theirs, channel))
      const worst = Math.max(...difference)
      note(worst <= MAX_COLOUR_DIFFERENCE, `colours and first picture ± ${worst.toFixed(1)}`)
    } else facts.push('the source itself does not play in Chromium')
    const outcome = [...fails.map((fact) => `wrong: ${fact}`), ...facts].join(', ')
    return { ok: fails.length === 0, outcome }
  } finally {
    await page.close()
    await site.stop()
  }
}

/** Compares how often pictures repeat in a delivered file and in the source's same seconds. */
async function repeats(
  path: string,
  delivered: string,
  { base: { loop } }: FootageManifest,
  note: (ok: boolean, fact: string) => void,
): Promise<void> {
  const fps = loop.frameRate.num / loop.frameRate.den
  const times = Array.from({ length: loop.frames }, (_, at) => at / fps)
  const sourceTimes = await timesWithin(path, loop.seconds)
  const ours = stepsOf(await decoder.frames(delivered, [...times.keys()], 'in order'))
  const theirs = stepsOf(await decoder.frames(path, [...sourceTimes.keys()], 'in order'))
  const usualAt = (seconds: number): number =>
    median(theirs.filter((_, at) => Math.abs(sourceTimes[at + 1]! - seconds) < NEAR_SECONDS))
  const repeated = (steps: readonly number[], at: readonly number[]): number =>
    steps.filter((step, index) => {
      const usual = usualAt(at[index + 1]!)
      return usual >= MIN_STEP && step < usual * REPEATED_SHARE
    }).length
  const [here, there] = [repeated(ours, times), repeated(theirs, sourceTimes)]
  const moving = times.filter((time) => usualAt(time) >= MIN_STEP).length
  // A higher rate than the source's, or than a part of it has where it varies, repeats frames.
  const unavoidable = Math.max(0, loop.frames - sourceTimes.length)
  const most = there + unavoidable + Math.max(1, Math.round(moving * MAX_EXTRA_REPEATS))
  const count = `${loop.frames} frames at ${fps.toFixed(2)} fps, ${moving} in motion`
  note(here <= most, `${count}, ${here} repeated (source ${there})`)
}

/** The times, in seconds, of the frames that a clip shows in its first seconds. */
async function timesWithin(path: string, seconds: number): Promise<number[]> {
  const file = await openFileSource(path)
  try {
    const read = await readMedia(file)
    if (!read.ok) throw read.error
    const { times, timescale } = presentationOf(read.value.video)
    return times.map((time) => time / timescale).filter((time) => time < seconds)
  } finally {
    await file.close()
  }
}

/** Mean differences of green between pictures that follow each other. */
function stepsOf(pictures: readonly Buffer[]): number[] {
  return pictures.slice(1).map((picture, at) => {
    let sum = 0
    for (let byte = 1; byte < picture.length; byte += 4)
      sum += Math.abs(picture[byte]! - pictures[at]![byte]!)
    return sum / (picture.length / 4)
  })
}

function median(values: readonly number[]): number {
  return [...values].sort((a, b) => a - b)[values.length >> 1] ?? 0
}

interface Picture {
  readonly width: number
  readonly height: number
  readonly pixels: readonly number[]
}

function meanDifference({ pixels }: Picture, other: Picture, channel: number): number {
  let sum = 0
  for (let at = channel; at < pixels.length; at += 4)
    sum += Math.abs(pixels[at]! - other.pixels[at]!)
  return sum / (pixels.length / 4)
}

/**
 * A file's picture at a moment as the browser shows it on a white page; null if it does not play
 * the file. From a screenshot: a canvas draws ten-bit video wrongly.
 */
async function pictureAt(page: Page, url: string, seconds: number): Promise<Picture | null> {
  const size = await page.evaluate(
    async (order) => {
      const video = document.createElement('video')
      video.muted = true
      video.src = order.url
      video.style.cssText = `position:fixed;left:0;top:0;width:${order.width}px;height:${order.height}px;object-fit:fill`
      document.body.replaceChildren(video)
      const isLoaded = await new Promise<boolean>((done) => {
        video.onloadeddata = () => done(true)
        video.onerror = () => done(false)
        setTimeout(() => done(false), 15_000)
      })
      if (!isLoaded) return null
      const sought = new Promise((done) => (video.onseeked = done))
      // A large picture is presented well after the seek has ended.
      const presented = new Promise((done) => {
        video.requestVideoFrameCallback(done)
        setTimeout(done, 3_000)
      })
      video.currentTime = order.seconds
      await sought
      await presented
      // What was presented is on screen two frames later.
      await new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done)))
      return { width: video.videoWidth, height: video.videoHeight }
    },
    { url, seconds, ...SHOWN },
  )
  if (!size) return null
  const shot = await page.screenshot({ clip: { x: 0, y: 0, ...SHOWN } })
  const pixels = await page.evaluate(
    async (order) => {
      const bytes = Uint8Array.from(atob(order.png), (character) => character.charCodeAt(0))
      const image = await createImageBitmap(new Blob([bytes], { type: 'image/png' }))
      const canvas = new OffscreenCanvas(order.width, order.height)
      const context = canvas.getContext('2d', { willReadFrequently: true })!
      // Each step halves, so that every pixel counts.
      context.imageSmoothingQuality = 'high'
      context.drawImage(image, 0, 0, order.width, order.height)
      return [...context.getImageData(0, 0, order.width, order.height).data]
    },
    { png: shot.toString('base64'), ...PICTURE },
  )
  return { ...size, pixels }
}
