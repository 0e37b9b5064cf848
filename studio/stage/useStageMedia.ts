import { useEffect, useEffectEvent, useMemo, useState } from 'react'
import type { ClipSource } from '../../core/api/wire'
import type { BackdropDocument } from '../../core/backdrop/BackdropDocument'
import {
  clipRecipes,
  posterRecipes,
  probeOf,
  proofRecipe,
  recipeKey,
} from '../../core/backdrop/recipe'
import { SCREEN_CLASSES } from '../../core/fit/screens'
import type { DeliveredClip, HandoffMedia } from '../../core/handoff/HandoffMedia'
import { finalRecipes, recipeSource, useWork } from '../state/workStore'
import { madeClip, madePosters } from './madeMedia'

const PROOF_AFTER_MS = 450
/** Until the server has said which files are made, it is asked again. */
const ASK_AGAIN_MS = 3000

/**
 * What the stage plays: the final files when all are made, else the proof; and whether it is stale.
 */
export interface StageMedia {
  readonly media: HandoffMedia
  readonly shows: 'finals' | 'proof' | 'nothing'
}

/**
 * The media of a document, with its proof made by itself a moment after each change that matters.
 */
export function useStageMedia(document: BackdropDocument, source: ClipSource): StageMedia {
  const made = useWork((state) => state.made)
  const look = useWork((state) => state.look)
  const makeProof = useWork((state) => state.makeProof)
  const seen = useMediaParts(document)
  // With the probes that clips are steered by: the deck draws their curves.
  const keys = useMemo(
    () =>
      finalRecipes(seen, source).flatMap((recipe) =>
        recipe.kind === 'clip'
          ? [recipeKey(probeOf(recipe)), recipeKey(recipe)]
          : [recipeKey(recipe)],
      ),
    [seen, source],
  )
  const proofKey = recipeKey(proofRecipe(seen, recipeSource(source)))

  useEffect(() => {
    let timer: ReturnType<typeof setTimeout> | undefined
    const ask = (): void =>
      void look([...keys, proofKey]).catch(() => {
        timer = setTimeout(ask, ASK_AGAIN_MS)
      })
    ask()
    return () => clearTimeout(timer)
  }, [keys, proofKey, look])
  const prove = useEffectEvent(() => void makeProof(document, source))
  useEffect(() => {
    const timer = setTimeout(prove, PROOF_AFTER_MS)
    return () => clearTimeout(timer)
    // Only the recipe matters: copy and scrim do not change the proof.
  }, [proofKey, source.id])

  return useMemo(() => {
    const from = recipeSource(source)
    const posters = madePosters(posterRecipes(seen, from), (key) => made[key])
    const finals = clipRecipes(seen, from).map(({ screenClass, recipe }) =>
      madeClip(made[recipeKey(recipe)], screenClass, recipe),
    )
    if (finals.every((clip) => clip !== null)) {
      return { media: { ...posters, clips: finals as DeliveredClip[] }, shows: 'finals' as const }
    }
    const proof = madeClip(made[proofKey], 'wide', proofRecipe(seen, from))
    return {
      media: { ...posters, clips: proof ? [proof] : [] },
      shows: proof ? ('proof' as const) : ('nothing' as const),
    }
  }, [made, seen, source, proofKey])
}

/**
 * A document that stays the same object as long as nothing changes that files are made from: words
 * and colours change with every key, and no file depends on them.
 */
function useMediaParts(document: BackdropDocument): BackdropDocument {
  const [kept, setKept] = useState(document)
  if (kept === document || sameFiles(kept, document)) return kept
  setKept(document)
  return document
}

function sameFiles(a: BackdropDocument, b: BackdropDocument): boolean {
  const softened = SCREEN_CLASSES.some((each) => b.weight.renditions[each].soften > 0)
  return (
    a.material === b.material &&
    a.timing === b.timing &&
    a.weight === b.weight &&
    a.picture === b.picture &&
    a.poster === b.poster &&
    a.fit === b.fit &&
    a.behaviour.phone === b.behaviour.phone &&
    // Only a ground that is blurred behind the words depends on them.
    (!softened || a.copy === b.copy)
  )
}
