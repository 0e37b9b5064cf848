import type { Rendition } from '../../../core/api/wire'
import type { DocumentOf } from '../../../core/backdrop/BackdropDocument'
import {
  pageBytes,
  posterRecipes,
  recipeKey,
  type PictureFormat,
} from '../../../core/backdrop/recipe'
import { SCREEN_CLASSES, type ScreenClass } from '../../../core/fit/screens'
import type { Sources } from '../../../core/kinds/Kind'
import {
  firstVisitSlides,
  visitModes,
  type VisitMode,
} from '../../../core/kinds/slideshow/visitModes'

/** A rendered slide in one format. */
export interface WeighedSlide {
  /** Its place, counted from 0. */
  readonly slide: number
  readonly screenClass: ScreenClass
  readonly format: PictureFormat
  readonly bytes: number
  readonly ssim: number
  readonly sha256: string
  readonly width: number
  readonly height: number
}

/** The slides that are rendered. */
export function weighedSlides(
  document: DocumentOf<'slideshow'>,
  known: Sources,
  made: Readonly<Record<string, Rendition>>,
): WeighedSlide[] {
  return posterRecipes(document, known).flatMap(({ screenClass, slide, recipe }) => {
    const rendition = made[recipeKey(recipe)]
    if (slide === undefined || rendition?.facts.kind !== 'poster') return []
    const { ssim, width, height } = rendition.facts
    const { sha256, bytes } = rendition
    return [{ slide, screenClass, format: recipe.format, bytes, ssim, sha256, width, height }]
  })
}

/** What the slides of a class of screens take in one format, with page, style and script. */
export interface SlideSums {
  readonly screenClass: ScreenClass
  readonly format: PictureFormat
  readonly first: number
  readonly firstBudget: number
  readonly cycle: number
  readonly cycleBudget: number
  readonly worstSsim: number
  /** What visits download, the heaviest of each kind. */
  readonly modes: readonly (VisitMode & { readonly bytes: number })[]
}

/** The sums of each class and format of which all slides are rendered. */
export function slideSums(
  document: DocumentOf<'slideshow'>,
  weighed: readonly WeighedSlide[],
): SlideSums[] {
  const page = pageBytes(document)
  const { slides, cycleBytes } = document.base
  return SCREEN_CLASSES.flatMap((screenClass) =>
    (['avif', 'webp', 'jpeg'] as const).flatMap((format) => {
      const own = weighed.filter(
        (each) => each.screenClass === screenClass && each.format === format,
      )
      if (own.length < slides.length) return []
      const sum = (some: readonly number[]): number =>
        own
          .filter(({ slide }) => some.includes(slide))
          .reduce((all, each) => all + each.bytes, page)
      const most = (each: VisitMode): number => Math.max(...each.slides.map(sum))
      const modes = visitModes(document).map((mode) => ({ ...mode, bytes: most(mode) }))
      return [
        {
          screenClass,
          format,
          first: Math.max(...firstVisitSlides(document.base).map(sum)),
          firstBudget: document.weight.renditions[screenClass].budgetBytes,
          cycle: sum(slides.map((_, index) => index)),
          cycleBudget: cycleBytes[screenClass],
          worstSsim: Math.min(...own.map(({ ssim }) => ssim)),
          modes,
        },
      ]
    }),
  )
}
