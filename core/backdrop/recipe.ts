import { SCREEN_CLASSES, type ScreenClass, type ScreenName, SCREENS } from '../fit/screens'
import type { Size } from '../fit/cover'
import type { Fraction } from '../loop/Fraction'
import type { LoopSettings } from '../loop/framePlan'
import { renditionSize } from '../weight/renditionSize'
import type { BackdropDocument } from './BackdropDocument'

/** A clip to be made: everything that decides its bytes. */
export interface ClipRecipe extends LoopSettings {
  readonly kind: 'proof' | 'clip'
  readonly sourceSha256: string
  readonly family: 'vp9' | 'h264'
  readonly width: number
  readonly height: number
  /** Bytes it may take; null for a proof, which is only quick. */
  readonly budgetBytes: number | null
}

/** A still to be made: the first output frame. */
export interface PosterRecipe {
  readonly kind: 'poster'
  readonly sourceSha256: string
  readonly cut: LoopSettings['cut']
  readonly format: 'webp' | 'jpeg'
  readonly width: number
  readonly height: number
}

export type Recipe = ClipRecipe | PosterRecipe

/** Raise when the same recipe would give other bytes: everything made before is then stale. */
const PIPELINE = 1
const PROOF_WIDTH = 640
const POSTER_WIDTH = 1280

const rate = ({ num, den }: Fraction): string => `${num}/${den}`

/** The key under which a result is kept: it reads as what it is, and is equal exactly when the recipe is. */
export function recipeKey(recipe: Recipe): string {
  const { cut } = recipe
  const common = `${recipe.kind}.${PIPELINE}:${recipe.sourceSha256}:${recipe.width}x${recipe.height}`
  if (recipe.kind === 'poster') return `${common}:${recipe.format}:${cut.start}@${cut.timescale}`
  return `${common}:${recipe.family}:${cut.start}-${cut.end}@${cut.timescale}:x${recipe.speed}:${rate(recipe.frameRate)}:${recipe.budgetBytes ?? 'quick'}`
}

/** What is known of the source that a document stands on. */
export interface RecipeSource extends Size {
  readonly sha256: string
}

/** The small quick clip that the stage plays while decisions are made. */
export function proofRecipe(document: BackdropDocument, source: RecipeSource): ClipRecipe {
  const { cut, speed, frameRate } = document.timing
  return { kind: 'proof', sourceSha256: source.sha256, cut, speed, frameRate, family: 'h264', budgetBytes: null, ...renditionSize(source, PROOF_WIDTH) }
}

/** The classes that get a clip of their own: a still on phones needs none, and equal widths are made once. */
export function deliveredClasses(document: BackdropDocument, source: Size): ScreenClass[] {
  const classes = SCREEN_CLASSES.filter((each) => each !== 'phone' || document.behaviour.phone === 'play')
  return classes.filter((each, index) => {
    const width = renditionSize(source, document.weight.widths[each]).width
    const next = classes[index + 1]
    return next === undefined || renditionSize(source, document.weight.widths[next]).width !== width
  })
}

/** The final clips, wide screens first and VP9 before H.264, as the markup lists them. */
export function clipRecipes(document: BackdropDocument, source: RecipeSource): { screenClass: ScreenClass; recipe: ClipRecipe }[] {
  const { cut, speed, frameRate } = document.timing
  const families = (['vp9', 'h264'] as const).filter((family) => document.weight.formats[family])
  return [...deliveredClasses(document, source)].reverse().flatMap((screenClass) =>
    families.map((family) => ({
      screenClass,
      recipe: {
        kind: 'clip' as const, sourceSha256: source.sha256, cut, speed, frameRate, family,
        budgetBytes: document.weight.budgets[screenClass], ...renditionSize(source, document.weight.widths[screenClass]),
      },
    })),
  )
}

/** The stills: one size in two formats, never wider than the widest clip. */
export function posterRecipes(document: BackdropDocument, source: RecipeSource): PosterRecipe[] {
  const widest = Math.max(...deliveredClasses(document, source).map((each) => document.weight.widths[each]))
  const size = renditionSize(source, Math.min(POSTER_WIDTH, widest))
  return (['webp', 'jpeg'] as const).map((format) => ({
    kind: 'poster' as const, sourceSha256: source.sha256, cut: document.timing.cut, format, ...size,
  }))
}

/** The class whose clip a stage screen plays: the one asked for, or the next wider that is delivered. */
export function classServing(screen: ScreenName, delivered: readonly ScreenClass[]): ScreenClass | null {
  const wanted = SCREEN_CLASSES.indexOf(SCREENS[screen].serves)
  return SCREEN_CLASSES.slice(wanted).find((each) => delivered.includes(each)) ?? null
}
