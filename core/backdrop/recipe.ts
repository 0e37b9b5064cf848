import { copyBox } from '../fit/copyBox'
import { coverRect, regionHeightPx, type Size } from '../fit/cover'
import { SCREENS, SCREEN_CLASSES, type ScreenClass } from '../fit/screens'
import type { Fraction } from '../loop/Fraction'
import { firstFrameSeconds, type LoopSettings, overlapFrames } from '../loop/framePlan'
import {
  cropShape,
  type PictureShape,
  isPlain,
  shapedSize,
  type ShareRect,
} from '../picture/pictureShape'
import type { Soften } from '../picture/softenI420'
import { FAMILIES, type Family } from '../weight/families'
import { screenCrop } from '../weight/proposeRenditions'
import type { WeightGoal } from '../weight/passes'
import { renditionSize } from '../weight/renditionSize'
import type { BackdropDocument } from './BackdropDocument'

/** A clip to be made: everything that decides its bytes. */
export interface ClipRecipe extends LoopSettings {
  readonly kind: 'proof' | 'clip'
  readonly sourceSha256: string
  readonly shape: PictureShape
  /** What is blurred behind the copy; null where nothing is. */
  readonly soften: Soften | null
  /** Whether its index plays it over and over (where the container can). */
  readonly loops: boolean
  readonly family: Family
  readonly width: number
  readonly height: number
  /** How strongly grain is taken out, 0 to 1. */
  readonly noiseReduction: number
  /** What it is made for; null for a proof, which is only quick. */
  readonly goal: WeightGoal | null
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

/** A poster to render. */
export interface PosterRecipe {
  readonly kind: 'poster'
  readonly sourceSha256: string
  readonly shape: PictureShape
  readonly soften: Soften | null
  /**
   * Describes the first output frame: the poster's picture itself, or what the poster is compared
   * with.
   */
  readonly loop: LoopSettings
  readonly picture: PosterPicture
  readonly format: 'avif' | 'webp' | 'jpeg'
  readonly width: number
  readonly height: number
  /** Bytes it may take. */
  readonly maxBytes: number
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
const PIPELINES = { proof: 3, clip: 6, poster: 3, trace: 2, probe: 3 } as const
const PROOF_WIDTH = 640

const rate = ({ num, den }: Fraction): string => `${num}/${den}`
const ratesKey = ({ frameRate, sourceRate }: LoopSettings): string =>
  `${rate(frameRate)}${sourceRate ? `of${rate(sourceRate)}` : ''}`
const short = (value: number): string => String(Math.round(value * 1e5) / 1e5)

function shapeKey(shape: PictureShape): string {
  if (isPlain(shape)) return ''
  const { crop } = shape
  return `:${crop ? [crop.x, crop.y, crop.width, crop.height].map(short).join(',') : 'whole'}${shape.quarterTurns > 0 ? `,turn${shape.quarterTurns}` : ''}${shape.mirrored ? ',mirrored' : ''}`
}

function softenKey(soften: Soften | null): string {
  return soften
    ? `:soft${short(soften.strength)}@${[soften.box.x, soften.box.y, soften.box.width, soften.box.height].map(short).join(',')}`
    : ''
}

/**
 * The key under which a result is kept: it reads as what it is, and is equal exactly when the
 * recipe is.
 */
export function recipeKey(recipe: Recipe | TraceRecipe | ProbeRecipe): string {
  if (recipe.kind === 'trace') return `trace.${PIPELINES.trace}:${recipe.sourceSha256}`
  const common = `${recipe.kind}.${PIPELINES[recipe.kind]}:${recipe.sourceSha256}:${recipe.width}x${recipe.height}${shapeKey(recipe.shape)}${softenKey(recipe.soften)}`
  if (recipe.kind === 'poster') {
    const { picture, loop } = recipe
    const first = `${short(firstFrameSeconds(loop))}s${loop.blendFrames ? '~' : 'x'}${loop.speed}:${ratesKey(loop)}`
    const shown =
      picture.kind === 'first'
        ? 'first'
        : picture.kind === 'frame'
          ? `${picture.ticks}@${picture.timescale}`
          : picture.sha256
    return `${common}:${recipe.format}:${first}:${shown}:${recipe.maxBytes}`
  }
  const { cut, seam } = recipe
  const seamKey = seam.kind === 'blended' ? `blend${overlapFrames(recipe)}` : seam.kind
  return `${common}:${recipe.family}:${cut.start}-${cut.end}@${cut.timescale}:x${recipe.speed}${recipe.blendFrames ? '~' : ''}:${ratesKey(recipe)}:${seamKey}:${recipe.loops ? 'loop' : 'once'}${recipe.noiseReduction > 0 ? `:denoise${short(recipe.noiseReduction)}` : ''}${recipe.kind === 'probe' ? '' : `:${goalKey(recipe.goal)}`}`
}

function goalKey(goal: WeightGoal | null): string {
  if (!goal) return 'quick'
  return goal.kind === 'budget' ? String(goal.bytes) : `ssim${short(goal.ssim)}`
}

/** The probe that a clip's rate control uses. */
export function probeOf({ goal: _, ...recipe }: ClipRecipe): ProbeRecipe {
  return { ...recipe, kind: 'probe' }
}

/** What a document needs to know of its source: its displayed size before the crop. */
export interface RecipeSource extends Size {
  readonly sha256: string
}

/** What decides the frames of a document's loop; a clip that plays once has no seam. */
export function loopOf({
  timing,
  material,
}: Pick<BackdropDocument, 'timing' | 'material'>): LoopSettings {
  const { cut, speed, frameRate, seam, blendFrames, repeat } = timing
  return {
    cut,
    speed,
    frameRate,
    sourceRate: material.frameRate,
    blendFrames,
    seam: repeat === 'loop' ? seam : { ...seam, kind: 'straight' },
  }
}

/** The size of the picture that is delivered, before it is made smaller for each screen. */
export function pictureSize({ picture }: Pick<BackdropDocument, 'picture'>, source: Size): Size {
  return shapedSize(source, picture)
}

/** The small quick clip that the stage plays while decisions are made. */
export function proofRecipe(document: BackdropDocument, source: RecipeSource): ClipRecipe {
  return {
    kind: 'proof',
    sourceSha256: source.sha256,
    shape: document.picture,
    soften: null,
    ...loopOf(document),
    loops: document.timing.repeat === 'loop',
    family: 'h264',
    noiseReduction: 0,
    goal: null,
    ...renditionSize(pictureSize(document, source), PROOF_WIDTH),
  }
}

/** How the picture is cropped, rotated, sized and blurred for a class of screens. */
export function renditionOf(
  document: BackdropDocument,
  source: Size,
  screenClass: ScreenClass,
): Size & { readonly shape: PictureShape; readonly soften: Soften | null } {
  const row = document.weight.renditions[screenClass]
  const picture = pictureSize(document, source)
  const part =
    row.crop === 'screen'
      ? screenCrop(
          picture,
          document.fit.height,
          document.weight.breakpoints,
          document.fit.focal,
          classesServedBy(document, screenClass),
        )
      : null
  const shape = part ? cropShape(document.picture, part) : document.picture
  const whole = part ? shapedSize(source, shape) : picture
  const soften =
    row.soften > 0
      ? { box: copyOnPicture(document, whole, screenClass), strength: row.soften }
      : null
  return { shape, soften, ...renditionSize(whole, row.width) }
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
  { copy, fit }: Pick<BackdropDocument, 'copy' | 'fit'>,
  picture: Size,
  screenClass: ScreenClass,
): ShareRect {
  const window = SCREENS[screenClass]
  const box = copyBox(copy, fit.height, window)
  const { shown } = coverRect(
    picture,
    { width: window.width, height: regionHeightPx(fit.height, window.height) },
    fit.focal,
  )
  const down = (value: number): number =>
    Math.max(0, Math.floor(value * PLACE_STEPS + 1e-9) / PLACE_STEPS)
  const up = (value: number): number =>
    Math.min(1, Math.ceil(value * PLACE_STEPS - 1e-9) / PLACE_STEPS)
  const [x, y] = [
    down((shown.x + box.x * shown.width) / picture.width),
    down((shown.y + box.y * shown.height) / picture.height),
  ]
  return {
    x,
    y,
    width: up((shown.x + (box.x + box.width) * shown.width) / picture.width) - x,
    height: up((shown.y + (box.y + box.height) * shown.height) / picture.height) - y,
  }
}

/**
 * The classes with their own clip. Phones that show the poster need none, disabled rows use their
 * neighbour's, and equal files are rendered once.
 */
export function deliveredClasses(document: BackdropDocument, source: Size): ScreenClass[] {
  const { renditions: rows, goal } = document.weight
  const classes = SCREEN_CLASSES.filter(
    (each) => rows[each].enabled && (each !== 'phone' || document.behaviour.phone === 'play'),
  )
  // A file of the same picture for another budget, or in other formats, is another file.
  return ownFiles(classes, (each) => [
    renditionOf(document, source, each),
    rows[each].frameRate,
    rows[each].formats,
    goal === 'budget' && clipBudget(document, each),
  ])
}

/** The classes with their own poster: also phones that get no clip. */
export function posterClasses(document: BackdropDocument, source: Size): ScreenClass[] {
  const classes = SCREEN_CLASSES.filter(
    (each) =>
      document.weight.renditions[each].enabled ||
      (each === 'phone' && document.behaviour.phone === 'poster'),
  )
  return ownFiles(classes, (each) => [
    renditionOf(document, source, each),
    posterMaxBytes(document, each),
  ])
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
 * Maximum bytes of page, style and script of a first visit, compressed as a server sends them. A
 * test compares it with the real files.
 */
export const PAGE_PARTS = { markup: 1_500, style: 1_400, script: 1_100 } as const
export const PAGE_BYTES = PAGE_PARTS.markup + PAGE_PARTS.style + PAGE_PARTS.script

/** Maximum share of a small budget for the poster: the clip needs the rest. */
const MAX_POSTER_SHARE = 0.4

/**
 * Maximum bytes of one poster of a class: its own limit, or less where the class's whole budget is
 * small.
 */
export function posterMaxBytes(
  { poster, weight }: Pick<BackdropDocument, 'poster' | 'weight'>,
  screenClass: ScreenClass,
): number {
  return Math.min(
    poster.maxBytes[screenClass],
    Math.floor((weight.renditions[screenClass].budgetBytes - PAGE_BYTES) * MAX_POSTER_SHARE),
  )
}

/** What a class's budget leaves for its clip after its heaviest poster, page, style and script. */
export function clipBudget(document: BackdropDocument, screenClass: ScreenClass): number {
  return (
    document.weight.renditions[screenClass].budgetBytes -
    posterMaxBytes(document, screenClass) -
    PAGE_BYTES
  )
}

/** The budget of a class that leaves this many bytes to its clip: the inverse of `clipBudget`. */
export function budgetLeaving(
  document: Pick<BackdropDocument, 'poster'>,
  screenClass: ScreenClass,
  clipBytes: number,
): number {
  const ceiling = document.poster.maxBytes[screenClass]
  const tight = ceiling > (clipBytes + ceiling) * MAX_POSTER_SHARE
  return Math.ceil(tight ? clipBytes / (1 - MAX_POSTER_SHARE) : clipBytes + ceiling) + PAGE_BYTES
}

/**
 * The formats of each delivered class, wide screens first. Whichever rows are disabled or merged,
 * the last class has H.264 if no other has, so that every browser can play something.
 */
function deliveredFormats(
  document: BackdropDocument,
  source: Size,
): { screenClass: ScreenClass; families: Family[] }[] {
  const delivered = [...deliveredClasses(document, source)].reverse().map((screenClass) => ({
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
  source: RecipeSource,
): { screenClass: ScreenClass; recipe: ClipRecipe }[] {
  const { renditions: rows, goal, targetSsim: ssim, noiseReduction } = document.weight
  const loop = loopOf(document)
  return deliveredFormats(document, source).flatMap(({ screenClass, families }) =>
    families.map((family) => ({
      screenClass,
      recipe: {
        kind: 'clip' as const,
        sourceSha256: source.sha256,
        ...loop,
        frameRate: rows[screenClass].frameRate ?? loop.frameRate,
        loops: document.timing.repeat === 'loop',
        family,
        noiseReduction,
        goal:
          goal === 'quality'
            ? { kind: 'quality' as const, ssim }
            : { kind: 'budget' as const, bytes: clipBudget(document, screenClass) },
        ...renditionOf(document, source, screenClass),
      },
    })),
  )
}

/**
 * The container a clip is delivered in: MP4 wherever it loops, since only there the index can play
 * it over without a pause; WebM for VP9 that plays once.
 */
export function containerOf({
  family,
  loops,
}: Pick<ClipRecipe, 'family' | 'loops'>): 'mp4' | 'webm' {
  return family === 'vp9' && !loops ? 'webm' : 'mp4'
}

/**
 * The posters in the widths of the clips, wide screens first. The order of formats in the markup
 * depends on the sizes of the rendered files.
 */
export function posterRecipes(
  document: BackdropDocument,
  source: RecipeSource,
): { screenClass: ScreenClass; recipe: PosterRecipe }[] {
  const formats = (['avif', 'webp', 'jpeg'] as const).filter(
    (format) => format !== 'avif' || document.poster.avif,
  )
  return [...posterClasses(document, source)].reverse().flatMap((screenClass) =>
    formats.map((format) => ({
      screenClass,
      recipe: {
        kind: 'poster' as const,
        sourceSha256: source.sha256,
        loop: loopOf(document),
        picture: document.poster.picture,
        format,
        maxBytes: posterMaxBytes(document, screenClass),
        ...renditionOf(document, source, screenClass),
      },
    })),
  )
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
