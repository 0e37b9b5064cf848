import type { Rendition } from '../../core/api/wire'
import type { BackdropDocument } from '../../core/backdrop/BackdropDocument'
import { firstVisits } from '../../core/backdrop/firstVisit'
import {
  classServing,
  clipRecipes,
  posterMaxBytes,
  posterRecipes,
  recipeKey,
} from '../../core/backdrop/recipe'
import type { Sources } from '../../core/kinds/Kind'
import type { Particles } from '../../core/particles/Particles'
import { forecastOf } from '../state/useProbing'
import { formatBytes } from '../ui/format'

type Made = Readonly<Record<string, Rendition>>

/** A document in one of the two forms. */
export const inForm = (document: BackdropDocument, form: Particles['form']): BackdropDocument => ({
  ...document,
  particles: { ...document.particles!, form },
})

/** The clips that laptops get. */
export function laptopClips(document: BackdropDocument, known: Sources) {
  const clips = clipRecipes(document, known)
  const served = classServing(
    'laptop',
    clips.map(({ screenClass }) => screenClass),
  )
  return clips.filter(({ screenClass }) => screenClass === served)
}

/**
 * What a first visit takes on a laptop, as far as it is known: files that are made, clips as short
 * encodes expect them, posters as large as they may be.
 */
export function laptopVisit(document: BackdropDocument, known: Sources, made: Made): string {
  const clips = laptopClips(document, known).map(({ screenClass, recipe }) => ({
    screenClass,
    family: recipe.family,
    bytes: made[recipeKey(recipe)]?.bytes ?? forecastOf(recipe, made)?.bytes ?? 0,
  }))
  const posters = posterRecipes(document, known).map(({ screenClass, slide, recipe }) => ({
    screenClass,
    format: recipe.format,
    ...(slide !== undefined && { slide }),
    bytes: made[recipeKey(recipe)]?.bytes ?? posterMaxBytes(document, screenClass),
  }))
  const visit = firstVisits(document, { clips, posters }).find(
    ({ screenClass }) => screenClass === 'laptop',
  )!
  if (clips.some(({ bytes }) => bytes === 0))
    return `up to ${formatBytes(visit.budgetBytes)}, its budget`
  return `up to ${formatBytes(visit.total)}`
}
