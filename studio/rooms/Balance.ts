import type { Rendition } from '../../core/api/wire'
import type { BackdropDocument } from '../../core/backdrop/BackdropDocument'
import { firstVisits, type FirstVisit } from '../../core/backdrop/firstVisit'
import { clipRecipes, posterRecipes, recipeKey, type Recipe } from '../../core/backdrop/recipe'
import { isEnough } from '../../core/legibility/worstOf'
import type { LoadedSources } from '../state/loadedSources'
import type { WorstContrast } from '../state/stageStore'
import { finalRecipes, isUnsure, type Job } from '../state/workStore'
import type { Standing } from '../ui/controls'

/** Content of a readout: a figure with its unit, a line below, and its state. */
export interface Readout {
  readonly figure: string
  readonly unit: string
  readonly note: string
  readonly standing: Standing
}

/** Everything the readouts are read from. */
export interface Balance {
  readonly document: BackdropDocument
  readonly sources: LoadedSources
  readonly made: Readonly<Record<string, Rendition>>
  /** Keys of files that the server does not have, and why it could not be asked. */
  readonly absent: Readonly<Record<string, true>>
  readonly lookProblem: string | null
  readonly jobs: readonly Job[]
  readonly proof: Job | null
  readonly contrast: number | null
  /** The worst over all that is shown in turn; null where only the present frame is known. */
  readonly worst: WorstContrast | null
  readonly needed: number
}

/** Whether copy has the contrast that it needs where it is worst. */
export const isReadable = (worst: WorstContrast, needed: number): boolean =>
  isEnough(worst.ratio, worst.needed ?? needed)

/** Whether the server has not said of the final files which are made. */
export function isAsking(balance: Balance): boolean {
  return isUnsure(balance, finalRecipes(balance.document, balance.sources.known).map(recipeKey))
}

/**
 * What a first visit takes on each class of screens, of the files that are made: a class whose
 * clips are not all made has none yet.
 */
export function madeVisits({
  document,
  sources,
  made,
}: Pick<Balance, 'document' | 'sources' | 'made'>): FirstVisit[] {
  const from = sources.known
  const bytesOf = (recipe: Recipe): number => made[recipeKey(recipe)]?.bytes ?? 0
  return firstVisits(document, {
    clips: clipRecipes(document, from).map(({ screenClass, recipe }) => ({
      screenClass,
      family: recipe.family,
      bytes: bytesOf(recipe),
    })),
    posters: posterRecipes(document, from).map(({ screenClass, slide, recipe }) => ({
      screenClass,
      ...(slide !== undefined && { slide }),
      format: recipe.format,
      bytes: bytesOf(recipe),
    })),
  })
}
