import type { BackdropDocument } from '../../../core/backdrop/BackdropDocument'
import { reduce, type BackdropAction } from '../../../core/backdrop/reduce'
import { scrimOn } from '../../../core/backdrop/scrimOn'
import type { BrandColor } from '../../../core/brand/Brand'
import type { PictureCost, SeenPicture } from '../../../core/legibility/pictureCost'
import { worstOfAll, type WorstMoment } from '../../../core/legibility/worstOf'
import { parseHex } from '../../../core/picture/srgb'
import { relativeLuminance } from '../../../core/scrim/contrast'
import { contrastOrder } from '../../layout/contrastOrder'
import type { LayoutPage, ScreenLayouts } from '../../layout/LayoutPage'
import type { LoadedSources } from '../../state/loadedSources'
import type { ContrastOrder } from '../../worker/contrast/ContrastOrder'
import type { ScreenPicture } from './smallPictures'
import { areRead, measuredIn } from './weakestScrim'

/** A change after which all copy is read on all screens at all times. */
export interface Remedy {
  readonly title: string
  readonly actions: readonly BackdropAction[]
  /** The document with it, and where copy lies then. */
  readonly document: BackdropDocument
  readonly layouts: ScreenLayouts
  readonly worst: WorstMoment
  /** What it takes from the picture as it is seen now. */
  readonly cost: PictureCost
  /** What is shown with it; absent where the picture is the same. */
  readonly pictures?: readonly ScreenPicture[]
  /** What is said of other pictures that are shown as they are. */
  readonly note?: string
}

/** What a change of the picture makes of it. */
export type Seen = Pick<Remedy, 'cost' | 'pictures' | 'note'>

/** Something that was tried and is not enough. */
export interface Vain {
  readonly title: string
  /** What is read worst with it, or why it cannot be tried. */
  readonly worst: WorstMoment | string
}

/** What is found on the way. */
export interface RemedyStep {
  readonly pictures?: readonly ScreenPicture[]
  readonly failing?: readonly WorstMoment[]
  readonly remedy?: Remedy
  readonly vain?: Vain
}

/** What remedies are looked for with, and who is told of them. */
export interface RemedySearch {
  readonly document: BackdropDocument
  readonly sources: LoadedSources
  readonly brand: readonly BrandColor[]
  readonly page: LayoutPage
  readonly signal: AbortSignal
  readonly tell: (text: string) => void
  readonly onStep: (step: RemedyStep) => void
}

/** What fails now, and what is seen. */
export interface Failures {
  readonly order: ContrastOrder
  readonly layouts: ScreenLayouts
  readonly failing: readonly WorstMoment[]
  readonly pictures: readonly ScreenPicture[]
}

/** Pictures as they are seen through a document's scrims. */
export const seenIn = (
  document: BackdropDocument,
  pictures: readonly ScreenPicture[],
): SeenPicture[] => pictures.map((each) => ({ ...each, scrim: scrimOn(document, each.screen) }))

/** Texts at the top of the region. */
export const HEADER = ['Brand', 'Links']

export const percents = (strengths: readonly number[]): string =>
  strengths.map((each) => `${Math.round(each * 100)}\u00a0%`).join(' and ')

/** Nothing of the picture is changed. */
export const NO_COST: PictureCost = { deltaE: 0, changed: 0 }

/** Copy brighter than this needs something dark behind it. Halfway in contrast to both ends. */
const MIDDLE_LUMINANCE = 0.18

/** Black or white: what is farther from the copy. */
export const oppositeOf = ({ copy }: BackdropDocument): string =>
  relativeLuminance(parseHex(copy.color)) <= MIDDLE_LUMINANCE ? '#ffffff' : '#000000'

/**
 * Tells of a change whether it is enough; gives whether it is. It leaves the picture as it is where
 * no cost is told. Errors: those of measuring.
 */
export async function tryChange(
  { document, sources, page, signal, tell, onStep }: RemedySearch,
  title: string,
  actions: readonly BackdropAction[],
  costOf: (order: ContrastOrder) => Promise<Seen> = () => Promise.resolve({ cost: NO_COST }),
): Promise<boolean> {
  tell(title)
  const changed = actions.reduce(reduce, document)
  const layouts = await page.measure(changed)
  const order = await contrastOrder(changed, sources, layouts)
  if (!order) return false
  const all = await measuredIn(order, signal)
  const worst = worstOfAll(all)
  if (worst && areRead(all)) {
    const seen = await costOf(order)
    onStep({ remedy: { title, actions, document: changed, layouts, worst, ...seen } })
    return true
  }
  if (worst) onStep({ vain: { title, worst } })
  return false
}
