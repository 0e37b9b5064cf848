import { create } from 'zustand'
import type { ClipSource, ProbeFacts } from '../../core/api/wire'
import { alternatives, measuredRecipe, probedBytes, savedShare, scrimGain, taken, withBudget, type Alternative } from '../../core/backdrop/advice'
import type { BackdropDocument } from '../../core/backdrop/BackdropDocument'
import { clipBudget, probeOf, recipeKey, type ClipRecipe } from '../../core/backdrop/recipe'
import type { ScreenClass } from '../../core/fit/screens'
import { ceilingSetting } from '../../core/weight/passes'
import { ProbeCurve } from '../../core/weight/ProbeCurve'
import { messageOf } from '../api/client'
import { MediaWorker } from '../worker/MediaWorker'
import type { Probed } from '../worker/probeClip'
import { placeOf, recipeSource, useWork } from './workStore'

/** An alternative with what it was measured to save: a share of the clip's bytes at the same setting of the encoder. */
export interface MeasuredAdvice extends Alternative {
  readonly saves: number
}

interface AdviceState {
  /** What the advice was measured for: the probe's key and the class. */
  readonly of: string | null
  readonly advice: readonly MeasuredAdvice[]
  readonly running: boolean
  readonly done: number
  readonly error: string | null
  /** Measures what could be given up for a class of screens, by short encodes of each. */
  measure(document: BackdropDocument, source: ClipSource, screenClass: ScreenClass): Promise<void>
  cancel(): void
}

let worker: MediaWorker | null = null
let abort: AbortController | null = null
/** How much coarser the scrim's settings are tried: quantizers so many times, rates their fourth power. */
const COARSER = [1, 1.08, 1.18, 1.3]

/** What advice is measured for. */
export function adviceKey(document: BackdropDocument, source: ClipSource, screenClass: ScreenClass): string | null {
  const recipe = measuredRecipe(document, recipeSource(source), screenClass)
  return recipe && `${recipeKey(recipe)} ${document.scrim.strength}`
}

/** Advice for one class at a time: each alternative is really encoded, in short, at the setting that the present file would have. */
export const useAdvice = create<AdviceState>((set, get) => ({
  of: null, advice: [], running: false, done: 0, error: null,
  async measure(document, source, screenClass) {
    get().cancel()
    const key = adviceKey(document, source, screenClass)
    const from = recipeSource(source)
    const recipe = measuredRecipe(document, from, screenClass)
    if (!recipe || !key) return
    const own = new AbortController()
    abort = own
    const { signal } = own
    set({ of: key, advice: [], running: true, done: 0, error: null })
    worker ??= new MediaWorker()
    const at = worker
    try {
      const base = await useWork.getState().makeProbe(source, probeOf(recipe), signal)
      const curve = new ProbeCurve(base.points, base.steering)
      const setting = Math.round(recipe.goal?.kind === 'quality'
        ? curve.coarsestThat((each) => curve.ssim(each) >= document.weight.ssim, base.bounds.finest, base.bounds.coarsest)
        : curve.finestWithin(clipBudget(document, screenClass), base.frames, ceilingSetting({ curve, bounds: base.bounds }), base.bounds.coarsest))
      const probe: Probe = (of, settings, contrasts = []) => at.run({ type: 'probe', place: placeOf(source), recipe: probeOf(of), settings, contrasts }, { signal })
      const settings = base.steering === 'quantizer' ? [setting] : null
      const present = settings ? (await probe(recipe, settings)).facts : base
      const all = alternatives(document, screenClass, source.analysis)
      for (const [index, alternative] of all.entries()) {
        const changed = measuredRecipe(taken(document, alternative), from, screenClass)
        const saves = alternative.id === 'phone-still' ? 1
          : alternative.id === 'scrim' ? await scrimSaving(probe, recipe, setting, base, document.scrim.strength, taken(document, alternative).scrim.strength)
            : !changed || recipeKey(changed) === recipeKey(recipe) ? null : savedShare(present, (await probe(changed, settings)).facts, setting)
        if (signal.aborted) return
        const advice = saves === null ? get().advice : [...get().advice, { ...(alternative.id === 'scrim' ? withBudget(alternative, document, screenClass, probedBytes(present, setting), saves) : alternative), saves }].sort((a, b) => b.saves - a.saves)
        set({ advice, done: (index + 1) / all.length })
      }
      set({ running: false })
    } catch (error) {
      if (!signal.aborted) set({ running: false, error: messageOf(error) })
    }
  },
  cancel() {
    abort?.abort()
    set({ running: false })
  },
}))

/** Short encodes of a clip; `settings` null for the usual ones. */
type Probe = (recipe: ClipRecipe, settings: readonly number[] | null, contrasts?: readonly number[]) => Promise<Probed>

/** What a stronger scrim saves: coarser settings are looked at behind both. */
async function scrimSaving(probe: Probe, recipe: ClipRecipe, setting: number, { steering, bounds }: ProbeFacts, now: number, stronger: number): Promise<number> {
  const settings = COARSER.map((times) => Math.round(steering === 'quantizer' ? Math.min(bounds.coarsest, setting * times) : Math.max(bounds.coarsest, setting / times ** 4)))
  const { facts, compared } = await probe(recipe, settings, [1 - now, 1 - stronger])
  const mean = (index: number, which: number): number => compared[index]!.reduce((sum, frame) => sum + frame.behind[which]!, 0) / compared[index]!.length
  return scrimGain(facts.points.map((point, index) => ({ bytes: probedBytes({ ...facts, points: [point] }, point.setting), now: mean(index, 0), stronger: mean(index, 1) })))
}
