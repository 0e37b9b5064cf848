import { existsSync, readFileSync, statSync } from 'node:fs'
import { mkdtemp, writeFile } from 'node:fs/promises'
import { cpus, tmpdir } from 'node:os'
import { basename, dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'
import type { ClipFacts } from '../core/api/wire'
import { passJob } from '../core/backdrop/passJob'
import { probeOf, type ClipRecipe } from '../core/backdrop/recipe'
import { defaultOutputRate, toNumber } from '../core/Fraction'
import { plainSequence } from '../core/kinds/footage/footageSequence'
import type { Analysis } from '../core/material/Analysis'
import { presentationOf } from '../core/media/presentation'
import { readMedia } from '../core/media/readMedia'
import { containerOverhead } from '../core/weight/containerOverhead'
import { FAMILIES } from '../core/weight/families'
import { maxQualitySetting, floorBytes } from '../core/weight/passes'
import type { ProbeFacts } from '../core/weight/ProbeFacts'
import { renditionSize } from '../core/weight/renditionSize'
import { openFileSource } from '../headless/fileSource'
import { RenderBrowser } from '../headless/RenderBrowser'
import type { ClipPlace } from '../studio/worker/sources'
import { evennessPicture } from './evennessPicture'
import type { FrameQuality } from './page'

/*
 * Rate control against byte budgets, and against the browser's own variable rate at equal bytes.
 * Writes the table in docs/.
 */

const TABLE = fileURLToPath(new URL('../docs/weight-measured.md', import.meta.url))
const DEMO = [
  'dusk-window.mov',
  'rain-platform.mp4',
  'aurora-fjord.webm',
  'harbour-lights.mp4',
  'viaduct-crossing.mp4',
  'archive-reel.mp4',
  'tunnel-mouth.mp4',
  'signal-blink.gif',
]
/** What the picture in the docs shows: a clip whose first frame others refer to. */
const PICTURED = 'aurora-fjord.webm'
const PICTURE = fileURLToPath(new URL('../docs/pictures/weight-evenness.svg', import.meta.url))
const WIDTH = 1280
const SECONDS = 6
/**
 * What rendering is timed on: a lively clip and a calm one of 720p, so many seconds of each, in
 * turns.
 */
const TIMED = [
  ['rain-platform.mp4', 6, 2_000_000],
  ['aurora-fjord.webm', 10, 150_000],
] as const
const TURNS = 3
/** Attempts at a variable rate until its bytes match those it is compared with. */
const TRIES = 4

/**
 * The part of a demonstration clip that a new backdrop takes, in seconds: without cards, black and
 * cuts. All of any other clip.
 */
function usableOf(file: string): { readonly start: number; readonly end: number } {
  const beside = join(dirname(file), 'analysed.json')
  const analysed = existsSync(beside)
    ? (JSON.parse(readFileSync(beside, 'utf8')) as Record<string, { analysis: Analysis | null }>)
    : {}
  const usable = analysed[basename(file)]?.analysis?.usable
  return usable
    ? { start: usable.startMs / 1000, end: usable.endMs / 1000 }
    : { start: 0, end: Infinity }
}

export async function recipeOf(
  file: string,
  family: ClipRecipe['family'],
  seconds = SECONDS,
): Promise<ClipRecipe> {
  const source = await openFileSource(file)
  const read = await readMedia(source).finally(() => source.close())
  if (!read.ok) throw read.error
  const { video } = read.value
  const presentation = presentationOf(video)
  const { timescale, length, order } = presentation
  const { start, end } = usableOf(file)
  const size = { width: video.displayWidth, height: video.displayHeight }
  return {
    kind: 'clip',
    sequence: plainSequence({
      size,
      cut: {
        timescale,
        start: Math.round(start * timescale),
        end: Math.round(Math.min(length, Math.min(end, start + seconds) * timescale)),
      },
      frameRate: defaultOutputRate((order.length * timescale) / length),
      loops: true,
    }),
    copyBlur: null,
    family,
    ...renditionSize(size, WIDTH),
    noiseReduction: 0,
    goal: null,
    encoder: null,
  }
}

/**
 * A file rendered for a budget, and the browser's own variable rate at equal bytes: null if those
 * bytes were never reached.
 */
interface Compared {
  readonly budgetBytes: number
  readonly bytes: number
  readonly facts: ClipFacts
  readonly quality: FrameQuality
  readonly equal: FrameQuality | null
}

/**
 * What comparisons are made with: a page of the bench, one of the command line's, and a place for
 * files.
 */
interface Tools {
  readonly browser: RenderBrowser
  readonly harness: RenderBrowser
  readonly scratch: string
}

/**
 * Renders a clip for the budget at `share` between the smallest and largest useful size (on a
 * logarithmic scale), and compares it with the browser's variable bit rate.
 */
async function compare(
  { browser, harness, scratch }: Tools,
  file: string,
  recipe: ClipRecipe,
  probe: ProbeFacts,
  share: number,
): Promise<Compared> {
  const job = passJob(recipe, { kind: 'budget', bytes: 1 }, probe)
  const { curve, frames } = job
  const floor = floorBytes(job) ?? curve.loopBytes(probe.points[0]!.setting, frames)
  const data = Math.max(
    floor * 1.25,
    floor * (curve.loopBytes(maxQualitySetting(job), frames) / floor) ** share,
  )
  const budget = Math.round((data + job.overhead(data)) / 1000) * 1000
  const rendered = await harness.render(
    file,
    { ...recipe, goal: { kind: 'budget', bytes: budget } },
    undefined,
    probe,
  )
  const facts = rendered.facts as ClipFacts
  const made = join(scratch, 'made.mp4')
  await writeFile(made, rendered.bytes)
  // All frames on both sides: encoders boost frames at intervals, and a sample might see just
  // those.
  const quality = await browser.page.evaluate(
    ([at, what, done]) => window.benchQuality(at, what, done),
    [placeOf(browser, file), recipe, placeOf(browser, made)] as const,
  )
  const bytes = rendered.bytes.byteLength
  return {
    budgetBytes: budget,
    bytes,
    facts,
    quality,
    equal: await atVariableRate(
      browser,
      file,
      recipe,
      bytes - containerOverhead('mp4', frames, facts.repeats),
      frames / job.framesPerSecond,
    ),
  }
}

function placeOf(browser: RenderBrowser, path: string): ClipPlace {
  return { url: new URL(browser.lend(path), browser.page.url()).href, bytes: statSync(path).size }
}

async function tools(): Promise<Tools> {
  return {
    scratch: await mkdtemp(join(tmpdir(), 'telon-weight-')),
    browser: await RenderBrowser.start('/bench/page.html'),
    harness: await RenderBrowser.start(),
  }
}

/**
 * Two budgets for each clip and format, one and two thirds between the smallest and largest useful
 * size, with their results; then the rendering times.
 */
export async function measureWeight(demo: string, own: readonly string[]): Promise<void> {
  const bench = await tools()
  const rows: string[] = []
  const gains: Record<string, number[]> = { av1: [], vp9: [], h264: [] }
  for (const file of [...DEMO.map((name) => join(demo, name)), ...own]) {
    for (const family of FAMILIES) {
      const recipe = await recipeOf(file, family)
      const probe = await bench.harness.probe(file, probeOf(recipe))
      for (const share of [1 / 3, 2 / 3]) {
        const compared = await compare(bench, file, recipe, probe, share)
        if (compared.equal) gains[family]!.push(compared.quality.psnr - compared.equal.psnr)
        rows.push(rowOf(file, family, compared))
        console.log(rows[rows.length - 1])
      }
    }
  }
  await bench.harness.stop()
  const speed = await measureSpeed(bench.browser, demo)
  await bench.browser.stop()
  const mean = (values: readonly number[]): string =>
    (values.reduce((sum, value) => sum + value, 0) / Math.max(1, values.length)).toFixed(2)
  await writeFile(
    TABLE,
    tableOf(
      rows,
      speed,
      `AV1 ${mean(gains['av1']!)}, VP9 ${mean(gains['vp9']!)}, H.264 ${mean(gains['h264']!)}`,
    ),
  )
}

function rowOf(
  file: string,
  family: ClipRecipe['family'],
  { budgetBytes: budget, bytes, facts, quality, equal }: Compared,
): string {
  const signed = (value: number, digits: number): string =>
    `${value > 0 ? '+' : ''}${value.toFixed(digits)}`
  const cells = [
    basename(file).replace(/\.[^.]*$/, ''),
    family,
    budget / 1000,
    (bytes / 1000).toFixed(1),
    `${signed((bytes / budget - 1) * 100, 1)} %`,
    quality.ssim.toFixed(3),
    quality.worstSsim.toFixed(3),
    quality.psnr.toFixed(1),
    (quality.firstPsnr - quality.psnr).toFixed(1),
    facts.passes,
    equal ? signed(quality.psnr - equal.psnr, 2) : '–',
    equal ? (equal.firstPsnr - equal.psnr).toFixed(1) : '–',
  ]
  return `| ${cells.join(' | ')} |`
}

/** The table of times alone. */
export async function measureTime(demo: string): Promise<void> {
  const browser = await RenderBrowser.start('/bench/page.html')
  await measureSpeed(browser, demo)
  await browser.stop()
}

async function measureSpeed(browser: RenderBrowser, demo: string): Promise<string[]> {
  const rows: string[] = []
  for (const [name, seconds, bytes] of TIMED) {
    for (const family of FAMILIES) {
      const file = join(demo, name)
      const recipe = {
        ...(await recipeOf(file, family, seconds)),
        goal: { kind: 'budget' as const, bytes },
      }
      const turns = await browser.page.evaluate(
        ([at, what, count]) => window.benchGoal(at, what, count),
        [placeOf(browser, file), recipe, TURNS] as const,
      )
      const middle = (of: (turn: (typeof turns)[number]) => number): number =>
        turns.map(of).sort((a, b) => a - b)[turns.length >> 1]!
      rows.push(
        `| ${name.replace(/\..*$/, '')}, ${seconds} s | ${family} | ${middle(({ raw }) => raw).toFixed(1)} | ${middle(({ plain }) => plain).toFixed(1)} | ${middle(({ whole }) => whole).toFixed(1)} | ${turns[0]!.passes} | ${middle(({ raw, whole, passes }) => whole / passes / raw).toFixed(2)} | ${middle(({ plain, whole, passes }) => whole / passes / plain).toFixed(2)} | ${turns[0]!.probe.toFixed(1)} |`,
      )
      console.log(rows[rows.length - 1])
    }
  }
  return rows
}

/**
 * Draws the decibels of each frame of one loop, ours and the browser's variable rate at equal
 * bytes: docs/pictures/weight-evenness.svg.
 */
export async function drawEvenness(demo: string): Promise<void> {
  const bench = await tools()
  const file = join(demo, PICTURED)
  const recipe = await recipeOf(file, 'vp9')
  const { bytes, quality, equal } = await compare(
    bench,
    file,
    recipe,
    await bench.harness.probe(file, probeOf(recipe)),
    1 / 2,
  )
  await bench.harness.stop()
  await bench.browser.stop()
  if (!equal) throw new Error('the variable rate never came to these bytes')
  const title = `${basename(PICTURED).replace(/\..*$/, '')}, VP9, ${Math.round(bytes / 1000)} kB for ${(quality.decibels.length / toNumber(recipe.sequence.frameRate)).toFixed(1)} s: decibels of each frame`
  await writeFile(
    PICTURE,
    evennessPicture(title, quality.decibels, equal.decibels, toNumber(recipe.sequence.frameRate)),
  )
  console.log(
    `${PICTURE}: mean ${quality.psnr} against ${equal.psnr} dB, first frame ${quality.firstPsnr} against ${equal.firstPsnr} dB`,
  )
}

/**
 * The browser's own variable rate, its bit rate corrected until its bytes are within 3 % of those
 * wanted; null where it never comes near.
 */
async function atVariableRate(
  browser: RenderBrowser,
  file: string,
  recipe: ClipRecipe,
  bytes: number,
  seconds: number,
): Promise<FrameQuality | null> {
  const place = placeOf(browser, file)
  let rate = (bytes * 8) / seconds
  for (let turn = 0; turn < TRIES; turn++) {
    const made = await browser.page
      .evaluate(([at, what, bits]) => window.benchVariable(at, what, bits), [
        place,
        recipe,
        Math.round(rate),
      ] as const)
      .catch(() => null)
    if (!made) return null
    if (Math.abs(made.bytes / bytes - 1) < 0.03) return made.quality
    rate = Math.max(15_000, (rate * bytes) / made.bytes)
  }
  return null
}

function tableOf(rows: readonly string[], speed: readonly string[], gains: string): string {
  return `# Rate control, measured

Made by \`npm run bench -- --weight [clips of one's own]\` on ${new Date().toISOString().slice(0, 10)}; do not edit. ${WIDTH} pixels wide at most, ${SECONDS} seconds of each clip (of what a new backdrop takes of it), two budgets each between what
the encoder can do least and the ceiling of quality. *missed*: bytes against the budget. SSIM and decibels are means over all frames, *worst* is the SSIM of the worst. *first*: the first frame's decibels against the
mean (below −1 it would pulse at each turn). *gain*: mean decibels against the browser's own variable rate at equal bytes (± 3 %), and how its first frame stands; – where that rate never came to these bytes.
Files that leave more than 2 % are at the ceiling of quality, SSIM 0.985 or more. Clips that are not the demonstration's are footage of cameras, which is not kept here.

Mean gain in decibels: ${gains}.

| clip | format | budget kB | made kB | missed | SSIM | worst | dB | first | passes | gain | its first |
| --- | --- | --- | --- | --- | --- | --- | --- | --- | --- | --- | --- |
${rows.join('\n')}

Time for 1280 × 720, its probe given, on ${cpus().length} cores: medians of ${TURNS} turns. *encoder*: ready frames encoded at one setting; *plain*: frames decoded and encoded so, with nothing decided or measured; *whole*: the render as it is. The ratios are of one pass, to each of both.

| clip | format | encoder, s | plain, s | whole, s | passes | to encoder | to plain | probe, s |
| --- | --- | --- | --- | --- | --- | --- | --- | --- |
${speed.join('\n')}
`
}
