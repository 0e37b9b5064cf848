import type { Rendition } from '../../core/api/wire'
import {
  containerOf,
  recipeKey,
  type ClipRecipe,
  type posterRecipes,
} from '../../core/backdrop/recipe'
import type {
  DeliveredClip,
  DeliveredPoster,
  DeliveredMedia,
} from '../../core/kinds/DeliveredMedia'
import { mediaUrl } from '../api/client'

/** A finished clip as the stage's markup refers to it; null where it is not made. */
export function madeClip(
  rendition: Rendition | undefined,
  screenClass: DeliveredClip['screenClass'],
  recipe: Pick<ClipRecipe, 'family' | 'sequence'>,
): DeliveredClip | null {
  if (!rendition || rendition.facts.kind !== 'clip') return null
  const { type, codec, width, height } = rendition.facts
  return {
    screenClass,
    family: recipe.family,
    container: containerOf(recipe),
    codec,
    width,
    height,
    bytes: rendition.bytes,
    url: mediaUrl(rendition.sha256, type),
  }
}

/** The finished ones among some posters, with the placeholder that came with the first. */
export function madePosters(
  recipes: ReturnType<typeof posterRecipes>,
  find: (key: string) => Rendition | undefined,
): Pick<DeliveredMedia, 'posters' | 'placeholder'> {
  const made = recipes.flatMap(({ screenClass, density, slide, recipe }) => {
    const rendition = find(recipeKey(recipe))
    if (rendition?.facts.kind !== 'poster') return []
    const { type, placeholder, width, height } = rendition.facts
    const poster: DeliveredPoster = {
      screenClass,
      density,
      ...(slide !== undefined && { slide }),
      format: recipe.format,
      url: mediaUrl(rendition.sha256, type),
      width,
      height,
      bytes: rendition.bytes,
    }
    return [{ poster, placeholder }]
  })
  return { posters: made.map(({ poster }) => poster), placeholder: made[0]?.placeholder ?? null }
}
