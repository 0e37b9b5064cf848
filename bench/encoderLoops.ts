import { mkdtemp, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { basename, join } from 'node:path'
import { encodeClip } from '../encoders/encodeClip'
import type { WeightGoal } from '../core/weight/passes'
import { installedEncoders, type InstalledEncoder } from '../encoders/installed'
import { spoolFrames } from '../encoders/spoolFrames'
import { RenderBrowser } from '../headless/RenderBrowser'
import { dataBytesOf, loopRecipe, ownPasses, seamsOf, type Prepared } from './encoders'

/*
 * What encoder programs do at the loop point, frame by frame; and how long a budget takes x264
 * beside its own two passes on ready frames.
 */

const CLIPS = ['dusk-window.mov', 'harbour-lights.mp4', 'rain-platform.mp4', 'aurora-fjord.webm']
const SECONDS = 5
/**
 * Budgets that are timed, in bits for each pixel and frame: short ones, which need no probe, and
 * one that is more than needed. Rain has no more than six seconds, the harbour five.
 */
const TIMED = [
  ['rain-platform.mp4', 0.08],
  ['aurora-fjord.webm', 0.003],
  ['dusk-window.mov', 0.005],
  ['harbour-lights.mp4', 0.005],
  ['dusk-window.mov', 0.1],
] as const
const LONG_SECONDS = 9
/** Frames on either side of the loop point. */
const BESIDE = 6
const SIGNAL = new AbortController().signal
const mean = (values: readonly number[]): number =>
  values.reduce((sum, value) => sum + value, 0) / Math.max(1, values.length)

/** A clip whose frames are ready. */
async function prepare(
  browser: RenderBrowser,
  { encoder, name }: InstalledEncoder,
  file: string,
  seconds: number,
): Promise<Prepared> {
  const recipe = { ...(await loopRecipe(file, encoder.family, seconds)), encoder: name }
  const folder = await mkdtemp(join(tmpdir(), 'telon-bench-'))
  const path = join(folder, 'frames')
  const spooled = await spoolFrames(browser, file, recipe, path, SIGNAL, () => undefined)
  return { browser, file, recipe, spooled, folder }
}

/** What the loop point is measured at: a middle quality, and what a budget gives that is ample. */
const GOALS: readonly WeightGoal[] = [
  { kind: 'quality', ssim: 0.96 },
  { kind: 'budget', bytes: 30_000_000 },
]

/** Decibels of every frame of a file, and its seam, as a row of the table for each goal. */
async function loopPointsOf(prepared: Prepared, installed: InstalledEncoder): Promise<string> {
  const rows: string[] = []
  for (const goal of GOALS) rows.push(await loopPointOf(prepared, installed, goal))
  return rows.join('\n')
}

async function loopPointOf(
  prepared: Prepared,
  installed: InstalledEncoder,
  goal: WeightGoal,
): Promise<string> {
  const { browser, file, recipe, spooled, folder } = prepared
  const { bytes, facts } = await encodeClip(browser, installed, file, { ...recipe, goal })
  const made = join(folder, 'made')
  await writeFile(made, bytes)
  const { width, height } = recipe
  const { frames } = spooled.raw
  const { compared } = await browser.compare(made, spooled.path, {
    ...{ width, height, frames, max: frames, loops: true },
  })
  const decibels = compared.map(({ psnr }) => psnr)
  const around = (values: readonly number[]): string => (mean(values) - mean(decibels)).toFixed(1)
  const steps = decibels
    .slice(1)
    .map((value, index) => Math.abs(value - decibels[index]!))
    .sort((a, b) => a - b)
  const step = Math.abs(decibels[0]! - decibels.at(-1)!)
  return [
    basename(file).replace(/\.[^.]*$/, ''),
    installed.encoder.program,
    `${(bytes.byteLength / 1000).toFixed(0)} kB`,
    `mean ${mean(decibels).toFixed(1)} dB`,
    `last ${BESIDE} ${around(decibels.slice(-BESIDE))}`,
    `first ${around(decibels.slice(0, 1))}`,
    `first ${BESIDE} ${around(decibels.slice(0, BESIDE))}`,
    `step at the loop point ${step.toFixed(1)}`,
    `of all steps the median ${steps[steps.length >> 1]!.toFixed(1)}, the largest ${steps.at(-1)!.toFixed(1)}`,
    `seam ${seamsOf(facts)}`,
  ].join(', ')
}

/** Seconds of Telon's passes for a budget against the own two passes at the bytes that it took. */
async function timeOf(
  prepared: Prepared,
  installed: InstalledEncoder,
  bitsPerPixel: number,
): Promise<string> {
  const { browser, file, recipe, spooled } = prepared
  const { frames, frameRate, width, height } = spooled.raw
  const budget = Math.round((frames * width * height * bitsPerPixel) / 8)
  const { bytes, facts } = await encodeClip(browser, installed, file, {
    ...recipe,
    goal: { kind: 'budget', bytes: budget },
  })
  const kilobits = (dataBytesOf(bytes) * 8 * frameRate.num) / frameRate.den / frames / 1000
  const own = await ownPasses(prepared, installed.encoder, Math.round(kilobits))
  return `${basename(file)}: ${frames} frames of ${width} × ${height} by ${installed.encoder.program}: ${facts.encodeSeconds} s in ${facts.passes} of its passes, own two passes ${own.seconds.toFixed(1)} s: ${(facts.encodeSeconds / own.seconds).toFixed(2)} times`
}

/** Does something with a clip of the demonstration whose frames are ready. */
async function withClip<T>(
  browser: RenderBrowser,
  installed: InstalledEncoder,
  file: string,
  seconds: number,
  act: (prepared: Prepared) => Promise<T>,
): Promise<T> {
  const prepared = await prepare(browser, installed, file, seconds)
  return act(prepared).finally(() => rm(prepared.folder, { recursive: true }))
}

/** Measures the loop points of the installed encoders on clips of the demonstration. */
export async function measureEncoderLoops(demo: string): Promise<void> {
  const installed = (await installedEncoders()).filter(
    ({ encoder }) => encoder.program !== 'aomenc',
  )
  const browser = await RenderBrowser.start()
  for (const file of CLIPS)
    for (const each of installed)
      console.log(
        await withClip(browser, each, join(demo, file), SECONDS, (prepared) =>
          loopPointsOf(prepared, each),
        ),
      )
  await browser.stop()
}

/** Measures how long x264's files take on clips of the demonstration. */
export async function measureEncoderTime(demo: string): Promise<void> {
  const x264 = (await installedEncoders()).find(({ encoder }) => encoder.program === 'x264')
  if (!x264) return console.log('x264 is not installed')
  const browser = await RenderBrowser.start()
  for (const [file, bitsPerPixel] of TIMED)
    console.log(
      await withClip(browser, x264, join(demo, file), LONG_SECONDS, (prepared) =>
        timeOf(prepared, x264, bitsPerPixel),
      ),
    )
  await browser.stop()
}
