import type { ClipSource, Rendition } from '../../core/api/wire'
import type { BackdropDocument } from '../../core/backdrop/BackdropDocument'
import { clipRecipes, containerOf, posterRecipes, recipeKey } from '../../core/backdrop/recipe'
import { clipPath, posterPath } from '../../core/handoff/emitHandoff'
import type { HandoffMedia } from '../../core/handoff/HandoffMedia'
import { recipeSource } from '../state/workStore'

/**
 * The media of the folder as the markup names them; files that are not rendered yet stand with what
 * is known of them.
 */
export function deliveredMedia(
  document: BackdropDocument,
  source: ClipSource,
  made: Readonly<Record<string, Rendition>>,
): HandoffMedia {
  const from = recipeSource(source)
  return {
    clips: clipRecipes(document, from).map(({ screenClass, recipe }) => {
      const rendition = made[recipeKey(recipe)]
      const codec = rendition?.facts.kind === 'clip' ? rendition.facts.codec : 'not rendered yet'
      const container = containerOf(recipe)
      return {
        screenClass,
        family: recipe.family,
        container,
        url: clipPath({ screenClass, container, ...recipe }),
        codec,
        width: recipe.width,
        height: recipe.height,
        bytes: rendition?.bytes ?? 0,
      }
    }),
    placeholder: null,
    posters: posterRecipes(document, from).map(({ screenClass, recipe }) => ({
      screenClass,
      format: recipe.format,
      url: posterPath({ screenClass, ...recipe }),
      width: recipe.width,
      height: recipe.height,
      bytes: made[recipeKey(recipe)]?.bytes ?? 0,
    })),
  }
}
