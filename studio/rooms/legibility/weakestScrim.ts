import type { BackdropDocument } from '../../../core/backdrop/BackdropDocument'
import { weakestStrength } from '../../../core/legibility/weakestStrength'
import { isEnough, worstOfAll, type WorstMoment } from '../../../core/legibility/worstOf'
import { withLayer } from '../../../core/scrim/Scrim'
import { contrastOrder } from '../../layout/contrastOrder'
import { laidOut } from '../../layout/laidOut'
import { frameWorker } from '../../state/frameWorker'
import type { LoadedSources } from '../../state/loadedSources'
import type { ContrastOrder } from '../../worker/contrast/ContrastOrder'

/** A strength of a layer, and what is read worst there; null where none is enough. */
export interface Weakest {
  readonly strength: number | null
  readonly worst: WorstMoment | null
}

/**
 * The weakest strength of a layer at which all copy is read on all screens at all times; undefined
 * where nothing is measured. What stands on an opaque plate is left out: no scrim changes it.
 * Errors: those of measuring.
 */
export async function weakestScrim(
  document: BackdropDocument,
  sources: LoadedSources,
  index: number,
  signal: AbortSignal,
  onTry: (strength: number) => void,
): Promise<Weakest | undefined> {
  const layouts = await laidOut((page) => page.measure(document))
  const order = await contrastOrder(document, sources, layouts)
  if (!order) return undefined
  const { scrim } = document
  const at = (strength: number): ContrastOrder => ({
    ...order,
    scrim: withLayer(scrim, index, { ...scrim.layers[index]!, strength }),
  })
  let seen: readonly WorstMoment[] = []
  const exact = async (strength: number): Promise<boolean> => {
    const { worst } = await frameWorker().run({ type: 'contrasts', ...at(strength) }, { signal })
    seen = worst.filter(isChanged)
    return areRead(worst)
  }
  // Particles have no bounds: there is nothing quick about them.
  const quick = order.particles
    ? exact
    : async (strength: number) => areRead(await quickly(at(strength), signal))
  const strength = await weakestStrength({ quick, exact }, onTry)
  return { strength, worst: worstOfAll(seen) }
}

/** Whether a scrim makes a difference to a text. */
const isChanged = ({ text }: WorstMoment): boolean => text.plate?.alpha !== 1

const areRead = (worst: readonly WorstMoment[]): boolean =>
  worst.filter(isChanged).every(({ ratio, text }) => isEnough(ratio, text.needed))

/** The worst times as bounds rank them; the rest is not waited for. */
function quickly(order: ContrastOrder, signal: AbortSignal): Promise<readonly WorstMoment[]> {
  signal.throwIfAborted()
  const own = new AbortController()
  const stop = (): void => own.abort()
  signal.addEventListener('abort', stop)
  return new Promise<readonly WorstMoment[]>((resolve, reject) => {
    frameWorker()
      .run(
        { type: 'contrasts', ...order },
        {
          signal: own.signal,
          onStep: (step) => {
            if (step.phase !== 'quick') return
            resolve(step.worst)
            stop()
          },
        },
      )
      .then(({ worst }) => resolve(worst), reject)
  }).finally(() => signal.removeEventListener('abort', stop))
}
