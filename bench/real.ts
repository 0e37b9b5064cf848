import { mkdtemp, readdir, readFile, rm, stat } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { basename, join, resolve } from 'node:path'
import { chromium, type Browser } from 'playwright-core'
import { manifestSchema } from '../core/handoff/manifest'
import { serveFolder, telon } from '../e2e/harness'
import { CHROMIUM } from '../headless/RenderBrowser'

/*
 * `npm run real -- PATH...`: every file through `telon probe` and a short `telon deliver` at
 * constant quality, then a check of the delivered folder in Chromium. Exits with 1 if a file
 * neither plays correctly nor is refused with a sentence. Works on the build, as users do.
 */

const SECONDS = 2
const QUALITY = '0.985'
/** A frame counts as repeated if it differs by less, mean of 0 to 255: coding noise stays below. */
const SAME_FRAME = 0.35
/** Mean difference per channel, 0 to 255, of colours between the delivered and the source clip. */
const MAX_COLOUR_DIFFERENCE = 3

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
const rows: Row[] = []
try {
  for (const file of await filesOf(paths.map((path) => resolve(path)))) {
    const row = await check(browser, file)
    rows.push(row)
    console.error(`${row.ok ? 'ok  ' : 'FAIL'} ${row.file}: ${row.outcome}`)
  }
} finally {
  await browser.close()
}
console.log('| file | coded as | outcome |\n| --- | --- | --- |')
for (const { file, source, outcome, ok } of rows)
  console.log(`| ${file} | ${source} | ${ok ? '' : '**fails**: '}${outcome} |`)
process.exit(rows.every(({ ok }) => ok) ? 0 : 1)

async function filesOf(all: readonly string[]): Promise<string[]> {
  const found: string[] = []
  for (const path of all) {
    if (!(await stat(path)).isDirectory()) found.push(path)
    else
      for (const name of (await readdir(path)).sort())
        found.push(...(await filesOf([join(path, name)])))
  }
  return found.filter((path) => !/\.(md|sh|txt)$/.test(path))
}

async function check(chromiumBrowser: Browser, path: string): Promise<Row> {
  const file = basename(path)
  const probed = await telon('probe', path)
  const line = JSON.parse(probed.out.trim().split('\n')[0] ?? '{}') as {
    error?: { message: string }
    video?: { codec: string; displayWidth: number; displayHeight: number; averageFps: number }
    durationMs?: number
  }
  const source = line.video
    ? `${line.video.codec}, ${line.video.displayWidth} × ${line.video.displayHeight}, ${line.video.averageFps} fps`
    : 'no clip'
  const folder = await mkdtemp(join(tmpdir(), 'telon-real-'))
  try {
    const out = join(folder, 'out')
    const end = Math.min(SECONDS, (line.durationMs ?? 0) / 1000)
    const range = end >= 0.5 ? ['--start', '0', '--end', end.toFixed(3)] : []
    const options = ['--quality', QUALITY, '--formats', 'h264', '--width', '640', ...range]
    const delivered = await telon('deliver', path, '--out', out, ...options)
    const said = delivered.err.trim().split('\n').at(-1) ?? ''
    if (delivered.code !== 0) {
      const isSentence =
        said.length > 20 && !/^\s+at |Error:.*\.(js|ts):|node:internal/m.test(delivered.err)
      const isNamed = line.error !== undefined || !line.video
      if (!isSentence)
        return { file, source, outcome: `no sentence: ${delivered.err.slice(0, 200)}`, ok: false }
      return {
        file,
        source,
        outcome: `refused: ${said.replace(/^error: /, '')}${isNamed ? '' : ' (probe did not say so)'}`,
        ok: true,
      }
    }
    return { file, source, ...(await playedRight(chromiumBrowser, path, out)) }
  } finally {
    await rm(folder, { recursive: true, force: true })
  }
}

async function playedRight(
  chromiumBrowser: Browser,
  path: string,
  out: string,
): Promise<Pick<Row, 'outcome' | 'ok'>> {
  const manifest = manifestSchema.parse(
    JSON.parse(await readFile(join(out, 'manifest.json'), 'utf8')),
  )
  const clip = manifest.clips[0]!
  const site = await serveFolder(out)
  const original = await serveFolder(resolve(path, '..'))
  const page = await chromiumBrowser.newPage()
  try {
    await page.goto(`${site.url}/index.html`)
    const url = `${site.url}/${clip.path}`
    const sourceUrl = `${original.url}/${encodeURIComponent(basename(path))}`
    const measured = await page.evaluate(measure, {
      url,
      frames: manifest.loop.frames,
      seconds: manifest.loop.seconds,
      same: SAME_FRAME,
    })
    if (measured.problem) return { outcome: measured.problem, ok: false }
    const facts = [
      `${clip.width} × ${clip.height}`,
      `${manifest.loop.frames} frames`,
      `${measured.repeated} repeated`,
    ]
    if (measured.width !== clip.width || measured.height !== clip.height)
      return { outcome: `plays at ${measured.width} × ${measured.height}`, ok: false }
    const sourcePage = await chromiumBrowser.newPage()
    await sourcePage.goto(original.url + '/', { waitUntil: 'commit' }).catch(() => undefined)
    const theirs = await sourcePage
      .evaluate(firstPicture, {
        url: sourceUrl,
        width: 64,
        height: 36,
        at: 0.5 / (manifest.loop.frameRate.num / manifest.loop.frameRate.den),
      })
      .catch(() => null)
    await sourcePage.close()
    const ours = await page.evaluate(firstPicture, {
      url,
      width: 64,
      height: 36,
      at: 0.5 / (manifest.loop.frameRate.num / manifest.loop.frameRate.den),
    })
    if (theirs && ours) {
      const difference = [0, 1, 2].map((channel) => meanDifference(ours, theirs, channel))
      facts.push(`colours ± ${Math.max(...difference).toFixed(1)}`)
      if (Math.max(...difference) > MAX_COLOUR_DIFFERENCE)
        return { outcome: facts.join(', '), ok: false }
    } else facts.push('Chromium does not play the source itself')
    return { outcome: facts.join(', '), ok: true }
  } finally {
    await page.close()
    await site.stop()
    await original.stop()
  }
}

function meanDifference(one: readonly number[], other: readonly number[], channel: number): number {
  let sum = 0
  for (let at = channel; at < one.length; at += 4) sum += Math.abs(one[at]! - other[at]!)
  return sum / (one.length / 4)
}

/** In the page: steps through one turn of the loop and counts frames equal to the one before. */
async function measure(order: { url: string; frames: number; seconds: number; same: number }) {
  const video = document.createElement('video')
  video.muted = true
  video.src = order.url
  const loaded = await new Promise<boolean>((done) => {
    video.onloadeddata = () => done(true)
    video.onerror = () => done(false)
    setTimeout(() => done(false), 15_000)
  })
  if (!loaded) return { problem: 'does not play', width: 0, height: 0, repeated: 0 }
  const canvas = new OffscreenCanvas(160, 90)
  const context = canvas.getContext('2d', { willReadFrequently: true })!
  let last: Uint8ClampedArray | null = null
  let repeated = 0
  for (let frame = 0; frame < order.frames; frame++) {
    const moved = new Promise((done) => (video.onseeked = done))
    video.currentTime = ((frame + 0.5) * order.seconds) / order.frames
    await moved
    context.drawImage(video, 0, 0, 160, 90)
    const { data } = context.getImageData(0, 0, 160, 90)
    if (last) {
      let sum = 0
      for (let at = 0; at < data.length; at += 4) sum += Math.abs(data[at + 1]! - last[at + 1]!)
      if (sum / (data.length / 4) < order.same) repeated += 1
    }
    last = data
  }
  return { problem: null, width: video.videoWidth, height: video.videoHeight, repeated }
}

/** In the page: the picture at a moment, small; null if the browser does not play the file. */
async function firstPicture(order: { url: string; width: number; height: number; at: number }) {
  const video = document.createElement('video')
  video.muted = true
  video.crossOrigin = 'anonymous'
  video.src = order.url
  const loaded = await new Promise<boolean>((done) => {
    video.onloadeddata = () => done(true)
    video.onerror = () => done(false)
    setTimeout(() => done(false), 15_000)
  })
  if (!loaded) return null
  const moved = new Promise((done) => (video.onseeked = done))
  video.currentTime = order.at
  await moved
  const canvas = new OffscreenCanvas(order.width, order.height)
  const context = canvas.getContext('2d', { willReadFrequently: true })!
  context.drawImage(video, 0, 0, order.width, order.height)
  return [...context.getImageData(0, 0, order.width, order.height).data]
}
