import type { Rendition } from '../../../core/api/wire'
import type { BackdropDocument } from '../../../core/backdrop/BackdropDocument'
import { passJob } from '../../../core/backdrop/passJob'
import { clipRecipes, probeOf, recipeKey } from '../../../core/backdrop/recipe'
import type { ScreenClass } from '../../../core/fit/screens'
import type { Family } from '../../../core/weight/families'
import { atFullEffort } from '../../../core/weight/native/atFullEffort'
import { floorBytes } from '../../../core/weight/passes'
import type { LoadedSources } from '../../state/loadedSources'

/** A format that cannot make a clip as light as its budget asks; bytes of the file. */
export interface OverFloor {
  readonly screenClass: ScreenClass
  readonly family: Family
  readonly floor: number
  readonly budgetBytes: number
}

/** Clips whose budget is below the minimum size of their encoder, as far as they were probed. */
export function overFloors(
  document: BackdropDocument,
  sources: LoadedSources,
  made: Readonly<Record<string, Rendition>>,
): OverFloor[] {
  return clipRecipes(document, sources.known).flatMap(({ screenClass, recipe }) => {
    const facts = made[recipeKey(probeOf(recipe))]?.facts
    if (facts?.kind !== 'probe' || recipe.goal?.kind !== 'budget') return []
    // A probe sees a little of the clip: the file itself knows better.
    const own = made[recipeKey(recipe)]?.bytes
    if (own !== undefined && own <= recipe.goal.bytes) return []
    const job = passJob(recipe, recipe.goal, atFullEffort(facts, recipe.encoder))
    const data = floorBytes(job)
    if (data === null) return []
    const floor = data + job.overhead(data)
    return floor > recipe.goal.bytes
      ? [
          {
            screenClass,
            family: recipe.family,
            floor: Math.max(Math.round(floor), own ?? 0),
            budgetBytes: recipe.goal.bytes,
          },
        ]
      : []
  })
}
