import type { Rendition } from '../api/wire'
import type { BackdropDocument } from '../backdrop/BackdropDocument'
import { clipRecipes, posterRecipes, recipeKey, type RecipeSource } from '../backdrop/recipe'
import { fail, ok, type Result } from '../result'
import { clipPath, emitHandoff, posterPath, type EmittedFile } from './emitHandoff'
import type { DeliveredClip, DeliveredPoster } from './HandoffMedia'

/** What a folder is assembled from; `find` looks recipes up among what is made. */
export interface HandoffOrder {
  readonly name: string
  readonly document: BackdropDocument
  readonly source: RecipeSource
  readonly find: (keys: readonly string[]) => Promise<readonly Rendition[]>
  readonly script: string
}

/** A complete folder: texts, and media by the digest of their content. */
export interface AssembledHandoff {
  readonly texts: readonly EmittedFile[]
  readonly media: readonly { readonly path: string; readonly sha256: string; readonly bytes: number }[]
}

/** The keys of every file a handoff needs. */
export function handoffKeys(document: BackdropDocument, source: RecipeSource): string[] {
  return [...clipRecipes(document, source).map(({ recipe }) => recipeKey(recipe)), ...posterRecipes(document, source).map(recipeKey)]
}

/** Assembles the delivered folder, or tells which recipes are not made yet. */
export async function assembleHandoff(order: HandoffOrder): Promise<Result<AssembledHandoff, string[]>> {
  const { document, source } = order
  const keys = handoffKeys(document, source)
  const found = new Map((await order.find(keys)).map((rendition) => [rendition.key, rendition]))
  const missing = keys.filter((key) => !found.has(key))
  if (missing.length > 0) return fail(missing)

  const clips = clipRecipes(document, source).map(({ screenClass, recipe }): DeliveredClip & { sha256: string } => {
    const { facts, bytes, sha256 } = found.get(recipeKey(recipe))!
    const codec = facts.kind === 'clip' ? facts.codec : ''
    return { screenClass, family: recipe.family, codec, width: facts.width, height: facts.height, bytes, sha256, url: clipPath({ screenClass, ...recipe }) }
  })
  const posters = posterRecipes(document, source).map((recipe): DeliveredPoster & { sha256: string } => {
    const { facts, bytes, sha256 } = found.get(recipeKey(recipe))!
    return { format: recipe.format, width: facts.width, height: facts.height, bytes, sha256, url: posterPath(recipe) }
  })
  return ok({
    texts: emitHandoff({ name: order.name, document, media: { clips, posters }, script: order.script }),
    media: [...clips, ...posters].map(({ url, sha256, bytes }) => ({ path: url, sha256, bytes })),
  })
}
