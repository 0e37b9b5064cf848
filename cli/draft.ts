import { createHash } from 'node:crypto'
import { createReadStream } from 'node:fs'
import { basename } from 'node:path'
import type {
  BackdropDocument,
  DocumentOf,
  RenditionSettings,
} from '../core/backdrop/BackdropDocument'
import { knownSource, pictureOf } from '../core/api/knownSource'
import { createBackdrop } from '../core/backdrop/createBackdrop'
import type { ScreenClass } from '../core/fit/screens'
import { nearestRate, toNumber } from '../core/Fraction'
import type { KindName } from '../core/kinds'
import { createFootage } from '../core/kinds/footage/createFootage'
import { footageSequence } from '../core/kinds/footage/footageSequence'
import { createImage } from '../core/kinds/image/Image'
import type { KnownSource, Sources } from '../core/kinds/Kind'
import { createSlideshow, SLIDE_COUNT } from '../core/kinds/slideshow/Slideshow'
import { parsePaint } from '../core/kinds/paint/parsePaint'
import { chooseOverlap } from '../core/loop/chooseOverlap'
import { snapCut } from '../core/loop/framePlan'
import { describeContainerError } from '../core/media/describeContainerError'
import type { MediaFile } from '../core/media/MediaFile'
import { presentationOf, type Presentation } from '../core/media/presentation'
import { factsOf, type ImageFacts, type MediaFacts } from '../core/media/probe'
import { readFile } from '../core/media/readMedia'
import { refusalOf } from '../core/media/refusal'
import { openFileSource } from '../headless/fileSource'
import type { InputFiles, RenderBrowser } from '../headless/RenderBrowser'
import { MisplacedOptions, UsageError, type DeliverOptions } from './DeliverOptions'

/** A backdrop before its files are rendered. */
export interface Draft {
  readonly document: BackdropDocument
  readonly known: Sources
  /** Of the source, or of what is decided where there is none. */
  readonly sha256: string
  readonly name: string
  /** What files are rendered from; null where none are. */
  readonly file: InputFiles | null
  /** Decides what must be measured first. */
  settle(browser: RenderBrowser, say: (line: string) => void): Promise<BackdropDocument>
}

/**
 * A draft of what was named: a clip, an image, several images, or a paint. Throws UsageError for
 * options that do
 * not fit it, Error where the file cannot be used.
 */
export async function draft(files: readonly string[], options: DeliverOptions): Promise<Draft> {
  const [file] = files
  if (file === undefined && options.paint === undefined)
    throw new UsageError('Name a clip, an image or several images, or write a paint with --paint.')
  if (file !== undefined && options.paint !== undefined)
    throw new UsageError('--paint needs no file: name one or the other.')
  if (files.length > 1) return draftSlideshow(files, options)
  refuseForSlideshows(options)
  if (file === undefined) return draftPaint(options.paint!, options)
  const read = await readAny(file)
  return read.kind === 'clip'
    ? draftFootage(file, read.file, options)
    : draftImage(file, { kind: 'image', ...read.image }, options)
}

/** What a file is. Throws UsageError where it cannot be opened, Error where it is no such thing. */
async function readAny(file: string) {
  const source = await openFileSource(file).catch(() => {
    throw new UsageError(`${file}: the file does not exist or cannot be read.`)
  })
  const read = await readFile(source).finally(() => source.close())
  if (!read.ok) throw new Error(`${file}: ${describeContainerError(read.error)}`)
  return read.value
}

/** What the clip is called in the document, which no shelf knows. */
const SOURCE_ID = 'file'

/** Finds the best loop if asked for, and measures the length of a blended seam if none is given. */
async function settleLoop(
  browser: RenderBrowser,
  file: string,
  document: DocumentOf<'footage'>,
  known: Sources,
  presentation: Presentation,
  options: DeliverOptions,
  say: (line: string) => void,
): Promise<DocumentOf<'footage'>> {
  let settled = document
  if (options.findLoop) {
    const { cut } = document.base.timing
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
      base: {
        ...settled.base,
        timing: {
          ...settled.base.timing,
          cut: found.timescale === cut.timescale ? found : snapCut(found, presentation, 'both'),
        },
      },
    }
  }
  if (options.seam === 'blended' && options.overlap === undefined && !options.once) {
    const motion = await browser.cutMotion(file, footageSequence(settled.base, known)!)
    const overlapSeconds = chooseOverlap(motion, toNumber(settled.base.timing.frameRate))
    say(
      `the straight seam has ${motion.straightRatio?.toFixed(2) ?? 'no motion'}: blended over ${overlapSeconds} s`,
    )
    settled = {
      ...settled,
      base: {
        ...settled.base,
        timing: { ...settled.base.timing, seam: { kind: 'blended', overlapSeconds } },
      },
    }
  }
  return settled
}

/** A draft of a clip. */
async function draftFootage(
  file: string,
  read: MediaFile,
  options: DeliverOptions,
): Promise<Draft> {
  const facts = factsOf(read)
  const refusal = refusalOf(facts.video, false)
  if (refusal) throw new Error(`${file}: ${describeContainerError(refusal)}`)
  const presentation = presentationOf(read.video)
  const document = footageDocument(file, facts, presentation, options)
  const sha256 = await sha256Of(file)
  const known: Sources = new Map([[SOURCE_ID, knownSource({ sha256, facts })]])
  return {
    document,
    known,
    sha256,
    name: nameOf(file),
    file,
    settle: (browser, say) =>
      settleLoop(browser, file, document, known, presentation, options, say),
  }
}

/** The decisions about a clip. */
function footageDocument(
  file: string,
  facts: MediaFacts,
  presentation: Presentation,
  options: DeliverOptions,
): DocumentOf<'footage'> {
  const made = createBackdrop({
    base: createFootage({ sourceId: SOURCE_ID, facts }),
    picture: pictureOf(facts),
    ...PLACE,
    brand: basename(file),
  })
  const { timescale, durationTicks } = facts.video
  const seconds = durationTicks / timescale
  const start = options.start ?? 0
  const end =
    options.end ??
    (options.start === undefined
      ? made.base.timing.cut.end / timescale
      : Math.min(seconds, start + 10))
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
  const cut = snapCut(
    { timescale, start: Math.round(start * timescale), end: Math.round(end * timescale) },
    presentation,
    'end',
  )
  return shared(
    {
      ...made,
      base: {
        ...made.base,
        timing: {
          ...made.base.timing,
          cut,
          speed: options.speed,
          ...(options.fps === undefined ? {} : { frameRate: nearestRate(options.fps) }),
          repeat: options.once ? 'once' : 'loop',
          seam: {
            kind: options.seam,
            overlapSeconds: options.overlap ?? made.base.timing.seam.overlapSeconds,
          },
        },
        picture: { ...made.base.picture, ...(options.matte ? { matte: options.matte } : {}) },
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
    },
    options,
  )
}

/** A document with what is decided of every base. */
function shared<K extends KindName>(
  document: DocumentOf<K>,
  options: DeliverOptions,
): DocumentOf<K> {
  const { copy, fit, weight, handoff } = document
  return {
    ...document,
    copy: { ...copy, ...(options.heading === undefined ? {} : { heading: options.heading }) },
    fit: { ...fit, place: options.belowFold ? 'below' : 'top' },
    weight: weightOf(weight, options),
    handoff: handoffOf(handoff, options),
  }
}

/**
 * Refuses options that are about clips; of a base that is rendered into one with its particles
 * those that are about its own frames.
 */
function refuseForClips(options: DeliverOptions, what: string): void {
  const isClip = isRenderedWithParticles(options)
  const given = Object.entries({
    '--start': options.start !== undefined,
    '--end': options.end !== undefined,
    '--speed': options.speed !== 1,
    '--fps': options.fps !== undefined,
    '--formats': !isClip && options.formats !== undefined,
    '--quality': !isClip && options.quality !== undefined,
    '--noise-reduction': !isClip && options.noiseReduction > 0,
    '--once': options.once,
    '--seam': options.seam !== 'straight',
    '--overlap': options.overlap !== undefined,
    '--find-loop': options.findLoop !== undefined,
    '--poster': options.poster !== 'first',
    '--plain-index': !isClip && options.plainIndex,
  }).flatMap(([name, isGiven]) => (isGiven ? [name] : []))
  if (given.length > 0)
    throw new MisplacedOptions(given, `only for clips. Leave it out for ${what}.`)
}

/** A draft of an image, which fills the region. */
async function draftImage(
  file: string,
  facts: ImageFacts,
  options: DeliverOptions,
): Promise<Draft> {
  refuseForClips(options, 'an image')
  const picture = pictureOf(facts)
  const base = createImage(SOURCE_ID)
  const made = createBackdrop({
    base: options.matte ? { ...base, background: options.matte } : base,
    picture,
    ...PLACE,
    brand: basename(file),
  })
  const document = shared<'image'>(made, options)
  const sha256 = await sha256Of(file)
  return {
    document,
    known: new Map([[SOURCE_ID, knownSource({ sha256, facts })]]),
    sha256,
    name: nameOf(file),
    file,
    settle: () => Promise.resolve(document),
  }
}

/** Refuses options that are about slideshows. */
function refuseForSlideshows(options: DeliverOptions): void {
  const given = Object.entries({
    '--hold': options.hold !== undefined,
    '--transition': options.transition !== undefined,
    '--style': options.style !== undefined,
    '--shuffle': options.shuffle,
    '--controls': options.controls,
    '--render': options.render && !options.particles,
    '--cycle-budget': options.cycleBudget !== undefined,
  }).flatMap(([name, isGiven]) => (isGiven ? [name] : []))
  if (given.length > 0)
    throw new MisplacedOptions(
      given,
      `only for slideshows${options.render ? ', or with --particles' : ''}. Name two images at least.`,
    )
}

/** A draft of several images that follow one another. */
async function draftSlideshow(files: readonly string[], options: DeliverOptions): Promise<Draft> {
  if (files.length > SLIDE_COUNT.max)
    throw new UsageError(`A slideshow has at most ${SLIDE_COUNT.max} images, not ${files.length}.`)
  if (!options.render) refuseForClips(options, 'a slideshow, or add --render')
  if (options.render && options.shuffle)
    throw new UsageError(
      '--shuffle: a clip has one order. Name the images in the order that they shall have.',
    )
  const known = new Map<string, KnownSource>()
  const digests: Record<string, string> = {}
  const order: string[] = []
  for (const file of files) {
    const read = await readAny(file)
    if (read.kind === 'clip')
      throw new UsageError(`${file}: a slideshow is made of images, and this is a clip.`)
    const sha256 = await sha256Of(file)
    digests[sha256] = file
    order.push(sha256)
    known.set(sha256, knownSource({ sha256, facts: { kind: 'image', ...read.image } }))
  }
  const base = createSlideshow(order)
  const { hold, transition, style, shuffle, controls, render, cycleBudget = {} } = options
  const made = createBackdrop({
    base: {
      ...base,
      slides: base.slides.map((slide) => ({
        ...slide,
        background: options.matte ?? slide.background,
      })),
      ...(hold === undefined ? {} : { holdSeconds: hold }),
      transition: {
        ...base.transition,
        ...(transition === undefined ? {} : { seconds: transition }),
        ...(style === undefined ? {} : { style }),
      },
      order: shuffle ? 'shuffled' : 'given',
      controls: { ...base.controls, arrows: controls, markers: controls },
      delivery: render ? 'clip' : 'live',
      cycleBytes: {
        ...base.cycleBytes,
        ...Object.fromEntries(
          Object.entries(cycleBudget).map(([each, kilobytes]) => [each, kilobytes * 1000]),
        ),
      },
    },
    picture: known.get(order[0]!)!,
    ...PLACE,
    brand: 'Slideshow',
  })
  const document = shared<'slideshow'>(made, options)
  return {
    document,
    known,
    sha256: createHash('sha256').update(order.join()).digest('hex'),
    name: nameOf(files[0]!),
    file: digests,
    settle: () => Promise.resolve(document),
  }
}

/** A draft of a paint in words. */
function draftPaint(words: string, options: DeliverOptions): Draft {
  refuseForClips(options, 'a paint')
  const parsed = parsePaint(words)
  if (!parsed.ok) throw new UsageError(`--paint: ${parsed.error}`)
  const made = createBackdrop({
    base: parsed.value,
    picture: null,
    ...PLACE,
    brand: 'Paint',
  })
  const document = shared<'paint'>(made, options)
  return {
    document,
    known: new Map(),
    sha256: createHash('sha256').update(JSON.stringify(parsed.value)).digest('hex'),
    name: 'paint',
    // A paint is drawn: a clip of it is made from no file.
    file: isRenderedWithParticles(options) ? {} : null,
    settle: () => Promise.resolve(document),
  }
}

/** Whether the base is rendered into a clip with its particles. */
const isRenderedWithParticles = ({ render, particles }: DeliverOptions): boolean =>
  render && particles !== null

/** Where a backdrop of the command line is: the first screen of a page. */
const PLACE = { scope: 'region', height: { unit: 'svh', value: 100 } } as const

const nameOf = (file: string): string => basename(file).replace(/\.[^.]*$/, '')

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
  { width, budget = {}, formats, quality, noiseReduction, copyBlur }: DeliverOptions,
): BackdropDocument['weight'] {
  const row = (screenClass: ScreenClass): RenditionSettings => {
    const first = weight.renditions[screenClass]
    const kilobytes = budget[screenClass]
    return {
      ...first,
      copyBlur,
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
  const goal: Pick<BackdropDocument['weight'], 'goal' | 'targetSsim'> =
    quality === undefined
      ? { goal: weight.goal, targetSsim: weight.targetSsim }
      : { goal: 'quality', targetSsim: quality }
  return {
    ...weight,
    ...goal,
    renditions: { phone: row('phone'), laptop: row('laptop'), wide: row('wide') },
    noiseReduction,
  }
}

/** The decisions about markup and addresses with what was asked for. */
function handoffOf(
  handoff: BackdropDocument['handoff'],
  options: DeliverOptions,
): BackdropDocument['handoff'] {
  const { baseUrl, lang, headingLevel, pauseLabel, playLabel, plainIndex } = options
  return {
    ...handoff,
    plainIndex,
    ...(baseUrl === undefined ? {} : { baseUrl }),
    ...(lang === undefined ? {} : { lang }),
    ...(headingLevel === undefined ? {} : { headingLevel }),
    ...(pauseLabel === undefined ? {} : { pauseLabel }),
    ...(playLabel === undefined ? {} : { playLabel }),
  }
}

async function sha256Of(file: string): Promise<string> {
  const hash = createHash('sha256')
  for await (const part of createReadStream(file)) hash.update(part as Buffer)
  return hash.digest('hex')
}

/** A draft with particles over it. */
export function withParticles(drafted: Draft, { particles: asked, render }: DeliverOptions): Draft {
  const particles = asked && { ...asked, form: render ? ('rendered' as const) : asked.form }
  return {
    ...drafted,
    document: { ...drafted.document, particles },
    settle: async (browser, say) => ({ ...(await drafted.settle(browser, say)), particles }),
  }
}
