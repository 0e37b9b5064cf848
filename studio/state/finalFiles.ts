import type { ClipSource, Rendition } from '../../core/api/wire'
import type { BackdropDocument } from '../../core/backdrop/BackdropDocument'
import {
  clipRecipes,
  posterRecipes,
  probeOf,
  recipeKey,
  type ProbeRecipe,
  type Recipe,
  type RecipeSource,
} from '../../core/backdrop/recipe'
import { mediaUrl } from '../api/client'
import type { ClipPlace } from '../worker/sources'

/** Size and digest of a source as recipes want them. */
export function recipeSource(source: ClipSource): RecipeSource {
  const { displayWidth, displayHeight } = source.facts.video
  return { sha256: source.sha256, width: displayWidth, height: displayHeight }
}

/** Where the worker finds a source. */
export function placeOf(source: ClipSource) {
  return { url: new URL(mediaUrl(source.sha256), location.href).href, bytes: source.facts.bytes }
}

/**
 * Where the worker finds the image from the shelf that a poster is made from; null for all others.
 */
export function placeOfPosterSource(recipe: Recipe | ProbeRecipe): ClipPlace | null {
  if (recipe.kind !== 'poster' || recipe.picture.kind !== 'source') return null
  const { sha256, bytes } = recipe.picture
  return { url: new URL(mediaUrl(sha256), location.href).href, bytes }
}

/** All recipes of a document's final files. */
export function finalRecipes(document: BackdropDocument, source: ClipSource): Recipe[] {
  const from = recipeSource(source)
  return [...posterRecipes(document, from), ...clipRecipes(document, from)].map(
    ({ recipe }) => recipe,
  )
}

/**
 * What is left to be made for a document, in order: each clip that is missing behind its probe, by
 * which it is steered and which other budgets share.
 */
export function missingWork(
  document: BackdropDocument,
  source: ClipSource,
  made: Readonly<Record<string, Rendition>>,
): (Recipe | ProbeRecipe)[] {
  const missing = finalRecipes(document, source).filter((recipe) => !made[recipeKey(recipe)])
  const work = missing.flatMap((recipe): (Recipe | ProbeRecipe)[] => {
    const needsProbe = recipe.kind === 'clip' && !made[recipeKey(probeOf(recipe))]
    return needsProbe ? [probeOf(recipe), recipe] : [recipe]
  })
  // Screens with the same picture but other budgets share a probe.
  return [...new Map(work.map((recipe) => [recipeKey(recipe), recipe])).values()]
}
