import type { BackdropDocument } from '../../../core/backdrop/BackdropDocument'
import {
  failsAgainFrom,
  weakestStrength,
  type StrengthTests,
} from '../../../core/legibility/weakestStrength'
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

/** The same, with the strength from which copy fails again; null where it does not. */
export interface WeakestLayer extends Weakest {
  readonly failsFrom: number | null
}

/** At so many strengths above the weakest a blended layer is looked at. */
const BLENDED_LOOKS = 4

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
): Promise<WeakestLayer | undefined> {
  const layouts = await laidOut((page) => page.measure(document))
  const order = await contrastOrder(document, sources, layouts)
  if (!order) return undefined
  const part = scrimPartOn(document, screen)
  const scrim = scrimOf(document, part)
  const own = order.screens.filter(({ name }) => scrimPartOn(document, name) === part)
  const at = (strength: number): Scrim =>
    withLayer(scrim, index, { ...scrim.layers[index]!, strength })
  const whole = { ...order, screens: own }
  const orderAt = (tried: number): ContrastOrder => withScrims(whole, () => at(tried))
  const tests = strengthTests(whole.moments, orderAt, signal)
  const found = await weakestIn(tests, onTry)
  const { strength } = found
  const looks = scrim.layers[index]!.blend === 'normal' ? 1 : BLENDED_LOOKS
  const failsFrom = strength === null ? null : await failsAgainFrom(tests, strength, looks, onTry)
  return { ...found, failsFrom }
}

/**
 * The same of anything that has a strength, for the texts that are meant: `orderAt` says what is
 * measured with it, at `moments`; `failed` are some at which they are known to fail without it.
 * Errors: those of measuring.
 */
export const weakestOf = (
  moments: ContrastOrder['moments'],
  orderAt: (strength: number) => ContrastOrder | Promise<ContrastOrder>,
  signal: AbortSignal,
  onTry: (strength: number) => void,
  failed: readonly WorstMoment[] = [],
  isMeant: (text: TextPlace) => boolean = () => true,
): Promise<Weakest> => weakestIn(strengthTests(moments, orderAt, signal, failed, isMeant), onTry)

/** Tests of strengths that remember what they saw. */
interface SeenTests extends StrengthTests {
  /** What was seen of all moments at a strength that is enough, or last. */
  readonly seenAt: (strength: number | null) => readonly WorstMoment[]
}

function strengthTests(
  moments: ContrastOrder['moments'],
  orderAt: (strength: number) => ContrastOrder | Promise<ContrastOrder>,
  signal: AbortSignal,
  failed: readonly WorstMoment[] = [],
  isMeant: (text: TextPlace) => boolean = () => true,
): SeenTests {
  const known = new Set(failed.map(({ seconds }) => seconds))
  /** What was seen at strengths that are enough. */
  const read = new Map<number, readonly WorstMoment[]>()
  let seen: readonly WorstMoment[] = []
  const at = async (strength: number, some: ContrastOrder['moments']): Promise<boolean> => {
    const all = await measuredIn({ ...(await orderAt(strength)), moments: some }, signal)
    seen = all.filter(({ text }) => isMeant(text))
    for (const { ratio, text, seconds } of seen)
      if (!isEnough(ratio, text.needed)) known.add(seconds)
    return areRead(seen)
  }
  return {
    known: async (tried) => {
      const some = moments.filter(({ seconds }) => known.has(seconds))
      return some.length === 0 || at(tried, some)
    },
    whole: async (tried) => {
      const passes = await at(tried, moments)
      if (passes) read.set(tried, seen)
      return passes
    },
    seenAt: (strength) => (strength !== null && read.get(strength)) || seen,
  }
}

async function weakestIn(tests: SeenTests, onTry: (strength: number) => void): Promise<Weakest> {
  const strength = await weakestStrength(tests, onTry)
  return { strength, worst: worstOfAll(tests.seenAt(strength)) }
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
const isChanged = ({ text }: WorstMoment): boolean => text.plate?.layer.alpha !== 1

export const areRead = (worst: readonly WorstMoment[]): boolean =>
  worst.every(({ ratio, text }) => isEnough(ratio, text.needed))
