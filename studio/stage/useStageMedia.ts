import { useEffect, useMemo } from 'react'
import type { ClipSource } from '../../core/api/wire'
import type { BackdropDocument } from '../../core/backdrop/BackdropDocument'
import { clipRecipes, posterRecipes, proofRecipe, recipeKey } from '../../core/backdrop/recipe'
import type { DeliveredClip, DeliveredPoster, HandoffMedia } from '../../core/handoff/HandoffMedia'
import { mediaUrl } from '../api/client'
import { finalRecipes, recipeSource, useWork } from '../state/workStore'

const PROOF_AFTER_MS = 450

/** What the stage plays: the final files when all are made, else the proof; and whether it is stale. */
export interface StageMedia {
  readonly media: HandoffMedia
  readonly shows: 'finals' | 'proof' | 'nothing'
}

/** The media of a document, with its proof made by itself a moment after each change that matters. */
export function useStageMedia(document: BackdropDocument, source: ClipSource): StageMedia {
  const made = useWork((state) => state.made)
  const look = useWork((state) => state.look)
  const makeProof = useWork((state) => state.makeProof)
  const { timing, weight, behaviour } = document
  const keys = useMemo(() => finalRecipes(document, source).map(recipeKey), [timing, weight, behaviour.phone, source])
  const proofKey = recipeKey(proofRecipe(document, recipeSource(source)))

  useEffect(() => void look([...keys, proofKey]), [keys, proofKey, look])
  useEffect(() => {
    const timer = setTimeout(() => void makeProof(document, source), PROOF_AFTER_MS)
    return () => clearTimeout(timer)
    // Only the recipe matters: copy and scrim change nothing in the proof.
  }, [proofKey, makeProof, source])

  return useMemo(() => {
    const from = recipeSource(source)
    const posters = posterRecipes(document, from).flatMap((recipe): DeliveredPoster[] => {
      const rendition = made[recipeKey(recipe)]
      return rendition ? [{ format: recipe.format, url: mediaUrl(rendition.sha256, `image/${recipe.format}`), width: recipe.width, height: recipe.height, bytes: rendition.bytes }] : []
    })
    const finals = clipRecipes(document, from).map(({ screenClass, recipe }) => clipOf(made[recipeKey(recipe)], screenClass, recipe.family))
    if (finals.every((clip) => clip !== null)) return { media: { posters, clips: finals as DeliveredClip[] }, shows: 'finals' as const }
    const proof = clipOf(made[proofKey], 'wide', 'h264')
    return { media: { posters, clips: proof ? [proof] : [] }, shows: proof ? ('proof' as const) : ('nothing' as const) }
  }, [made, timing, weight, behaviour.phone, source, proofKey])
}

function clipOf(rendition: ReturnType<typeof useWork.getState>['made'][string] | undefined, screenClass: DeliveredClip['screenClass'], family: DeliveredClip['family']): DeliveredClip | null {
  if (!rendition || rendition.facts.kind !== 'clip') return null
  const { type, codec, width, height } = rendition.facts
  return { screenClass, family, codec, width, height, bytes: rendition.bytes, url: mediaUrl(rendition.sha256, type) }
}
