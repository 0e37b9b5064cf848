import type { Sources } from '../kinds/Kind'
import type { BackdropDocument } from './BackdropDocument'
import { clipRecipes, posterRecipes, probeOf, proofRecipe, recipeKey } from './recipe'

/**
 * The keys of every file that a document shows or is made with: final clips with their probes,
 * posters, proof, traces.
 */
export function documentKeys(document: BackdropDocument, known: Sources): string[] {
  const clips = clipRecipes(document, known).map(({ recipe }) => recipe)
  const proof = proofRecipe(document, known)
  return [
    ...(proof?.sequence.inputs ?? []).map((sourceSha256) =>
      recipeKey({ kind: 'trace', sourceSha256 }),
    ),
    ...(proof ? [recipeKey(proof)] : []),
    ...clips.flatMap((recipe) => [recipeKey(recipe), recipeKey(probeOf(recipe))]),
    ...posterRecipes(document, known).map(({ recipe }) => recipeKey(recipe)),
  ]
}
