import { create } from 'zustand'
import { measuredRecipe } from '../../core/backdrop/advice'
import type { BackdropDocument } from '../../core/backdrop/BackdropDocument'
import { measureAdvice, type MeasuredAdvice } from '../../core/backdrop/measureAdvice'
import { probeOf, recipeKey } from '../../core/backdrop/recipe'
import type { ScreenClass } from '../../core/fit/screens'
import { messageOf } from '../api/client'
import { MediaWorker } from '../worker/MediaWorker'
import type { LoadedSources } from './loadedSources'
import { placesFor, useWork } from './workStore'

interface AdviceState {
  /** What the advice was measured for: the probe's key and the class. */
  readonly of: string | null
  /** What saves most first. */
  readonly advice: readonly MeasuredAdvice[]
  readonly running: boolean
  readonly done: number
  readonly error: string | null
  /** Measures by short encodes what would make a class of screens lighter. */
  measure(
    document: BackdropDocument,
    sources: LoadedSources,
    screenClass: ScreenClass,
  ): Promise<void>
  cancel(): void
}

/** What advice is measured for. */
export function adviceKey(
  document: BackdropDocument,
  sources: LoadedSources,
  screenClass: ScreenClass,
): string | null {
  const recipe = measuredRecipe(document, sources.known, screenClass)
  return recipe && `${recipeKey(recipe)} ${JSON.stringify(document.scrim)}`
}

/** Advice for one class at a time. */
export const useAdvice = create<AdviceState>((set, get) => {
  let worker: MediaWorker | null = null
  let abort: AbortController | null = null
  return {
    of: null,
    advice: [],
    running: false,
    done: 0,
    error: null,
    async measure(document, sources, screenClass) {
      get().cancel()
      const key = adviceKey(document, sources, screenClass)
      const from = sources.known
      const measured = measuredRecipe(document, from, screenClass)
      if (!measured || !key) return
      // What is changed is tried with this browser's encoders, so what it is compared with is, too.
      const recipe = { ...measured, encoder: null }
      const own = new AbortController()
      abort = own
      const { signal } = own
      set({ of: key, advice: [], running: true, done: 0, error: null })
      worker ??= new MediaWorker()
      const at = worker
      try {
        const base = await useWork.getState().makeProbe(sources, probeOf(recipe), signal)
        const steps = measureAdvice({
          document,
          known: from,
          screenClass,
          analysis: sources.all.length === 1 ? sources.all[0]!.analysis : null,
          base,
          run: (of, settings, contrasts) =>
            at.run(
              { type: 'probe', places: placesFor(of, sources), recipe: of, settings, contrasts },
              { signal },
            ),
        })
        for await (const { done, advice } of steps) {
          if (signal.aborted) return
          set({
            done,
            advice: advice
              ? [...get().advice, advice].sort((a, b) => b.saves - a.saves)
              : get().advice,
          })
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
  }
})
