import { useEffect, useMemo } from 'react'
import type { ClipSource } from '../../core/api/wire'
import type { BackdropDocument } from '../../core/backdrop/BackdropDocument'
import { clipRecipes, posterRecipes, probeOf, proofRecipe, recipeKey } from '../../core/backdrop/recipe'
import { SCREEN_CLASSES } from '../../core/fit/screens'
import type { DeliveredClip, HandoffMedia } from '../../core/handoff/HandoffMedia'
import { finalRecipes, recipeSource, useWork } from '../state/workStore'
import { madeClip, madePosters } from './madeMedia'

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
  const { timing, weight, behaviour, picture, still, fit } = document
  // Only a ground that is blurred behind the words depends on them.
  const words = SCREEN_CLASSES.some((each) => weight.ladder[each].soften > 0) ? document.copy : null
  // With the probes that clips are steered by: the deck draws their curves.
  const keys = useMemo(() => finalRecipes(document, source).flatMap((recipe) => (recipe.kind === 'clip' ? [recipeKey(probeOf(recipe)), recipeKey(recipe)] : [recipeKey(recipe)])), [timing, weight, picture, still, behaviour.phone, fit, words, source])
  const proofKey = recipeKey(proofRecipe(document, recipeSource(source)))

  useEffect(() => void look([...keys, proofKey]), [keys, proofKey, look])
  useEffect(() => {
    const timer = setTimeout(() => void makeProof(document, source), PROOF_AFTER_MS)
    return () => clearTimeout(timer)
    // Only the recipe matters: copy and scrim change nothing in the proof.
  }, [proofKey, makeProof, source])

  return useMemo(() => {
    const from = recipeSource(source)
    const stills = madePosters(posterRecipes(document, from), (key) => made[key])
    const finals = clipRecipes(document, from).map(({ screenClass, recipe }) => madeClip(made[recipeKey(recipe)], screenClass, recipe))
    if (finals.every((clip) => clip !== null)) return { media: { ...stills, clips: finals as DeliveredClip[] }, shows: 'finals' as const }
    const proof = madeClip(made[proofKey], 'wide', proofRecipe(document, from))
    return { media: { ...stills, clips: proof ? [proof] : [] }, shows: proof ? ('proof' as const) : ('nothing' as const) }
  }, [made, timing, weight, picture, still, behaviour.phone, fit, words, source, proofKey])
}
