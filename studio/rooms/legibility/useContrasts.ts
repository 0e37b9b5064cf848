import type { BackdropDocument } from '../../../core/backdrop/BackdropDocument'
import { liveParticlesOf, sequenceOf } from '../../../core/backdrop/delivered'
import { renditionOf } from '../../../core/backdrop/recipe'
import { focalOn } from '../../../core/fit/focal'
import { SCREENS } from '../../../core/fit/screens'
import { contrastMoments } from '../../../core/legibility/contrastMoments'
import type { TextPlace } from '../../../core/legibility/TextPlace'
import type { ContrastRow } from '../../../core/legibility/worstOf'
import { sequenceKey } from '../../../core/kinds/Sequence'
import { frameWorker } from '../../state/frameWorker'
import type { LoadedSources } from '../../state/loadedSources'
import { useStage } from '../../state/stageStore'
import { useAsync } from '../../ui/useAsync'
import { drawnPlaces } from '../../worker/vectorPlace'

/** Changes that follow one another quickly are measured together. */
const AFTER_MS = 600

/** What was measured so far, for the texts that were there when it began. */
export interface Contrasts {
  readonly texts: readonly TextPlace[]
  readonly rows: readonly ContrastRow[]
  /** How many moments there are. */
  readonly count: number
  /** When the last of them is. */
  readonly seconds: number
}

/**
 * The contrast of every text over every frame, as the stage's screen lays them out; measured anew
 * when anything of it changes.
 */
export function useContrasts(
  document: BackdropDocument,
  sources: LoadedSources,
): { readonly contrasts: Contrasts | null; readonly error: string | null } {
  const screen = useStage((state) => state.screen)
  const layout = useStage((state) => state.layout)
  const { fit, scrim } = document
  const screenClass = SCREENS[screen].serves
  const sequence = sequenceOf(document, sources.known, { screenClass })
  const particles = liveParticlesOf(document)
  const focal = focalOn(fit, screenClass)
  const { part, copyBlur } = renditionOf(document, sources.known, screenClass)
  const blur = part ? null : copyBlur
  const key =
    sequence && layout
      ? JSON.stringify([sequenceKey(sequence), particles, focal, blur, scrim, layout])
      : null
  const { value, error } = useAsync<Contrasts>(
    key,
    async (signal, emit) => {
      const { region, texts } = layout!
      const moments = contrastMoments(
        sequence!,
        particles && { period: particles.period, frameRate: document.particles!.frameRate },
      )
      const rows: ContrastRow[] = []
      const { width } = sequence!.size
      const order = {
        type: 'contrasts',
        sequence: sequence!,
        places: await drawnPlaces({ sequence: sequence!, width }, sources.places),
        moments,
        particles,
        copyBlur: blur,
        region,
        focal,
        scrim,
        texts,
      } as const
      await frameWorker().run(order, {
        signal,
        onStep: (more) => {
          rows.push(...more)
          emit({ texts, rows: [...rows], count: moments.length, seconds: moments.at(-1)!.seconds })
        },
      })
      return { texts, rows, count: moments.length, seconds: moments.at(-1)!.seconds }
    },
    { delayMs: AFTER_MS },
  )
  return { contrasts: value, error }
}
