import type { Size } from '../fit/cover'
import { SCREEN_CLASSES, type ScreenClass, type ScreenName, SCREENS } from '../fit/screens'
import type { Fraction } from '../loop/Fraction'
import { firstFrameSeconds, type LoopSettings, overlapFrames } from '../loop/framePlan'
import { type PictureShape, isPlain, shapedSize } from '../picture/pictureShape'
import { renditionSize } from '../weight/renditionSize'
import type { BackdropDocument } from './BackdropDocument'

/** A clip to be made: everything that decides its bytes. */
export interface ClipRecipe extends LoopSettings {
  readonly kind: 'proof' | 'clip'
  readonly sourceSha256: string
  readonly shape: PictureShape
  /** Whether its index plays it over and over (where the container can). */
  readonly loops: boolean
  readonly family: 'vp9' | 'h264'
  readonly width: number
  readonly height: number
  /** Bytes it may take; null for a proof, which is only quick. */
  readonly budgetBytes: number | null
}

/** Which picture a still shows. */
export type PosterPicture =
  | { readonly kind: 'first' }
  | { readonly kind: 'frame'; readonly ticks: number; readonly timescale: number }
  | { readonly kind: 'source'; readonly sha256: string; readonly mime: string; readonly bytes: number }

/** A still to be made. */
export interface PosterRecipe {
  readonly kind: 'poster'
  readonly sourceSha256: string
  readonly shape: PictureShape
  /** Tells the first output frame: the picture itself, or what it is compared with. */
  readonly loop: LoopSettings
  readonly picture: PosterPicture
  readonly format: 'avif' | 'webp' | 'jpeg'
  readonly width: number
  readonly height: number
  /** Bytes it may take. */
  readonly ceilingBytes: number
}

/** What the search for loops compares: a small description of each moment of a clip. */
export interface TraceRecipe {
  readonly kind: 'trace'
  readonly sourceSha256: string
}

export type Recipe = ClipRecipe | PosterRecipe

/** Raise when the same recipe would give other bytes: everything made before is then stale. */
const PIPELINE = 2
const PROOF_WIDTH = 640

const rate = ({ num, den }: Fraction): string => `${num}/${den}`
const short = (value: number): string => String(Math.round(value * 1e5) / 1e5)

function shapeKey(shape: PictureShape): string {
  if (isPlain(shape)) return ''
  const { crop } = shape
  return `:${crop ? [crop.x, crop.y, crop.width, crop.height].map(short).join(',') : 'whole'}${shape.quarterTurns > 0 ? `,turn${shape.quarterTurns}` : ''}${shape.mirrored ? ',mirrored' : ''}`
}

/** The key under which a result is kept: it reads as what it is, and is equal exactly when the recipe is. */
export function recipeKey(recipe: Recipe | TraceRecipe): string {
  if (recipe.kind === 'trace') return `trace.${PIPELINE}:${recipe.sourceSha256}`
  const common = `${recipe.kind}.${PIPELINE}:${recipe.sourceSha256}:${recipe.width}x${recipe.height}${shapeKey(recipe.shape)}`
  if (recipe.kind === 'poster') {
    const { picture, loop } = recipe
    const first = `${short(firstFrameSeconds(loop))}s${loop.blendFrames ? `~${loop.speed}~${rate(loop.frameRate)}` : ''}`
    const shown = picture.kind === 'first' ? 'first' : picture.kind === 'frame' ? `${picture.ticks}@${picture.timescale}` : picture.sha256
    return `${common}:${recipe.format}:${first}:${shown}:${recipe.ceilingBytes}`
  }
  const { cut, seam } = recipe
  const join = seam.kind === 'blended' ? `blend${overlapFrames(recipe)}` : seam.kind
  return `${common}:${recipe.family}:${cut.start}-${cut.end}@${cut.timescale}:x${recipe.speed}${recipe.blendFrames ? '~' : ''}:${rate(recipe.frameRate)}:${join}:${recipe.loops ? 'loop' : 'once'}:${recipe.budgetBytes ?? 'quick'}`
}

/** What is known of the source that a document stands on: its size as it is shown, before the document crops it. */
export interface RecipeSource extends Size {
  readonly sha256: string
}

/** What decides the frames of a document's loop; a clip that plays once has no seam. */
export function loopOf({ timing }: Pick<BackdropDocument, 'timing'>): LoopSettings {
  const { cut, speed, frameRate, seam, blendFrames, repeat } = timing
  return { cut, speed, frameRate, blendFrames, seam: repeat === 'loop' ? seam : { ...seam, kind: 'straight' } }
}

/** The size of the picture that is delivered, before it is made smaller for each screen. */
export function pictureSize({ picture }: Pick<BackdropDocument, 'picture'>, source: Size): Size {
  return shapedSize(source, picture)
}

/** The small quick clip that the stage plays while decisions are made. */
export function proofRecipe(document: BackdropDocument, source: RecipeSource): ClipRecipe {
  return {
    kind: 'proof', sourceSha256: source.sha256, shape: document.picture, ...loopOf(document), loops: document.timing.repeat === 'loop', family: 'h264', budgetBytes: null,
    ...renditionSize(pictureSize(document, source), PROOF_WIDTH),
  }
}

/** The classes that get a clip of their own: a still on phones needs none, and equal widths are made once. */
export function deliveredClasses(document: BackdropDocument, source: Size): ScreenClass[] {
  return ownFiles(document, source, SCREEN_CLASSES.filter((each) => each !== 'phone' || document.behaviour.phone === 'play'))
}

/** The classes that get a still of their own: a phone that gets no clip still gets its still. */
export function stillClasses(document: BackdropDocument, source: Size): ScreenClass[] {
  return ownFiles(document, source, SCREEN_CLASSES)
}

/** Of some classes those whose files are no copies of the next wider one's. */
function ownFiles(document: BackdropDocument, source: Size, classes: readonly ScreenClass[]): ScreenClass[] {
  const size = pictureSize(document, source)
  return classes.filter((each, index) => {
    const width = renditionSize(size, document.weight.widths[each]).width
    const next = classes[index + 1]
    return next === undefined || renditionSize(size, document.weight.widths[next]).width !== width
  })
}

/** The final clips, wide screens first and VP9 before H.264, as the markup lists them. */
export function clipRecipes(document: BackdropDocument, source: RecipeSource): { screenClass: ScreenClass; recipe: ClipRecipe }[] {
  const families = (['vp9', 'h264'] as const).filter((family) => document.weight.formats[family])
  const size = pictureSize(document, source)
  return [...deliveredClasses(document, source)].reverse().flatMap((screenClass) =>
    families.map((family) => ({
      screenClass,
      recipe: {
        kind: 'clip' as const, sourceSha256: source.sha256, shape: document.picture, ...loopOf(document), loops: document.timing.repeat === 'loop', family,
        budgetBytes: document.weight.budgets[screenClass], ...renditionSize(size, document.weight.widths[screenClass]),
      },
    })),
  )
}

/** The container a clip is delivered in: MP4 wherever it loops, since only there the index can play it over without a pause; WebM for VP9 that plays once. */
export function containerOf({ family, loops }: Pick<ClipRecipe, 'family' | 'loops'>): 'mp4' | 'webm' {
  return family === 'vp9' && !loops ? 'webm' : 'mp4'
}

/** The stills in the widths of the clips, wide screens first; which format stands first in the markup is decided by the bytes that come. */
export function posterRecipes(document: BackdropDocument, source: RecipeSource): { screenClass: ScreenClass; recipe: PosterRecipe }[] {
  const size = pictureSize(document, source)
  const formats = (['avif', 'webp', 'jpeg'] as const).filter((format) => format !== 'avif' || document.still.avif)
  return [...stillClasses(document, source)].reverse().flatMap((screenClass) =>
    formats.map((format) => ({
      screenClass,
      recipe: {
        kind: 'poster' as const, sourceSha256: source.sha256, shape: document.picture, loop: loopOf(document), picture: document.still.picture, format,
        ceilingBytes: document.still.ceilings[screenClass], ...renditionSize(size, document.weight.widths[screenClass]),
      },
    })),
  )
}

/** The class whose clip a stage screen plays: the one asked for, or the next wider that is delivered. */
export function classServing(screen: ScreenName, delivered: readonly ScreenClass[]): ScreenClass | null {
  const wanted = SCREEN_CLASSES.indexOf(SCREENS[screen].serves)
  return SCREEN_CLASSES.slice(wanted).find((each) => delivered.includes(each)) ?? null
}
