import type { BackdropDocument } from '../../../core/backdrop/BackdropDocument'
import { weakestStrength } from '../../../core/legibility/weakestStrength'
import type { ScreenName } from '../../../core/fit/screens'
import type { TextPlace } from '../../../core/legibility/TextPlace'
import { isEnough, worstOfAll, type WorstMoment } from '../../../core/legibility/worstOf'
import { scrimOf, scrimPartOn } from '../../../core/backdrop/scrimOn'
import { withLayer, type Scrim } from '../../../core/scrim/Scrim'
import { contrastOrder } from '../../layout/contrastOrder'
import { laidOut } from '../../layout/laidOut'
import { frameWorker } from '../../state/frameWorker'
import type { LoadedSources } from '../../state/loadedSources'
import { withScrims, type ContrastOrder } from '../../worker/contrast/ContrastOrder'

/** A strength of a layer, and what is read worst there; null where none is enough. */
export interface Weakest {
  readonly strength: number | null
  readonly worst: WorstMoment | null
}

/**
 * The weakest strength of a layer of the scrim that a screen has, at which all copy is read on all
 * screens that have it, at all times; undefined where nothing is measured. What stands on an opaque
 * plate is left out: no scrim changes it. Errors: those of measuring.
 */
export async function weakestScrim(
  document: BackdropDocument,
  sources: LoadedSources,
  screen: ScreenName,
  index: number,
  signal: AbortSignal,
  onTry: (strength: number) => void,
): Promise<Weakest | undefined> {
  const layouts = await laidOut((page) => page.measure(document))
  const order = await contrastOrder(document, sources, layouts)
  if (!order) return undefined
  const part = scrimPartOn(document, screen)
  const scrim = scrimOf(document, part)
  const own = order.screens.filter(({ name }) => scrimPartOn(document, name) === part)
  const at = (strength: number): Scrim =>
    withLayer(scrim, index, { ...scrim.layers[index]!, strength })
  return weakestOf({ ...order, screens: own }, at, signal, onTry)
}

/**
 * The same of any scrim that has a strength, for the texts that are meant; `failed` are moments at
 * which they are known to fail without it. Errors: those of measuring.
 */
export async function weakestOf(
  order: ContrastOrder,
  scrimAt: (strength: number) => Scrim,
  signal: AbortSignal,
  onTry: (strength: number) => void,
  failed: readonly WorstMoment[] = [],
  isMeant: (text: TextPlace) => boolean = () => true,
): Promise<Weakest> {
  const known = new Set(failed.map(({ seconds }) => seconds))
  /** What was seen at strengths that are enough. */
  const read = new Map<number, readonly WorstMoment[]>()
  let seen: readonly WorstMoment[] = []
  const at = async (strength: number, moments: ContrastOrder['moments']): Promise<boolean> => {
    const all = await measuredIn(
      withScrims({ ...order, moments }, () => scrimAt(strength)),
      signal,
    )
    seen = all.filter(({ text }) => isMeant(text))
    for (const { ratio, text, seconds } of seen)
      if (!isEnough(ratio, text.needed)) known.add(seconds)
    return areRead(seen)
  }
  const strength = await weakestStrength(
    {
      known: async (tried) => {
        const moments = order.moments.filter(({ seconds }) => known.has(seconds))
        return moments.length === 0 || at(tried, moments)
      },
      whole: async (tried) => {
        const passes = await at(tried, order.moments)
        if (passes) read.set(tried, seen)
        return passes
      },
    },
    onTry,
  )
  return { strength, worst: worstOfAll((strength !== null && read.get(strength)) || seen) }
}

/** The worst moments of all copy that a scrim changes, exactly. Errors: those of measuring. */
export async function measuredIn(
  order: ContrastOrder,
  signal: AbortSignal,
): Promise<readonly WorstMoment[]> {
  const { worst } = await frameWorker().run({ type: 'contrasts', ...order }, { signal })
  return worst.filter(isChanged)
}

/** Whether a scrim makes a difference to a text. */
const isChanged = ({ text }: WorstMoment): boolean => text.plate?.alpha !== 1

export const areRead = (worst: readonly WorstMoment[]): boolean =>
  worst.every(({ ratio, text }) => isEnough(ratio, text.needed))
