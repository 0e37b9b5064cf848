import type { Rendition } from '../api/wire'
import type { BackdropDocument } from '../backdrop/BackdropDocument'
import {
  clipRecipes,
  containerOf,
  posterRecipes,
  recipeKey,
  type RecipeSource,
} from '../backdrop/recipe'
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
  readonly media: readonly {
    readonly path: string
    readonly sha256: string
    readonly bytes: number
  }[]
}

/** The keys of every file a handoff needs. */
export function handoffKeys(document: BackdropDocument, source: RecipeSource): string[] {
  return [
    ...clipRecipes(document, source).map(({ recipe }) => recipeKey(recipe)),
    ...posterRecipes(document, source).map(({ recipe }) => recipeKey(recipe)),
  ]
}

/** Assembles the delivered folder, or lists the recipes that are not rendered yet. */
export async function assembleHandoff(
  order: HandoffOrder,
): Promise<Result<AssembledHandoff, string[]>> {
  const { document, source } = order
  const keys = handoffKeys(document, source)
  const found = new Map((await order.find(keys)).map((rendition) => [rendition.key, rendition]))
  const missing = keys.filter((key) => !found.has(key))
  if (missing.length > 0) return fail(missing)

  const clips = clipRecipes(document, source).map(({ screenClass, recipe }) => {
    const { facts, bytes, sha256 } = found.get(recipeKey(recipe))!
    if (facts.kind !== 'clip') throw new Error(`${recipeKey(recipe)} is no clip`)
    const container = containerOf(recipe)
    const clip: DeliveredClip = {
      screenClass,
      family: recipe.family,
      container,
      codec: facts.codec,
      width: facts.width,
      height: facts.height,
      bytes,
      url: clipPath({ screenClass, container, ...recipe }),
    }
    return { clip, facts, sha256 }
  })
  const posters = posterRecipes(document, source).map(({ screenClass, recipe }) => {
    const { facts, bytes, sha256 } = found.get(recipeKey(recipe))!
    if (facts.kind !== 'poster') throw new Error(`${recipeKey(recipe)} is not a poster`)
    const poster: DeliveredPoster = {
      screenClass,
      format: recipe.format,
      width: facts.width,
      height: facts.height,
      bytes,
      url: posterPath({ screenClass, ...recipe }),
    }
    return { poster, facts, sha256 }
  })
  return ok({
    texts: emitHandoff({
      name: order.name,
      document,
      script: order.script,
      media: {
        clips: clips.map(({ clip }) => clip),
        posters: posters.map(({ poster }) => poster),
        placeholder: posters[0]?.facts.placeholder ?? null,
      },
      figures: {
        clips: clips.map(({ facts }) => facts),
        posters: posters.map(({ facts }) => facts),
      },
    }),
    media: [
      ...clips.map(({ clip, sha256 }) => ({ path: clip.url, sha256, bytes: clip.bytes })),
      ...posters.map(({ poster, sha256 }) => ({ path: poster.url, sha256, bytes: poster.bytes })),
    ],
  })
}
