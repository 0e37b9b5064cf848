import type { Rendition } from '../../core/api/wire'
import type { BackdropDocument } from '../../core/backdrop/BackdropDocument'
import {
  clipRecipes,
  posterRecipes,
  probeOf,
  recipeKey,
  type ProbeRecipe,
  type Recipe,
} from '../../core/backdrop/recipe'
import type { Sources } from '../../core/kinds/Kind'
import { mediaUrl } from '../api/client'
import type { Places } from '../worker/sources'
import { absolute, type LoadedSources } from './loadedSources'

/**
 * Where the worker finds what a recipe is made from: the inputs of its sequence, and the image from
 * the shelf that a poster may show.
 */
export function placesFor(recipe: Recipe | ProbeRecipe, { places }: LoadedSources): Places {
  if (recipe.kind !== 'poster' || recipe.picture.kind !== 'source') return places
  const { sha256, bytes } = recipe.picture
  return { ...places, [sha256]: { url: absolute(mediaUrl(sha256)), bytes } }
}

/** All recipes of a document's final files. */
export function finalRecipes(document: BackdropDocument, known: Sources): Recipe[] {
  return [...posterRecipes(document, known), ...clipRecipes(document, known)].map(
    ({ recipe }) => recipe,
  )
}

/** Whether a document's files are rendered by a render worker instead of this tab. */
export const rendersApart = ({ weight }: Pick<BackdropDocument, 'weight'>): boolean =>
  Object.values(weight.encoders).some((encoder) => encoder !== null)

/**
 * What is left to be made for a document, in order: each clip that is missing behind its probe, by
 * which it is steered and which other budgets share. Render workers probe by themselves.
 */
export function missingWork(
  document: BackdropDocument,
  known: Sources,
  made: Readonly<Record<string, Rendition>>,
): (Recipe | ProbeRecipe)[] {
  const missing = finalRecipes(document, known).filter((recipe) => !made[recipeKey(recipe)])
  if (rendersApart(document)) return missing
  const work = missing.flatMap((recipe): (Recipe | ProbeRecipe)[] => {
    const needsProbe = recipe.kind === 'clip' && !made[recipeKey(probeOf(recipe))]
    return needsProbe ? [probeOf(recipe), recipe] : [recipe]
  })
  // Screens with the same picture but other budgets share a probe.
  return [...new Map(work.map((recipe) => [recipeKey(recipe), recipe])).values()]
}
