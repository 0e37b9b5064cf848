import type { ClipSource, Rendition } from '../../../../core/api/wire'
import type { FootageDocument } from '../FootageDocument'
import {
  clipBudget,
  clipRecipes,
  deliveredClasses,
  recipeKey,
} from '../../../../core/backdrop/recipe'
import { SCREENS } from '../../../../core/fit/screens'
import { toNumber } from '../../../../core/Fraction'
import { sourcesOf } from '../clipOf'

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
  document: FootageDocument,
  source: ClipSource,
  made: Readonly<Record<string, Rendition>>,
): LengthCost[] {
  const from = sourcesOf(source)
  const rate = toNumber(document.base.timing.frameRate)
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
