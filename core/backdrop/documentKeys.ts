import type { BackdropDocument } from './BackdropDocument'
import {
  clipRecipes,
  posterRecipes,
  probeOf,
  proofRecipe,
  recipeKey,
  type RecipeSource,
} from './recipe'

/**
 * The keys of every file that a document shows or is made with: final clips with their probes,
 * posters, proof, trace.
 */
export function documentKeys(document: BackdropDocument, source: RecipeSource): string[] {
  const clips = clipRecipes(document, source).map(({ recipe }) => recipe)
  return [
    recipeKey({ kind: 'trace', sourceSha256: source.sha256 }),
    recipeKey(proofRecipe(document, source)),
    ...clips.flatMap((recipe) => [recipeKey(recipe), recipeKey(probeOf(recipe))]),
    ...posterRecipes(document, source).map(({ recipe }) => recipeKey(recipe)),
  ]
}
