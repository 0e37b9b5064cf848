import { useEffect, useEffectEvent, useMemo, useState } from 'react'
import type { BackdropDocument } from '../../core/backdrop/BackdropDocument'
import {
  clipRecipes,
  posterRecipes,
  probeOf,
  proofKey,
  proofRecipe,
  recipeKey,
} from '../../core/backdrop/recipe'
import { withoutWords } from '../../core/backdrop/writeWords'
import { SCREEN_CLASSES } from '../../core/fit/screens'
import { drawnLive, isRendered, rendersClips } from '../../core/backdrop/delivered'
import { hasClips, wordsOf } from '../../core/kinds'
import type { DeliveredClip, DeliveredMedia } from '../../core/kinds/DeliveredMedia'
import { kindView } from '../kinds'
import type { LoadedSources } from '../state/loadedSources'
import { finalRecipes, useWork } from '../state/workStore'
import { madeClip, madePosters } from './madeMedia'

const NO_POSTERS = { posters: [], placeholder: null }
const PROOF_AFTER_MS = 450
/** Until the server has said which files are made, it is asked again. */
const ASK_AGAIN_MS = 3000

/**
 * What the stage plays: the final files when all are made, else the proof; and whether it is stale.
 */
export interface StageMedia {
  readonly media: DeliveredMedia
  readonly shows: 'finals' | 'proof' | 'stand-in' | 'nothing'
}

/**
 * The media of a document, with its proof made by itself a moment after each change that matters.
 */
export function useStageMedia(document: BackdropDocument, sources: LoadedSources): StageMedia {
  const made = useWork((state) => state.made)
  const look = useWork((state) => state.look)
  const makeProof = useWork((state) => state.makeProof)
  const seen = useMediaParts(document)
  // With the probes that clips are steered by: the deck draws their curves.
  const keys = useMemo(
    () =>
      finalRecipes(seen, sources.known).flatMap((recipe) =>
        recipe.kind === 'clip'
          ? [recipeKey(probeOf(recipe)), recipeKey(recipe)]
          : [recipeKey(recipe)],
      ),
    [seen, sources],
  )
  const proofsKey = proofKey(seen, sources.known)

  useEffect(() => {
    let timer: ReturnType<typeof setTimeout> | undefined
    const ask = (): void =>
      void look(proofsKey ? [...keys, proofsKey] : keys).catch(() => {
        timer = setTimeout(ask, ASK_AGAIN_MS)
      })
    ask()
    return () => clearTimeout(timer)
  }, [keys, proofsKey, look])
  const prove = useEffectEvent(() => void makeProof(document, sources))
  useEffect(() => {
    const timer = setTimeout(prove, PROOF_AFTER_MS)
    return () => clearTimeout(timer)
    // Only the recipe matters: copy and scrim do not change the proof.
  }, [proofsKey, sources.key])

  return useMemo(() => {
    const from = sources.known
    const recipes = posterRecipes(seen, from)
    const posters = madePosters(recipes, (key) => made[key])
    const finals = clipRecipes(seen, from).map(({ screenClass, recipe }) =>
      madeClip(made[recipeKey(recipe)], screenClass, recipe),
    )
    const isWhole = rendersClips(seen) || posters.posters.length === recipes.length
    if (isWhole && finals.every((clip) => clip !== null))
      return { media: { ...posters, clips: finals as DeliveredClip[] }, shows: 'finals' as const }
    // In rendered posters are particles, which are still drawn over them.
    const below = isRendered(seen) ? NO_POSTERS : posters
    if (!hasClips(seen.base)) {
      const standIn = kindView(seen.base.kind).standInMedia(drawnLive(seen), sources)
      return { media: standIn ?? { ...below, clips: [] }, shows: 'stand-in' as const }
    }
    const recipe = proofRecipe(seen, from)
    const proof = recipe && madeClip(made[proofsKey], 'wide', recipe)
    return {
      media: { ...below, clips: proof ? [proof] : [] },
      shows: proof ? ('proof' as const) : ('nothing' as const),
    }
  }, [made, seen, sources, proofsKey])
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

/** Words of slides change with every key, too. */
const sameBase = (a: BackdropDocument, b: BackdropDocument, blurred: boolean): boolean =>
  a.base === b.base ||
  (!blurred &&
    wordsOf(a.base).length > 0 &&
    JSON.stringify(withoutWords(a).base) === JSON.stringify(withoutWords(b).base))

function sameFiles(a: BackdropDocument, b: BackdropDocument): boolean {
  const blurred = SCREEN_CLASSES.some((each) => b.weight.renditions[each].copyBlur > 0)
  return (
    sameBase(a, b, blurred) &&
    // Particles that are drawn are in no file.
    (a.particles === b.particles || !(isRendered(a) || isRendered(b))) &&
    a.weight === b.weight &&
    a.poster === b.poster &&
    a.tone === b.tone &&
    a.fit === b.fit &&
    a.behaviour.phone === b.behaviour.phone &&
    // Only a ground that is blurred behind the words depends on them.
    (!blurred || a.copy === b.copy)
  )
}
