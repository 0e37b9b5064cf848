import { copyBox } from '../copy/copyBox'
import { isRightToLeft } from '../copy/isRightToLeft'
import { coverRect, regionHeightPx, type Point, type Size } from '../fit/cover'
import { focalOn, sharedFocal, type Focals } from '../fit/focal'
import { SCREENS, SCREEN_CLASSES, USUAL_PICTURE, type ScreenClass } from '../fit/screens'
import { hasClips, type AnySequence } from '../kinds'
import type { ImageSequence } from '../kinds/image/imageSequence'
import type { PictureUse, SlidesUse, Sources } from '../kinds/Kind'
import type { SoftPart } from '../kinds/Sources'
import { toned, sequenceKey } from '../kinds/Sequence'
import { digestOf } from '../kinds/slideshow/slideshowSequence'
import type { Definition } from '../particles/Definition'
import { particleData, spritesOf } from '../particles/prepare'
import type { PartBlur } from '../picture/blurI420'
import type { ShareRect } from '../picture/pictureShape'
import { FAMILIES, type Family } from '../weight/families'
import type { WeightGoal } from '../weight/passes'
import { screenCrop } from '../weight/proposeRenditions'
import { renditionSize } from '../weight/renditionSize'
import { ownLimit, type SharedBudget } from '../weight/shareBytes'
import type { BackdropDocument } from './BackdropDocument'
import {
  baseParts,
  liveParticlesOf,
  picturesOf,
  rendersClips,
  fileTone,
  sequenceOf,
  slidesOf,
} from './delivered'

/** A clip to be made: everything that decides its bytes. */
export interface ClipRecipe {
  readonly kind: 'proof' | 'clip'
  readonly sequence: AnySequence
  /** What is blurred behind the copy; null where nothing is. */
  readonly copyBlur: PartBlur | null
  readonly family: Family
  readonly width: number
  readonly height: number
  /** How strongly grain is taken out, 0 to 1. */
  readonly noiseReduction: number
  /** What it is made for; null for a proof, which is only quick. */
  readonly goal: WeightGoal | null
  /** The encoder program that makes it, with its version; null for the browser's. */
  readonly encoder: string | null
}

/**
 * Short encodes that measure how a clip's bytes and quality depend on the setting; described by
 * everything in the clip's recipe except its goal.
 */
export interface ProbeRecipe extends Omit<ClipRecipe, 'kind' | 'goal'> {
  readonly kind: 'probe'
}

/** The picture that a poster shows. */
export type PosterPicture =
  | { readonly kind: 'first' }
  | { readonly kind: 'frame'; readonly ticks: number; readonly timescale: number }
  | {
      readonly kind: 'source'
      readonly sha256: string
      readonly mime: string
      readonly bytes: number
    }

/** Formats of delivered pictures, best first. */
export const PICTURE_FORMATS = ['avif', 'webp', 'jpeg', 'svg'] as const
export type PictureFormat = (typeof PICTURE_FORMATS)[number]

/** One of several pictures that share bytes, as it is made. */
export interface SharedPicture extends Size {
  readonly sequence: ImageSequence
  readonly copyBlur: PartBlur | null
}

/**
 * Pictures that share bytes so that the worst of them looks as good as possible: which of them one
 * gets follows from all of them together (core/weight/shareBytes.ts).
 */
export interface SharedPictures {
  readonly pictures: readonly SharedPicture[]
  readonly budgets: readonly SharedBudget[]
  /** Which of them the recipe is for. */
  readonly index: number
}

/** A poster to render. */
export interface PosterRecipe {
  readonly kind: 'poster'
  /** Its first frame is the poster's picture itself, or what the poster is compared with. */
  readonly sequence: AnySequence
  readonly copyBlur: PartBlur | null
  readonly picture: PosterPicture
  /** SVG is the source's own drawing, cleaned. */
  readonly format: PictureFormat
  readonly width: number
  readonly height: number
  /** Bytes it may take. */
  readonly maxBytes: number
  /** The pictures that it shares bytes with; null where it has its own. */
  readonly shared: SharedPictures | null
  /** The encoder that makes it, with its version; null for the browser's. */
  readonly encoder: string | null
}

/** What the search for loops compares: a small description of each moment of a clip. */
export interface TraceRecipe {
  readonly kind: 'trace'
  readonly sourceSha256: string
}

export type Recipe = ClipRecipe | PosterRecipe

/**
 * Raise when the same recipe would give other bytes: files of its kind that were rendered before
 * are then out of date.
 */
const PIPELINES = { proof: 4, clip: 9, poster: 4, still: 5, trace: 3, probe: 5 } as const
/** Posters of what stands still are made to another measure than those of clips. */
const pipelineOf = ({ kind, sequence }: Recipe | ProbeRecipe): number =>
  PIPELINES[kind === 'poster' && sequence.kind === 'image' ? 'still' : kind]
const PROOF_WIDTH = 640

const short = (value: number): string => String(Math.round(value * 1e5) / 1e5)

function blurKey(copyBlur: PartBlur | null): string {
  return copyBlur
    ? `:blur${short(copyBlur.strength)}@${[copyBlur.box.x, copyBlur.box.y, copyBlur.box.width, copyBlur.box.height].map(short).join(',')}`
    : ''
}

/**
 * The key under which a result is kept: it reads as what it is, and is equal exactly when the
 * recipe is.
 */
export function recipeKey(recipe: Recipe | TraceRecipe | ProbeRecipe): string {
  if (recipe.kind === 'trace') return `trace.${PIPELINES.trace}:${recipe.sourceSha256}`
  const { keys } = recipe.sequence
  const encoder = recipe.encoder === null ? '' : `:${recipe.encoder.replaceAll(' ', '-')}`
  const common = `${recipe.kind}.${pipelineOf(recipe)}:${keys.inputs}:${recipe.width}x${recipe.height}${keys.picture}${blurKey(recipe.copyBlur)}${encoder}`
  if (recipe.kind === 'poster') {
    const { picture } = recipe
    const shown =
      picture.kind === 'first'
        ? 'first'
        : picture.kind === 'frame'
          ? `${picture.ticks}@${picture.timescale}`
          : picture.sha256
    const limit = recipe.shared ? sharedKey(recipe.shared) : String(recipe.maxBytes)
    return `${common}:${recipe.format}:${keys.first}:${shown}:${limit}`
  }
  return `${common}:${recipe.family}:${keys.frames}${recipe.noiseReduction > 0 ? `:denoise${short(recipe.noiseReduction)}` : ''}${recipe.kind === 'probe' ? '' : `:${goalKey(recipe.goal)}`}`
}

function sharedKey({ pictures, budgets, index }: SharedPictures): string {
  const each = pictures.map(
    ({ sequence, copyBlur, width, height }) =>
      `${sequenceKey(sequence)}:${width}x${height}${blurKey(copyBlur)}`,
  )
  return `share${index + 1}of${pictures.length}-${digestOf(JSON.stringify([each, budgets]))}`
}

function goalKey(goal: WeightGoal | null): string {
  if (!goal) return 'quick'
  return goal.kind === 'budget' ? String(goal.bytes) : `ssim${short(goal.ssim)}`
}

/** The probe that a clip's rate control uses. */
export function probeOf({ goal: _, ...recipe }: ClipRecipe): ProbeRecipe {
  return { ...recipe, kind: 'probe' }
}

/** The size of the picture that is delivered, before it is made smaller for each screen. */
export function pictureSize(
  document: Pick<BackdropDocument, 'base' | 'fit' | 'particles' | 'tone'>,
  known: Sources,
  screenClass: ScreenClass = 'laptop',
): Size {
  return sequenceOf(document, known, { screenClass })?.size ?? USUAL_PICTURE
}

/**
 * The small quick clip that the stage plays while decisions are made; null where none is rendered
 * of the base, or there are no frames. Particles are drawn over it: they change with every key.
 */
export function proofRecipe(document: BackdropDocument, known: Sources): ClipRecipe | null {
  if (!hasClips(document.base)) return null
  const sequence = sequenceOf({ ...document, particles: null }, known)
  return (
    sequence && {
      kind: 'proof',
      sequence,
      copyBlur: null,
      family: 'h264',
      noiseReduction: 0,
      goal: null,
      encoder: null,
      ...renditionSize(sequence.size, PROOF_WIDTH),
    }
  )
}

/** The key of a document's proof; empty, as no key is, where it has none. */
export function proofKey(document: BackdropDocument, known: Sources): string {
  const proof = proofRecipe(document, known)
  return proof ? recipeKey(proof) : ''
}

/** Height of a region that is as high as the window. */
const WHOLE_WINDOW = { unit: 'svh', value: 100 } as const

/** How the picture is cropped, sized and blurred for a class of screens. */
interface Rendition extends Size {
  readonly part: ShareRect | null
  readonly copyBlur: PartBlur | null
}

/** How the picture is cropped, sized and blurred for a class of screens. */
export function renditionOf(
  document: BackdropDocument,
  known: Sources,
  screenClass: ScreenClass,
): Rendition {
  const { fills, width } = picturesOf(document) ?? { fills: null, width: null }
  return pictureRendition(document, screenClass, {
    picture: pictureSize(document, known, screenClass),
    sizeOf: (part) => sequenceOf(document, known, { part, screenClass })?.size ?? null,
    focals: document.fit,
    fills,
    width,
  })
}

/** A picture whose place on screens is asked for. */
interface PlacedPicture {
  readonly picture: Size
  /** Its size when only a part of it is left. */
  readonly sizeOf: (part: ShareRect) => Size | null
  readonly focals: Focals
  readonly fills: PictureUse['fills']
  readonly width: number | null
}

function pictureRendition(
  document: BackdropDocument,
  screenClass: ScreenClass,
  { picture, sizeOf, focals, fills, width }: PlacedPicture,
): Rendition {
  const row = document.weight.renditions[screenClass]
  const part =
    row.crop === 'screen' && fills
      ? screenCrop(
          picture,
          fills === 'window' ? WHOLE_WINDOW : document.fit.height,
          document.weight.breakpoints,
          sharedFocal(focals, classesServedBy(document, screenClass)),
          classesServedBy(document, screenClass),
        )
      : null
  const whole = (part && sizeOf(part)) ?? picture
  const copyBlur =
    row.copyBlur > 0
      ? {
          box: copyOnPicture(document, whole, focalOn(focals, screenClass), screenClass),
          strength: row.copyBlur,
        }
      : null
  return { part, copyBlur, ...renditionSize(whole, width ?? row.width) }
}

/**
 * The classes whose windows show the files of a class: its own, and those of neighbours that have
 * no files of their own.
 */
export function classesServedBy(
  { weight }: Pick<BackdropDocument, 'weight'>,
  screenClass: ScreenClass,
): ScreenClass[] {
  const on = SCREEN_CLASSES.filter((each) => weight.renditions[each].enabled)
  const served = SCREEN_CLASSES.filter((each) => classServing(each, on) === screenClass)
  return served.length > 0 ? served : [screenClass]
}

/**
 * Steps of the copy's position in recipes: a slightly longer text should not make all files out of
 * date.
 */
const PLACE_STEPS = 20

/**
 * Where the copy is on the picture of a class in its usual window, in shares of the picture, with a
 * small margin.
 */
function copyOnPicture(
  { copy, fit, handoff: { lang } }: Pick<BackdropDocument, 'copy' | 'fit' | 'handoff'>,
  picture: Size,
  focal: Point,
  screenClass: ScreenClass,
): ShareRect {
  const window = SCREENS[screenClass]
  const box = copyBox(copy, fit.height, window, copy.places[screenClass])
  const left = isRightToLeft(lang) ? 1 - box.x - box.width : box.x
  const { shown } = coverRect(
    picture,
    { width: window.width, height: regionHeightPx(fit.height, window.height) },
    focal,
  )
  const down = (value: number): number =>
    Math.max(0, Math.floor(value * PLACE_STEPS + 1e-9) / PLACE_STEPS)
  const up = (value: number): number =>
    Math.min(1, Math.ceil(value * PLACE_STEPS - 1e-9) / PLACE_STEPS)
  const [x, y] = [
    down((shown.x + left * shown.width) / picture.width),
    down((shown.y + box.y * shown.height) / picture.height),
  ]
  return {
    x,
    y,
    width: up((shown.x + (left + box.width) * shown.width) / picture.width) - x,
    height: up((shown.y + (box.y + box.height) * shown.height) / picture.height) - y,
  }
}

/**
 * The classes with their own clip. Phones that show the poster need none, disabled rows use their
 * neighbour's, and equal files are rendered once.
 */
export function deliveredClasses(document: BackdropDocument, known: Sources): ScreenClass[] {
  if (!rendersClips(document)) return []
  const { renditions: rows, goal } = document.weight
  const classes = SCREEN_CLASSES.filter(
    (each) => rows[each].enabled && (each !== 'phone' || document.behaviour.phone === 'play'),
  )
  // A file of the same picture for another budget, or in other formats, is another file.
  return ownFiles(classes, (each) => [
    renditionOf(document, known, each),
    rows[each].frameRate,
    rows[each].formats,
    goal === 'budget' && clipBudget(document, each),
  ])
}

/**
 * The classes with their own poster or image: also phones that get no clip. One picture of one
 * width serves all as that of the widest.
 */
export function posterClasses(document: BackdropDocument, known: Sources): ScreenClass[] {
  const use = picturesOf(document)
  if (!use) return []
  if (use.width !== null || vectorOf(document, known)) return ['wide']
  const classes = SCREEN_CLASSES.filter(
    (each) =>
      document.weight.renditions[each].enabled ||
      (each === 'phone' && document.behaviour.phone === 'poster'),
  )
  const slides = slidesOf(document, known)
  return ownFiles(classes, (each) =>
    slides
      ? sharedPictures(document, slides, each)
      : [renditionOf(document, known, each), posterMaxBytes(document, each)],
  )
}

function slideRendition(
  document: BackdropDocument,
  { still, focals, fills, width }: SlidesUse['pictures'][number],
  screenClass: ScreenClass,
): Rendition | null {
  const whole = still(null)
  return (
    whole &&
    pictureRendition(document, screenClass, {
      picture: whole.size,
      sizeOf: (cut) => still(cut)?.size ?? null,
      focals: focals ?? document.fit,
      fills: fills ? 'region' : null,
      width,
    })
  )
}

/** What is blurred in the file of each picture of a base for a class of screens. */
export function softParts(
  document: BackdropDocument,
  known: Sources,
  screenClass: ScreenClass,
): (SoftPart | null)[] {
  if (document.weight.renditions[screenClass].copyBlur === 0) return []
  const slides = slidesOf(document, known)
  const placed = slides
    ? slides.pictures.map((picture) => slideRendition(document, picture, screenClass))
    : [renditionOf(document, known, screenClass)]
  return placed.map((each) => (each?.copyBlur ? { part: each.part, blur: each.copyBlur } : null))
}

/**
 * All slides as they are made for a class, and what they may take: the first one as a poster, those
 * of a first visit, and all of them. Null where a source is not known.
 */
function sharedPictures(
  document: BackdropDocument,
  { pictures, visits, cycleBytes }: SlidesUse,
  screenClass: ScreenClass,
): Omit<SharedPictures, 'index'> | null {
  const shared: SharedPicture[] = []
  for (const picture of pictures) {
    const placed = slideRendition(document, picture, screenClass)
    if (!placed) return null
    const { part, copyBlur, ...size } = placed
    const still = toned(picture.still(part)!, fileTone(document))
    shared.push({ sequence: { ...still, vectorBytes: null }, copyBlur, ...size })
  }
  const page = pageBytes(document)
  const first = document.weight.renditions[screenClass].budgetBytes - page
  const budgets = [
    { pictures: [0], bytes: posterMaxBytes(document, screenClass) },
    ...visits.map((each) => ({ pictures: each, bytes: first })),
    { pictures: pictures.map((_, index) => index), bytes: cycleBytes[screenClass] - page },
  ]
  return { pictures: shared, budgets }
}

/**
 * The one frame of a base whose drawing is delivered as it is, for all screens: where it is light
 * enough for each of them, and nothing has to be done to its pixels. Null for any other.
 */
function vectorOf(document: BackdropDocument, known: Sources): AnySequence | null {
  const sequence = sequenceOf(document, known)
  const bytes = sequence?.vectorBytes ?? null
  const fits =
    bytes !== null &&
    SCREEN_CLASSES.every(
      (each) =>
        bytes <= posterMaxBytes(document, each) && document.weight.renditions[each].copyBlur === 0,
    )
  return fits ? sequence : null
}

/** Of some classes those whose files differ from the next wider one's. */
function ownFiles(
  classes: readonly ScreenClass[],
  fileOf: (each: ScreenClass) => unknown,
): ScreenClass[] {
  const files = classes.map((each) => JSON.stringify(fileOf(each)))
  return classes.filter((_, index) => files[index + 1] !== files[index])
}

/**
 * What particles add: their rules, the script that runs a region where there is none yet, and its
 * parts. Of their data, which stand in the markup, about so much is left when it is compressed.
 */
const PARTICLE_PARTS = {
  style: 130,
  region: 1_600,
  particles: 2_300,
  links: 480,
  pointer: 330,
  markup: 170,
  kept: 0.48,
  keptPictures: 0.8,
} as const

/**
 * Maximum bytes of what a backdrop adds to a page on a first visit, compressed as a server sends
 * them: the pasted markup, both style sheets (with the placeholder), the script. A test compares it
 * with the real files.
 */
export function pageParts(
  document: Pick<BackdropDocument, 'base' | 'particles'>,
): Readonly<Record<'markup' | 'style' | 'script', number>> {
  const own = baseParts(document)
  const definition = liveParticlesOf(document)
  if (!definition) return own
  const { style, region, particles, links, pointer, markup } = PARTICLE_PARTS
  return {
    markup: own.markup + markup + dataBytes(definition),
    style: own.style + style,
    script:
      (own.script || region) +
      particles +
      (definition.links ? links : 0) +
      (definition.pointer ? pointer : 0),
  }
}

/** Of the data of particles: pictures in base64 are hardly compressible. */
function dataBytes(definition: Definition): number {
  const pictures = spritesOf(definition).reduce((sum, { length }) => sum + length, 0)
  const { kept, keptPictures } = PARTICLE_PARTS
  const rest = particleData(definition).length - pictures
  return Math.ceil(kept * rest + keptPictures * pictures)
}

/** Its bytes together. */
export function pageBytes(document: Pick<BackdropDocument, 'base' | 'particles'>): number {
  const { markup, style, script } = pageParts(document)
  return markup + style + script
}

/**
 * Maximum bytes of one poster of a class: its own limit, or less where the class's whole budget is
 * small.
 */
export function posterMaxBytes(
  document: Pick<BackdropDocument, 'base' | 'particles' | 'poster' | 'weight'>,
  screenClass: ScreenClass,
): number {
  const { poster, weight } = document
  const { budgetShare } = picturesOf(document) ?? { budgetShare: 1 }
  const left = weight.renditions[screenClass].budgetBytes - pageBytes(document)
  return Math.min(poster.maxBytes[screenClass], Math.floor(left * budgetShare))
}

/** What a class's budget leaves for its clip after its heaviest poster, page, style and script. */
export function clipBudget(document: BackdropDocument, screenClass: ScreenClass): number {
  return (
    document.weight.renditions[screenClass].budgetBytes -
    posterMaxBytes(document, screenClass) -
    pageBytes(document)
  )
}

/** The budget of a class that leaves this many bytes to its clip: the inverse of `clipBudget`. */
export function budgetLeaving(
  document: Pick<BackdropDocument, 'base' | 'particles' | 'poster'>,
  screenClass: ScreenClass,
  clipBytes: number,
): number {
  const ceiling = document.poster.maxBytes[screenClass]
  const share = picturesOf(document)?.budgetShare ?? 1
  const tight = ceiling > (clipBytes + ceiling) * share
  return Math.ceil(tight ? clipBytes / (1 - share) : clipBytes + ceiling) + pageBytes(document)
}

/**
 * The formats of each delivered class, wide screens first. Whichever rows are disabled or merged,
 * the last class has H.264 if no other has, so that every browser can play something.
 */
function deliveredFormats(
  document: BackdropDocument,
  known: Sources,
): { screenClass: ScreenClass; families: Family[] }[] {
  const delivered = [...deliveredClasses(document, known)].reverse().map((screenClass) => ({
    screenClass,
    families: FAMILIES.filter((family) => document.weight.renditions[screenClass].formats[family]),
  }))
  const last = delivered[delivered.length - 1]
  if (last && !delivered.some(({ families }) => families.includes('h264')))
    last.families.push('h264')
  return delivered
}

/**
 * The final clips, wide screens first and the finest format for its bytes first, as the markup
 * lists them.
 */
export function clipRecipes(
  document: BackdropDocument,
  known: Sources,
): { screenClass: ScreenClass; recipe: ClipRecipe }[] {
  const { renditions: rows, goal, targetSsim: ssim, noiseReduction, encoders } = document.weight
  return deliveredFormats(document, known).flatMap(({ screenClass, families }) => {
    const { part, ...rendition } = renditionOf(document, known, screenClass)
    const sequence = sequenceOf(document, known, {
      part,
      frameRate: rows[screenClass].frameRate,
      screenClass,
    })
    if (!sequence) return []
    return families.map((family) => ({
      screenClass,
      recipe: {
        kind: 'clip' as const,
        sequence,
        family,
        noiseReduction,
        encoder: encoders[family],
        goal:
          goal === 'quality'
            ? { kind: 'quality' as const, ssim }
            : { kind: 'budget' as const, bytes: clipBudget(document, screenClass) },
        ...rendition,
      },
    }))
  })
}

/**
 * The container a clip is delivered in: MP4 wherever it loops, since only there the index can play
 * it over without a pause; WebM for VP9 that plays once.
 */
export function containerOf({
  family,
  sequence,
}: {
  readonly family: Family
  readonly sequence: Pick<AnySequence, 'loops'>
}): 'mp4' | 'webm' {
  return family === 'vp9' && !sequence.loops ? 'webm' : 'mp4'
}

/** A poster with the screens, the density and the slide that it is for. */
export interface PlacedPoster {
  readonly screenClass: ScreenClass
  readonly density: number
  /** Which of several pictures it is of, counted from 0. */
  readonly slide?: number
  readonly recipe: PosterRecipe
}

/** A picture in another density must be so many times as wide, else its file is not worth it. */
const MIN_DENSITY_GAIN = 1.25

/**
 * The posters in the widths of the clips, or the base's own image in its densities, wide screens
 * first. The order of formats in the markup depends on the sizes of the rendered files.
 */
export function posterRecipes(document: BackdropDocument, known: Sources): PlacedPoster[] {
  const use = picturesOf(document)
  if (!use) return []
  const slides = slidesOf(document, known)
  if (slides) return slideRecipes(document, known, slides)
  const drawing = vectorOf(document, known)
  if (drawing) return [{ screenClass: 'wide', density: 1, recipe: vectorRecipe(document, drawing) }]
  const formats = pictureFormats(document)
  return [...posterClasses(document, known)].reverse().flatMap((screenClass) => {
    const { part, copyBlur, ...size } = renditionOf(document, known, screenClass)
    const sequence = sequenceOf(document, known, { part, screenClass })
    if (!sequence) return []
    const sizes = use.densities
      .map((density) => ({ density, ...renditionSize(sequence.size, size.width * density) }))
      .filter(({ density, width }) => density === 1 || width >= size.width * MIN_DENSITY_GAIN)
    return sizes.flatMap(({ density, width, height }) =>
      formats.map((format) => ({
        screenClass,
        density,
        recipe: {
          kind: 'poster' as const,
          sequence,
          picture: use.chosen ? document.poster.picture : ({ kind: 'first' } as const),
          format,
          maxBytes: posterMaxBytes(document, screenClass),
          shared: null,
          encoder: document.weight.encoders.pictures,
          copyBlur,
          width,
          height,
        },
      })),
    )
  })
}

const pictureFormats = ({ poster }: Pick<BackdropDocument, 'poster'>) =>
  (['avif', 'webp', 'jpeg'] as const).filter((format) => format !== 'avif' || poster.avif)

/** The files of slides, wide screens first, slide by slide. */
function slideRecipes(
  document: BackdropDocument,
  known: Sources,
  slides: SlidesUse,
): PlacedPoster[] {
  return [...posterClasses(document, known)].reverse().flatMap((screenClass) => {
    const shared = sharedPictures(document, slides, screenClass)
    if (!shared) return []
    return shared.pictures.flatMap(({ sequence, copyBlur, width, height }, index) =>
      pictureFormats(document).map((format) => ({
        screenClass,
        density: 1,
        slide: index,
        recipe: {
          kind: 'poster' as const,
          sequence,
          picture: { kind: 'first' } as const,
          format,
          maxBytes: ownLimit(shared.budgets, index),
          shared: { ...shared, index },
          encoder: document.weight.encoders.pictures,
          copyBlur,
          width,
          height,
        },
      })),
    )
  })
}

function vectorRecipe(document: BackdropDocument, sequence: AnySequence): PosterRecipe {
  return {
    kind: 'poster',
    sequence,
    picture: { kind: 'first' },
    format: 'svg',
    maxBytes: Math.min(...SCREEN_CLASSES.map((each) => posterMaxBytes(document, each))),
    shared: null,
    copyBlur: null,
    encoder: null,
    ...sequence.size,
  }
}

/**
 * The class whose clip a window of a class plays: its own, the next wider that is delivered, or
 * else the widest there is. Null where nothing is.
 */
export function classServing(
  screenClass: ScreenClass,
  delivered: readonly ScreenClass[],
): ScreenClass | null {
  return (
    SCREEN_CLASSES.slice(SCREEN_CLASSES.indexOf(screenClass)).find((each) =>
      delivered.includes(each),
    ) ??
    SCREEN_CLASSES.findLast((each) => delivered.includes(each)) ??
    null
  )
}
