import { useEffect, useState } from 'react'
import type { Rendition } from '../../core/api/wire'
import { passJob } from '../../core/backdrop/passJob'
import { probeOf, recipeKey, type ClipRecipe } from '../../core/backdrop/recipe'
import { forecast, type Forecast } from '../../core/weight/forecast'
import { atFullEffort } from '../../core/weight/native/atFullEffort'
import { messageOf } from '../api/client'
import { FORMAT_NAMES } from '../ui/format'
import type { LoadedSources } from './loadedSources'
import { useWork } from './workStore'

/** The expected size of a file from its probe; null without a probe. */
export function forecastOf(
  recipe: ClipRecipe,
  made: Readonly<Record<string, Rendition>>,
): Forecast | null {
  const facts = made[recipeKey(probeOf(recipe))]?.facts
  return facts?.kind === 'probe' && recipe.goal
    ? forecast(passJob(recipe, recipe.goal, atFullEffort(facts, recipe.encoder)))
    : null
}

/** Renders missing probes of clips: `probing` is their progress, or why they failed. */
export function useProbing(
  sources: LoadedSources,
  unprobed: readonly { readonly recipe: ClipRecipe }[],
) {
  const makeProbe = useWork((state) => state.makeProbe)
  const [probing, setProbing] = useState<{
    readonly words: string
    readonly abort: AbortController | null
  } | null>(null)
  useEffect(() => () => probing?.abort?.abort(), [probing?.abort])
  const probe = async (): Promise<void> => {
    const abort = new AbortController()
    try {
      for (const { recipe } of unprobed) {
        const tell = (done: number): void =>
          setProbing({
            words: `${FORMAT_NAMES[recipe.family]}, ${Math.round(done * 100)} %`,
            abort,
          })
        tell(0)
        await makeProbe(sources, probeOf(recipe), abort.signal, tell)
      }
      setProbing(null)
    } catch (error) {
      setProbing(abort.signal.aborted ? null : { words: messageOf(error), abort: null })
    }
  }
  return { probing, probe }
}
