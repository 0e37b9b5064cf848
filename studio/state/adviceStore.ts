import { create } from 'zustand'
import type { ClipSource } from '../../core/api/wire'
import { alternatives, measuredRecipe, probedBytes, scrimGain, taken, type Alternative } from '../../core/backdrop/advice'
import type { BackdropDocument } from '../../core/backdrop/BackdropDocument'
import { clipBudget, probeOf, recipeKey } from '../../core/backdrop/recipe'
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
/** How much coarser the scrim's settings are tried. */
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
      const ceiling = ceilingSetting({ curve, bounds: base.bounds })
      const setting = Math.round(recipe.goal?.kind === 'quality'
        ? curve.coarsestThat((each) => curve.ssim(each) >= document.weight.ssim, base.bounds.finest, base.bounds.coarsest)
        : curve.finestWithin(clipBudget(document, screenClass), base.frames, ceiling, base.bounds.coarsest))
      const probe = (order: Partial<Parameters<MediaWorker['run']>[0]>, of = recipe): Promise<Probed> =>
        at.run({ type: 'probe', place: placeOf(source), recipe: probeOf(of), settings: [setting], ...order } as never, { signal }) as Promise<Probed>
      const present = probedBytes((await probe({})).facts, setting)
      const all = alternatives(document, screenClass, source.analysis)
      for (const [index, alternative] of all.entries()) {
        const saves = await savingOf(alternative, document, screenClass, present, setting, source, probe)
        if (signal.aborted) return
        const advice = saves === null ? get().advice : [...get().advice, { ...alternative, saves }].sort((a, b) => b.saves - a.saves)
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

async function savingOf(
  alternative: Alternative, document: BackdropDocument, screenClass: ScreenClass, present: number, setting: number, source: ClipSource, probe: (order: { settings?: number[]; contrasts?: number[] }, of?: NonNullable<ReturnType<typeof measuredRecipe>>) => Promise<Probed>,
): Promise<number | null> {
  if (alternative.id === 'phone-still') return 1
  if (alternative.id === 'scrim') {
    const stronger = taken(document, alternative).scrim.strength
    const settings = COARSER.map((times) => Math.round(setting * times))
    const { facts, compared } = await probe({ settings, contrasts: [1 - document.scrim.strength, 1 - stronger] })
    const mean = (index: number, which: number): number => compared[index]!.reduce((sum, frame) => sum + frame.behind[which]!, 0) / compared[index]!.length
    return scrimGain(facts.points.map((point, index) => ({ bytes: point.keyBytes + (facts.frames - 1) * point.frameBytes, now: mean(index, 0), stronger: mean(index, 1) })))
  }
  const changed = measuredRecipe(taken(document, alternative), recipeSource(source), screenClass)
  if (!changed) return null
  return 1 - probedBytes((await probe({}, changed)).facts, setting) / present
}
