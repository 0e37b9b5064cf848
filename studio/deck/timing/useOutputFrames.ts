import { useEffect, useState } from 'react'
import type { ClipSource } from '../../../core/api/wire'
import type { BackdropDocument } from '../../../core/backdrop/BackdropDocument'
import { pictureSize, proofRecipe, recipeKey } from '../../../core/backdrop/recipe'
import { renditionSize } from '../../../core/weight/renditionSize'
import { messageOf } from '../../api/client'
import { placeOf, recipeSource } from '../../state/workStore'
import { frameWorker } from '../../worker/frameWorker'

const AFTER_MS = 250

/** Output frames of the document's loop, composed as they are delivered, `width` pixels wide; all at once, null until they are there. */
export function useOutputFrames(document: BackdropDocument, source: ClipSource, numbers: readonly number[], width: number): { pictures: readonly ImageBitmap[] | null; error: string | null } {
  const [state, setState] = useState<{ pictures: readonly ImageBitmap[] | null; error: string | null }>({ pictures: null, error: null })
  const from = recipeSource(source)
  const recipe = { ...proofRecipe(document, from), ...renditionSize(pictureSize(document, from), width) }
  const key = `${recipeKey(recipe)} ${numbers.join()}`
  useEffect(() => {
    const abort = new AbortController()
    const got: ImageBitmap[] = []
    const timer = setTimeout(() => {
      frameWorker()
        .run({ type: 'output', place: placeOf(source), recipe, numbers }, { signal: abort.signal, onStep: ({ picture }) => void got.push(picture) })
        .then(
          () => !abort.signal.aborted && setState({ pictures: got, error: null }),
          (error: unknown) => !abort.signal.aborted && setState({ pictures: null, error: messageOf(error) }),
        )
    }, AFTER_MS)
    return () => {
      clearTimeout(timer)
      abort.abort()
      got.forEach((picture) => picture.close())
    }
    // The key says all of recipe and numbers.
  }, [source, key])
  return state
}
