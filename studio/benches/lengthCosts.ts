import type { ClipSource, Rendition } from '../../core/api/wire'
import type { BackdropDocument } from '../../core/backdrop/BackdropDocument'
import { clipBudget, clipRecipes, deliveredClasses, recipeKey } from '../../core/backdrop/recipe'
import { SCREENS } from '../../core/fit/screens'
import { toNumber } from '../../core/loop/Fraction'
import { recipeSource } from '../state/workStore'

/** What a second of the loop takes on a screen, and the budget there; bytes. */
export interface LengthCost {
  readonly label: string
  readonly bytesPerSecond: number
  readonly budgetBytes: number
}

/**
 * The bytes of one second of the loop on each screen: from finished files of this clip at the same
 * size, with any cut; the heaviest format counts.
 */
export function lengthCosts(
  document: BackdropDocument,
  source: ClipSource,
  made: Readonly<Record<string, Rendition>>,
): LengthCost[] {
  const from = recipeSource(source)
  const rate = toNumber(document.timing.frameRate)
  return deliveredClasses(document, from).flatMap((screenClass) => {
    const recipes = clipRecipes(document, from).filter((each) => each.screenClass === screenClass)
    const heaviest = recipes
      .map(({ recipe }) => {
        const exact = made[recipeKey(recipe)]
        const prefix = recipeKey(recipe).split(`:${recipe.family}:`)[0]! + `:${recipe.family}:`
        const like =
          exact ?? Object.values(made).find((rendition) => rendition.key.startsWith(prefix))
        return like?.facts.kind === 'clip' ? (like.bytes * rate) / like.facts.frames : 0
      })
      .reduce((max, value) => Math.max(max, value), 0)
    return heaviest > 0
      ? [
          {
            label: SCREENS[screenClass].label,
            bytesPerSecond: heaviest,
            budgetBytes: clipBudget(document, screenClass),
          },
        ]
      : []
  })
}
