import { createHash } from 'node:crypto'
import { createReadStream } from 'node:fs'
import { mkdir, readFile, writeFile } from 'node:fs/promises'
import { basename, dirname, join } from 'node:path'
import type { ClipFacts, Rendition, RenditionFacts } from '../core/api/wire'
import type { BackdropDocument, RenditionSettings } from '../core/backdrop/BackdropDocument'
import { createBackdrop } from '../core/backdrop/createBackdrop'
import { firstVisits, type FirstVisit } from '../core/backdrop/firstVisit'
import {
  clipRecipes,
  posterRecipes,
  probeOf,
  proofRecipe,
  recipeKey,
  type Recipe,
  type RecipeSource,
} from '../core/backdrop/recipe'
import { type Family } from '../core/weight/families'
import type { ScreenClass } from '../core/fit/screens'
import { assembleHandoff } from '../core/handoff/assembleHandoff'
import { describeContainerError } from '../core/media/describeContainerError'
import { presentationOf, type Presentation } from '../core/media/presentation'
import { factsOf } from '../core/media/probe'
import { refusalOf } from '../core/media/refusal'
import { readMedia } from '../core/media/readMedia'
import { chooseOverlap } from '../core/loop/chooseOverlap'
import { nearestRate, toNumber } from '../core/loop/Fraction'
import { judgeSeam, SEAM_ADVICE } from '../core/loop/judgeSeam'
import { snapCut, type Seam } from '../core/loop/framePlan'
import { RenderBrowser } from '../headless/RenderBrowser'
import { openFileSource } from '../headless/fileSource'
import { proposeLighter } from './proposeLighter'
import { inProject } from '../node/projectRoot'

/** What `telon deliver` was asked for; times in seconds of the source. */
export interface DeliverOptions {
  readonly out: string
  readonly start?: number
  readonly end?: number
  readonly speed: number
  /** Frames a second; the clip's own, up to 30, where it is left out. */
  readonly fps?: number
  readonly width?: number
  /** Kilobytes of a first visit by screen class; the classes left out keep the default. */
  readonly budget?: Partial<Record<ScreenClass, number>>
  readonly formats?: readonly Family[]
  /** The constant quality (SSIM) to reach instead of the budgets. */
  readonly quality?: number
  readonly noiseReduction: number
  /** How strongly the area behind the copy is blurred in all files, 0 to 1. */
  readonly soften: number
  readonly once: boolean
  readonly seam: Seam['kind']
  /** Seconds of a blended seam; measured and chosen if left out. */
  readonly overlap?: number
  /** Lengths in seconds within which the best loop is looked for. */
  readonly findLoop?: { readonly min: number; readonly max: number }
  /** A moment of the clip in seconds, or the first output frame. */
  readonly poster: number | 'first'
  readonly heading?: string
}

/** A request that is well formed and cannot be carried out: exit code 2. */
export class UsageError extends Error {
  override readonly name = 'UsageError'
}

/**
 * Writes the handoff folder of a clip. Throws UsageError for options that do not fit the clip,
 * Error where the clip cannot be used.
 */
export async function deliver(
  file: string,
  options: DeliverOptions,
  say: (line: string) => void,
): Promise<void> {
  const { document: drafted, facts, presentation } = await draft(file, options)
  const source: RecipeSource = {
    sha256: await sha256Of(file),
    width: facts.video.displayWidth,
    height: facts.video.displayHeight,
  }
  const made = new Map<string, Rendition & { content: Buffer }>()
  const browser = await RenderBrowser.start()
  let document: BackdropDocument
  try {
    document = await settleLoop(browser, file, drafted, source, presentation, options, say)
    const wanted = [...clipRecipes(document, source), ...posterRecipes(document, source)]
    const over = new Set<ScreenClass>()
    for (const [index, { screenClass, recipe }] of wanted.entries()) {
      const label = `${index + 1}/${wanted.length} ${recipe.kind === 'poster' ? `poster ${recipe.format}` : recipe.family} ${recipe.width}×${recipe.height}`
      let told = ''
      const tell = (what: string, done: number): void => {
        const line = `${label}: ${what}, ${Math.floor(done * 10) * 10} %`
        if (line !== told) say(line)
        told = line
      }
      const probe =
        recipe.kind === 'clip'
          ? await browser.probe(file, probeOf(recipe), (done) => tell('probe', done))
          : null
      const rendered = await browser.render(
        file,
        recipe,
        (done, pass) => tell(`pass ${pass + 1}`, done),
        probe,
      )
      const key = recipeKey(recipe)
      const sha256 = createHash('sha256').update(rendered.bytes).digest('hex')
      made.set(key, {
        key,
        sha256,
        bytes: rendered.bytes.byteLength,
        facts: rendered.facts,
        content: rendered.bytes,
      })
      say(`${label}: ${rendered.bytes.byteLength} bytes${figuresOf(rendered.facts)}`)
      if (
        recipe.kind === 'clip' &&
        recipe.goal?.kind === 'budget' &&
        rendered.bytes.byteLength > recipe.goal.bytes
      ) {
        say(
          `${label}: over its ${recipe.goal.bytes} bytes: ${NAMES[recipe.family]} cannot encode this clip any smaller. Leave the format out, or change one of these:`,
        )
        over.add(screenClass)
      }
    }
    for (const screenClass of over)
      await proposeLighter(browser, file, document, source, screenClass, say)
  } finally {
    await browser.stop()
  }
  const script = await readFile(inProject('dist/runtime/backdrop.js'), 'utf8')
  const name = basename(file).replace(/\.[^.]*$/, '')
  const folder = await assembleHandoff({
    name,
    document,
    source,
    script,
    find: async (keys) => keys.flatMap((key) => made.get(key) ?? []),
  })
  if (!folder.ok) throw new Error(`files are missing: ${folder.error.join(', ')}`)
  const content = new Map([...made.values()].map((each) => [each.sha256, each.content]))
  const write = async (path: string, data: string | Buffer): Promise<void> => {
    const target = join(options.out, path)
    await mkdir(dirname(target), { recursive: true })
    await writeFile(target, data)
  }
  for (const { path, text } of folder.value.texts) await write(path, text)
  for (const { path, sha256 } of folder.value.media) await write(path, content.get(sha256)!)
  const bytesOf = (recipe: Recipe): number => made.get(recipeKey(recipe))!.bytes
  const weighed = {
    clips: clipRecipes(document, source).map(({ screenClass, recipe }) => ({
      screenClass,
      family: recipe.family,
      bytes: bytesOf(recipe),
    })),
    posters: posterRecipes(document, source).map(({ screenClass, recipe }) => ({
      screenClass,
      bytes: bytesOf(recipe),
    })),
  }
  for (const visit of firstVisits(document, weighed))
    say(describeVisit(visit, options.quality !== undefined))
  const seam = [...made.values()].flatMap(({ facts }) =>
    facts.kind === 'clip' && facts.seam ? [facts.seam] : [],
  )[0]
  if (seam && judgeSeam(seam).visibility === 'visible')
    say(`warning: the seam is ${judgeSeam(seam).words}. ${SEAM_ADVICE}`)
  say(`written to ${options.out}`)
}

/**
 * What a first visit takes on a class of screens, in words; compared with its budget unless the
 * goal is constant quality.
 */
function describeVisit(
  { screenClass, poster, clip, page, total, budgetBytes: budget }: FirstVisit,
  measureQuality: boolean,
): string {
  const kilobytes = (bytes: number): string => `${Math.round(bytes / 1000)} kB`
  return `first visit, ${screenClass}: ${kilobytes(total)}${measureQuality ? '' : ` of ${kilobytes(budget)}${total > budget ? ', over' : ''}`} (poster ${kilobytes(poster)}, clip ${kilobytes(clip)}, page ${kilobytes(page)})`
}

/** What a finished file measured, in words. */
function figuresOf(facts: RenditionFacts): string {
  if (facts.kind === 'poster')
    return `, SSIM ${facts.ssim.toFixed(3)}, swap ΔE ${facts.swapDeltaE.toFixed(2)}`
  if (facts.kind !== 'clip') return ''
  const { quality } = facts
  return `${quality ? `, SSIM ${quality.ssim.toFixed(3)} (worst ${quality.worstSsim.toFixed(3)}), ${quality.psnr.toFixed(1)} dB, ${facts.encodeSeconds.toFixed(1)} s` : ''}${seamWords(facts)}`
}

function seamWords(facts: ClipFacts): string {
  if (!facts.seam) return ''
  return facts.seam.ratio === null
    ? ', hardly moves'
    : `, seam ${facts.seam.ratio.toFixed(2)}, decoded ${(facts.deliveredSeamRatio ?? facts.seam.ratio).toFixed(2)}`
}

/** Finds the best loop if asked for, and measures the length of a blended seam if none is given. */
async function settleLoop(
  browser: RenderBrowser,
  file: string,
  document: BackdropDocument,
  source: RecipeSource,
  presentation: Presentation,
  options: DeliverOptions,
  say: (line: string) => void,
): Promise<BackdropDocument> {
  let settled = document
  if (options.findLoop) {
    const { cut } = document.timing
    const length = presentation.length / presentation.timescale
    const range = {
      from: options.start ?? 0,
      to: options.end ?? length,
      min: options.findLoop.min,
      max: options.findLoop.max,
    }
    if (range.to - range.from < range.min)
      throw new UsageError(
        `--find-loop: no loop of ${range.min} s or longer fits into ${(range.to - range.from).toFixed(2)} s.`,
      )
    say(`looking for loops of ${range.min} to ${range.max} s`)
    const { loops } = await browser.findLoops(file, range, 6)
    const [best] = loops
    if (!best)
      throw new UsageError(
        '--find-loop: nothing was found in this range. Allow other lengths, or a longer part of the clip.',
      )
    for (const loop of loops)
      say(
        `  ${(loop.startTicks / presentation.timescale).toFixed(2)} to ${(loop.endTicks / presentation.timescale).toFixed(2)} s, seam about ${loop.ratio?.toFixed(2) ?? 'invisible'}`,
      )
    const found = { timescale: presentation.timescale, start: best.startTicks, end: best.endTicks }
    settled = {
      ...settled,
      timing: {
        ...settled.timing,
        cut: found.timescale === cut.timescale ? found : snapCut(found, presentation, 'both'),
      },
    }
  }
  if (options.seam === 'blended' && options.overlap === undefined && !options.once) {
    const motion = await browser.cutMotion(file, proofRecipe(settled, source))
    const overlapSeconds = chooseOverlap(motion, toNumber(settled.timing.frameRate))
    say(
      `the straight seam has ${motion.straightRatio?.toFixed(2) ?? 'no motion'}: blended over ${overlapSeconds} s`,
    )
    settled = {
      ...settled,
      timing: { ...settled.timing, seam: { kind: 'blended', overlapSeconds } },
    }
  }
  return settled
}

async function draft(file: string, options: DeliverOptions) {
  const source = await openFileSource(file).catch(() => {
    throw new UsageError(`${file}: the file does not exist or cannot be read.`)
  })
  const read = await readMedia(source).finally(() => source.close())
  if (!read.ok) throw new Error(`${file}: ${describeContainerError(read.error)}`)
  const facts = factsOf(read.value)
  const refusal = refusalOf(facts, false)
  if (refusal) throw new Error(`${file}: ${describeContainerError(refusal)}`)
  const made = createBackdrop({
    sourceId: 'file',
    facts,
    scope: 'region',
    height: { unit: 'svh', value: 100 },
    brand: basename(file),
  })
  const { timescale, durationTicks } = facts.video
  const seconds = durationTicks / timescale
  const start = options.start ?? 0
  const end =
    options.end ??
    (options.start === undefined ? made.timing.cut.end / timescale : Math.min(seconds, start + 10))
  if (start >= seconds)
    throw new UsageError(`--start ${start} is after the clip's end (${seconds.toFixed(2)} s).`)
  if (end <= start) throw new UsageError(`--end ${end} is not after --start ${start}.`)
  if (end > seconds + 0.05)
    throw new UsageError(`--end ${end} is after the clip's end (${seconds.toFixed(2)} s).`)
  if (options.overlap !== undefined && options.seam !== 'blended')
    throw new UsageError('--overlap goes with --seam blended only.')
  if (options.once && options.seam !== 'straight')
    throw new UsageError(`--once plays once: there is no seam to be ${options.seam}.`)
  if (options.poster !== 'first' && options.poster > seconds)
    throw new UsageError(
      `--poster ${options.poster} is after the clip's end (${seconds.toFixed(2)} s).`,
    )
  const presentation = presentationOf(read.value.video)
  const cut = snapCut(
    { timescale, start: Math.round(start * timescale), end: Math.round(end * timescale) },
    presentation,
    'end',
  )
  const document: BackdropDocument = {
    ...made,
    timing: {
      ...made.timing,
      cut,
      speed: options.speed,
      ...(options.fps === undefined ? {} : { frameRate: nearestRate(options.fps) }),
      repeat: options.once ? 'once' : 'loop',
      seam: {
        kind: options.seam,
        overlapSeconds: options.overlap ?? made.timing.seam.overlapSeconds,
      },
    },
    poster: {
      ...made.poster,
      ...(options.poster === 'first'
        ? {}
        : {
            picture: {
              kind: 'frame' as const,
              ticks: Math.round(options.poster * timescale),
              timescale,
            },
          }),
    },
    copy: { ...made.copy, ...(options.heading === undefined ? {} : { heading: options.heading }) },
    weight: weightOf(made.weight, options),
  }
  return { document, facts, presentation }
}

/**
 * One row for all screens, with the smallest of the given budgets: it must be met on each of them.
 */
function oneRow(
  screenClass: ScreenClass,
  width: number,
  budget: NonNullable<DeliverOptions['budget']>,
): Partial<RenditionSettings> {
  const smallest = Math.min(...Object.values(budget))
  return {
    enabled: screenClass === 'wide',
    width,
    crop: 'whole',
    ...(Number.isFinite(smallest) ? { budgetBytes: smallest * 1000 } : {}),
  }
}

/**
 * The renditions with what was asked for: at least one screen keeps H.264, so it cannot be left out
 * of the formats of all.
 */
function weightOf(
  weight: BackdropDocument['weight'],
  { width, budget = {}, formats, quality, noiseReduction, soften }: DeliverOptions,
): BackdropDocument['weight'] {
  const row = (screenClass: ScreenClass): RenditionSettings => {
    const first = weight.renditions[screenClass]
    const kilobytes = budget[screenClass]
    return {
      ...first,
      soften,
      ...(kilobytes === undefined ? {} : { budgetBytes: kilobytes * 1000 }),
      ...(width === undefined ? {} : oneRow(screenClass, width, budget)),
      ...(formats
        ? {
            formats: {
              av1: formats.includes('av1'),
              vp9: formats.includes('vp9'),
              h264: formats.includes('h264'),
            },
          }
        : {}),
    }
  }
  if (formats && !formats.includes('h264'))
    throw new UsageError('--formats: h264 is required, because every browser plays it.')
  return {
    ...weight,
    renditions: { phone: row('phone'), laptop: row('laptop'), wide: row('wide') },
    noiseReduction,
    ...(quality === undefined ? {} : { goal: 'quality' as const, ssim: quality }),
  }
}

const NAMES: Record<Family, string> = { av1: 'AV1', vp9: 'VP9', h264: 'H.264' }

async function sha256Of(file: string): Promise<string> {
  const hash = createHash('sha256')
  for await (const part of createReadStream(file)) hash.update(part as Buffer)
  return hash.digest('hex')
}
