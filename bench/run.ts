import { readdirSync, readFileSync } from 'node:fs'
import { mkdtemp, open, readFile, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { gzipSync } from 'node:zlib'
import { chromium } from 'playwright-core'
import type { ClipRecipe } from '../core/backdrop/recipe'
import { countingSource, memorySource } from '../core/bytes/ByteSource'
import { assembleScript } from '../core/handoff/scripts'
import { plainSequence } from '../core/kinds/footage/footageSequence'
import { BOXES } from '../core/media/isobmff/boxes/registry'
import { parseBoxes, readBox, wrapBox, writeBox, type Box } from '../core/media/isobmff/boxTree'
import { writeMp4 } from '../core/media/isobmff/writeMp4'
import { probe } from '../core/media/probe'
import { readMedia } from '../core/media/readMedia'
import { seedDemo } from '../demo/seedDemo'
import { openFileSource } from '../headless/fileSource'
import { CHROMIUM, RenderBrowser } from '../headless/RenderBrowser'
import { readDeliveredScripts } from '../node/deliveredScripts'
import { inProject } from '../node/projectRoot'
import { startTestServer } from '../server/testing/testServer'
import { measureArrival } from './arrival'
import { measureContrastCost } from './contrast'
import { compareWithScreens } from './seen'
import { measureEncoderLoops, measureEncoderTime } from './encoderLoops'
import { measureFleet } from './fleet'
import { measurePictures } from './pictures'
import { measureMotionStart } from './motionStart'
import { measureEncoders } from './encoders'
import { measureJoins } from './joins'
import { measureKills } from './kill'
import { measureParticleCost } from './particleCost'
import { measurePlayedCost } from './playedCost'
import { measureRenderKills } from './renderKills'
import { measureStorage } from './storage'
import { drawEvenness, measureTime, measureWeight } from './weight'

/* Speed as ratios within one run, memory, and bytes. Figures go to docs by hand, with the date. */

const FILES = fileURLToPath(new URL('../demo/files/', import.meta.url))
const scratch = await mkdtemp(join(tmpdir(), 'telon-bench-'))
const median = (values: readonly number[]): number =>
  [...values].sort((a, b) => a - b)[values.length >> 1]!
const recipe = (
  family: 'h264' | 'vp9',
  width: number,
  seconds: number,
  timescale: number,
): ClipRecipe => ({
  kind: 'clip',
  sequence: plainSequence({
    size: { width: 1920, height: 1080 },
    cut: { timescale, start: 0, end: seconds * timescale },
    frameRate: { num: timescale, den: 1 },
    loops: true,
  }),
  copyBlur: null,
  family,
  width,
  height: (width * 9) / 16,
  noiseReduction: 0,
  goal: null,
  encoder: null,
})

if (process.argv.includes('--particles')) {
  await measureParticleCost()
  process.exit(0)
}
if (process.argv.includes('--contrast')) {
  await measureContrastCost(FILES)
  process.exit(0)
}
const seen = process.argv.indexOf('--seen')
if (seen > 0) {
  const named = process.argv.slice(seen + 1)
  await compareWithScreens(named.length > 0 ? named : [join(FILES, 'dusk-window.mov')])
  process.exit()
}
if (process.argv.includes('--storage')) {
  await measureStorage(FILES)
  process.exit(0)
}
if (process.argv.includes('--kill')) {
  await measureKills(FILES)
  process.exit(0)
}
if (process.argv.includes('--played')) {
  await measurePlayedCost(FILES, process.argv[process.argv.indexOf('--played') + 1])
  process.exit(0)
}
if (process.argv.includes('--arrival')) {
  await measureArrival(FILES)
  process.exit(0)
}
if (process.argv.includes('--memory')) {
  await memoryOnLongClip()
  process.exit(0)
}
if (process.argv.includes('--picture')) {
  await drawEvenness(FILES)
  process.exit(0)
}
if (process.argv.includes('--time')) {
  await measureTime(FILES)
  process.exit(0)
}
if (process.argv.includes('--joins')) {
  await measureJoins(join(FILES, 'rain-platform.mp4'))
  process.exit(0)
}
if (process.argv.includes('--encoder-loops')) {
  await measureEncoderLoops(FILES)
  process.exit(0)
}
if (process.argv.includes('--encoder-time')) {
  await measureEncoderTime(FILES)
  process.exit(0)
}
if (process.argv.includes('--motion-start')) {
  await measureMotionStart(FILES)
  process.exit(0)
}
const fleet = process.argv.indexOf('--fleet')
if (fleet >= 0) {
  const [workers = 200, jobs = 1000] = process.argv.slice(fleet + 1).map(Number)
  await measureFleet(workers, jobs)
  process.exit(0)
}
const renderKills = process.argv.indexOf('--render-kills')
if (renderKills >= 0) {
  const [deliveries = 20, workers = 2] = process.argv.slice(renderKills + 1).map(Number)
  await measureRenderKills(deliveries, workers)
  process.exit(0)
}
if (process.argv.includes('--pictures')) {
  await measurePictures(FILES)
  process.exit(0)
}
const encoders = process.argv.indexOf('--encoders')
if (encoders >= 0) {
  await measureEncoders(FILES, process.argv.slice(encoders + 1))
  process.exit(0)
}
const only = process.argv.indexOf('--weight')
if (only > 0) {
  // Clips of one's own may be named behind it: camera footage is not kept here.
  await measureWeight(FILES, process.argv.slice(only + 1))
  process.exit(0)
}
if (process.argv.includes('--render')) {
  await renderSpeed()
  process.exit(0)
}
await indexReads()
await renderSpeed()
await analysis()
await largeShelf()
await scrubbing()
await measureJoins(join(FILES, 'rain-platform.mp4'))
if (!process.argv.includes('--speed')) await memoryOnLongClip()
const script = assembleScript(await readDeliveredScripts(inProject('dist')), 'classic', ['video'])
console.log(
  `delivered script of footage: ${script.length} bytes, ${gzipSync(script).byteLength} gzip (limit 2500)`,
)

/** How much of a 250 MB clip with the index at its end is read to understand it. */
async function indexReads(): Promise<void> {
  const path = join(scratch, 'large.mp4')
  const bytes = new Uint8Array(await readFile(join(FILES, 'rain-platform.mp4')))
  const [ftyp, moov, mdat] = parseBoxes(bytes, 0)
  const gap = 250_000_000 - bytes.byteLength
  const shift = gap - moov!.payload.byteLength - 8
  const move = (box: Box): Uint8Array =>
    box.type === 'stco'
      ? writeBox('stco', BOXES.stco, {
          version: 0,
          flags: 0,
          offsets: readBox(BOXES.stco, box).offsets.map((offset) => offset + shift),
        })
      : wrapBox(box.type, ...(box.children.length > 0 ? box.children.map(move) : [box.payload]))
  const file = await open(path, 'w')
  const free = Buffer.alloc(8)
  free.writeUInt32BE(gap)
  free.write('free', 4)
  let at = 0
  for (const part of [wrapBox('ftyp', ftyp!.payload), free])
    at += (await file.write(part, 0, part.byteLength, at)).bytesWritten
  at += gap - 8
  for (const part of [wrapBox('mdat', mdat!.payload), move(moov!)])
    at += (await file.write(part, 0, part.byteLength, at)).bytesWritten
  await file.close()
  const handle = await openFileSource(path)
  const source = countingSource(handle)
  const facts = await probe(source)
  if (!facts.ok) throw facts.error
  if (facts.value.kind !== 'clip') throw new Error('the clip was read as an image')
  await handle.close()
  console.log(
    `index of a ${(source.size / 1e6).toFixed(0)} MB MP4, index at the end, ${facts.value.video.frameCount} frames: ${source.counts.bytes} bytes in ${source.counts.reads} reads`,
  )
  const webm = countingSource(
    memorySource(new Uint8Array(await readFile(join(FILES, 'aurora-fjord.webm')))),
  )
  await probe(webm)
  console.log(
    `a WebM of ${(webm.size / 1e6).toFixed(2)} MB (no sample table: block heads are visited): ${webm.counts.bytes} bytes in ${webm.counts.reads} reads`,
  )
}

/** The whole way from file to file against the encoder alone. */
async function renderSpeed(): Promise<void> {
  const browser = await RenderBrowser.start('/bench/page.html')
  for (const [clip, family, width, seconds, rate] of [
    ['rain-platform.mp4', 'h264', 1280, 4, 30],
    ['rain-platform.mp4', 'vp9', 1280, 4, 30],
    ['rain-platform.mp4', 'h264', 640, 4, 30],
    ['dusk-window.mov', 'h264', 1280, 4, 24],
    ['dusk-window.mov', 'vp9', 1280, 4, 24],
  ] as const) {
    const file = join(FILES, clip)
    const url = browser.lend(file)
    const { raw, whole } = await browser.page.evaluate(
      ([at, size, what]) => window.benchRender(at, size, what, 3),
      [url, readFileSync(file).byteLength, recipe(family, width, seconds, rate)] as const,
    )
    console.log(
      `${clip} → ${family} ${width}: encoder alone ${median(raw).toFixed(0)} fps, whole way ${median(whole).toFixed(0)} fps, ratio ${(median(whole) / median(raw)).toFixed(2)}`,
    )
  }
  await browser.stop()
}

/** Measuring a minute of 1080p: how much of its own length that takes, and what memory. */
async function analysis(): Promise<void> {
  const bytes = new Uint8Array(await readFile(join(FILES, 'dusk-window.mov')))
  const read = await readMedia(memorySource(bytes))
  if (!read.ok) throw read.error
  const { video } = read.value
  const once = Array.from({ length: video.samples.count }, (_, index) => ({
    data: bytes.subarray(
      video.samples.offsets[index]!,
      video.samples.offsets[index]! + video.samples.sizes[index]!,
    ),
    key: video.samples.keys[index] === 1,
  }))
  const frames = Array.from({ length: 5 }, () => once)
    .flat()
    .slice(0, 60 * 24)
  const path = join(scratch, 'minute.mp4')
  await writeFile(
    path,
    writeMp4({
      family: 'h264',
      width: 1920,
      height: 1080,
      frameRate: { num: 24, den: 1 },
      frames,
      description: video.codec.description,
      colour: video.colour!,
    }),
  )
  const browser = await RenderBrowser.start()
  await browser.analyse(join(FILES, 'viaduct-crossing.mp4'))
  const before = residentMegabytes()
  let max = 0
  const timer = setInterval(() => (max = Math.max(max, residentMegabytes())), 500)
  const start = performance.now()
  const { analysis: found } = await browser.analyse(path)
  const seconds = (performance.now() - start) / 1000
  clearInterval(timer)
  const {
    loops,
    seconds: withTrace,
    searchSeconds,
  } = await browser.findLoops(path, { from: 0, to: 60, min: 4, max: 12 }, 6)
  console.log(
    `search for loops in the same minute: ${searchSeconds.toFixed(1)} s once it is described (goal 10), ${withTrace.toFixed(1)} s with that; ${loops.length} loops, the best with a seam of ${loops[0]?.ratio?.toFixed(2)}`,
  )
  await browser.stop()
  console.log(
    `analysis of ${frames.length} frames of 1920 × 1080, 60 s: ${seconds.toFixed(1)} s, ${(seconds / 60).toFixed(2)} of its length (goal 0.5), ${(frames.length / seconds).toFixed(0)} frames a second, memory +${(max - before).toFixed(0)} MB, ${found!.cutsMs.length} cuts found`,
  )
}

/**
 * From a pointer's move on the filmstrip to the exact frame of 1080p material on the stage, in the
 * real studio; once with the scrub proxy, once before it is there.
 */
async function scrubbing(): Promise<void> {
  const server = await startTestServer({ prepare: seedDemo })
  const browser = await chromium.launch({ ...CHROMIUM, args: [...CHROMIUM.args] })
  try {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } })
    const [project] = (await (await fetch(`${server.url}/api/projects`)).json()) as {
      latestBackdropId: string
    }[]
    await page.goto(`${server.url}/backdrops/${project!.latestBackdropId}/timing`)
    const playhead = page.getByRole('slider', { name: 'Playhead on the clip' })
    await playhead.waitFor()
    await page.frameLocator('iframe[title^="The backdrop on"]').locator('.tln-heading').waitFor()
    await page.getByText(/preparing quick frames/).waitFor()
    await page.getByText(/preparing quick frames/).waitFor({ state: 'detached', timeout: 60_000 })
    await page.evaluate(() => {
      const slider = document.querySelector('[aria-label="Playhead on the clip"]')!
      const canvas = document
        .querySelector<HTMLIFrameElement>('iframe[title^="The backdrop on"]')!
        .contentDocument!.querySelector<HTMLCanvasElement>('.stage-frame')!
      const asked = new Map<string, number>()
      let moved = 0
      const latencies: number[] = []
      Object.assign(window, { benchLatencies: latencies })
      addEventListener('pointermove', (event) => (moved = event.timeStamp), true)
      new MutationObserver(
        () => void asked.set(slider.getAttribute('aria-valuenow')!, moved),
      ).observe(slider, { attributeFilter: ['aria-valuenow'] })
      new MutationObserver(() => {
        const at = asked.get(canvas.dataset['frame']!)
        asked.delete(canvas.dataset['frame']!)
        // The canvas is drawn; it is on screen with the next frame of the page.
        if (at !== undefined) requestAnimationFrame(() => latencies.push(performance.now() - at))
      }).observe(canvas, { attributeFilter: ['data-frame'] })
    })
    const box = (await playhead.boundingBox())!
    const sweep = async (name: string, places: readonly number[]): Promise<void> => {
      await page.evaluate(
        () => ((window as unknown as { benchLatencies: number[] }).benchLatencies.length = 0),
      )
      await page.mouse.move(box.x + box.width * places[0]!, box.y + 60)
      await page.mouse.down()
      for (const place of places) {
        await page.mouse.move(box.x + box.width * place, box.y + 60)
        await new Promise((resolve) => setTimeout(resolve, 16))
      }
      await page.waitForTimeout(400)
      await page.mouse.up()
      const found = (
        await page.evaluate(() => [
          ...(window as unknown as { benchLatencies: number[] }).benchLatencies,
        ])
      ).sort((a, b) => a - b)
      console.log(
        `pointer to exact frame, 1080p, ${name}: median ${median(found).toFixed(0)} ms, p95 ${found[Math.floor(found.length * 0.95)]!.toFixed(0)} ms (goal 80), ${found.length} frames shown for ${places.length} moves`,
      )
    }
    const ramp = (from: number, to: number, count: number): number[] =>
      Array.from({ length: count }, (_, index) => from + ((to - from) * index) / count)
    await sweep('slow drag forth', ramp(0.2, 0.45, 150))
    await sweep('slow drag back', ramp(0.7, 0.45, 150))
    await sweep('quick sweeps', [
      ...ramp(0.15, 0.95, 50),
      ...ramp(0.95, 0.15, 50),
      ...ramp(0.15, 0.95, 50),
    ])
    await sweep(
      'jumps',
      Array.from({ length: 60 }, (_, index) => 0.15 + ((index * 37) % 80) / 100).flatMap(
        (place) => [place, place, place, place, place, place],
      ),
    )
  } finally {
    await browser.close()
    await server.stop()
  }
}

/**
 * A shelf of five hundred sources: what the server takes for a part of it, and what the browser
 * holds of it.
 */
async function largeShelf(): Promise<void> {
  const server = await startTestServer({ prepare: seedDemo })
  const { Source } = server.database.models
  const drawn = await Source.findAll({ where: { kind: 'clip' } })
  await Source.bulkCreate(
    Array.from({ length: 488 }, (_, index) => {
      const {
        id: _id,
        createdAt: _created,
        ...row
      } = drawn[index % drawn.length]!.get({ plain: true })
      return { ...row, name: `clip ${String(index).padStart(3, '0')}.mp4` }
    }),
  )
  const projectId = drawn[0]!.projectId
  const times: number[] = []
  for (let turn = 0; turn < 40; turn++) {
    const start = performance.now()
    await (
      await fetch(
        `${server.url}/api/projects/${projectId}/sources?sort=name&findings=some&offset=${(turn % 5) * 60}&limit=60`,
      )
    ).json()
    times.push(performance.now() - start)
  }
  const browser = await chromium.launch({ ...CHROMIUM, args: [...CHROMIUM.args] })
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } })
  const start = performance.now()
  await page.goto(`${server.url}/projects/${projectId}/shelf`)
  await page.getByRole('list', { name: 'Sources' }).getByRole('listitem').first().waitFor()
  const first = performance.now() - start
  const scrolled = await page.evaluate(async () => {
    const main = document.querySelector('main')!
    const gaps: number[] = []
    let last = performance.now()
    let max = 0
    for (let turn = 0; turn < 300; turn++) {
      main.scrollTop += 220
      await new Promise(requestAnimationFrame)
      const now = performance.now()
      gaps.push(now - last)
      last = now
      max = Math.max(max, document.querySelectorAll('[role=listitem]').length)
    }
    return { p95: gaps.sort((a, b) => a - b)[Math.floor(gaps.length * 0.95)]!, max }
  })
  console.log(
    `shelf of 500: a filtered part of 60 in ${median(times).toFixed(0)} ms (p95 ${[...times].sort((a, b) => a - b)[37]!.toFixed(0)}), first card after ${first.toFixed(0)} ms, while scrolling p95 ${scrolled.p95.toFixed(0)} ms a frame, at most ${scrolled.max} cards in the page`,
  )
  await browser.close()
  await server.stop()
}

/**
 * Memory of the browser's processes while clips of growing length are rendered. Each renders to the
 * same number of bytes, so that the output, which must be in memory, does not count.
 */
async function memoryOnLongClip(): Promise<void> {
  const bytes = new Uint8Array(await readFile(join(FILES, 'viaduct-crossing.mp4')))
  const read = await readMedia(memorySource(bytes))
  if (!read.ok) throw read.error
  const { video } = read.value
  const once = Array.from({ length: video.samples.count }, (_, index) => ({
    data: bytes.subarray(
      video.samples.offsets[index]!,
      video.samples.offsets[index]! + video.samples.sizes[index]!,
    ),
    key: video.samples.keys[index] === 1,
  }))
  for (const [name, repeats] of [
    ['1 min', 7],
    ['5 min', 34],
    ['10 min', 67],
  ] as const) {
    const path = join(scratch, `clip-${repeats}.mp4`)
    const frames = Array.from({ length: repeats }, () => once).flat()
    await writeFile(
      path,
      writeMp4({
        family: 'h264',
        width: 640,
        height: 360,
        frameRate: { num: 25, den: 1 },
        frames,
        description: video.codec.description,
        colour: video.colour!,
      }),
    )
    const browser = await RenderBrowser.start('/bench/page.html')
    // Chosen as a file, not fetched: a driven browser keeps what it fetches for its driver, which
    // would count as ours.
    await browser.page.setInputFiles('input', path)
    const before = residentMegabytes()
    let max = 0
    // Garbage that is not collected yet does not belong to the pipeline: it is collected before
    // each reading.
    const timer = setInterval(
      () =>
        void browser.page.requestGC().then(
          () => (max = Math.max(max, residentMegabytes())),
          () => undefined,
        ),
      700,
    )
    const rendered = await browser.page.evaluate((what) => window.benchOnce(what), {
      ...recipe('vp9', 320, frames.length / 25, 25),
      goal: { kind: 'budget' as const, bytes: 1_500_000 },
    })
    clearInterval(timer)
    console.log(
      `memory, ${name} (${rendered.frames} frames, ${(rendered.output / 1e6).toFixed(1)} MB written): ${before.toFixed(0)} MB before, ${max.toFixed(0)} MB at the most, +${(max - before).toFixed(0)} MB`,
    )
    await browser.stop()
  }
}

/** Resident memory of all Chromium processes, shared pages counted once each process. */
function residentMegabytes(): number {
  return readdirSync('/proc')
    .filter((name) => /^\d+$/.test(name))
    .reduce((sum, pid) => {
      try {
        if (!readFileSync(`/proc/${pid}/comm`, 'utf8').startsWith('chromium')) return sum
        return (
          sum +
          Number(/RssAnon:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))?.[1] ?? 0) /
            1024
        )
      } catch {
        return sum
      }
    }, 0)
}
