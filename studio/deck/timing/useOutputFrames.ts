import type { ClipSource } from '../../../core/api/wire'
import type { BackdropDocument } from '../../../core/backdrop/BackdropDocument'
import { pictureSize, proofRecipe, recipeKey } from '../../../core/backdrop/recipe'
import { renditionSize } from '../../../core/weight/renditionSize'
import { placeOf, recipeSource } from '../../state/workStore'
import { useAsync } from '../../ui/useAsync'
import { frameWorker } from '../../worker/frameWorker'

const AFTER_MS = 250

const closeAll = (pictures: readonly ImageBitmap[]): void =>
  pictures.forEach((picture) => picture.close())

/**
 * Output frames of the document's loop, composed as they are delivered, `width` pixels wide; all at
 * once, null until they are there.
 */
export function useOutputFrames(
  document: BackdropDocument,
  source: ClipSource,
  numbers: readonly number[],
  width: number,
): { pictures: readonly ImageBitmap[] | null; error: string | null } {
  const from = recipeSource(source)
  const recipe = {
    ...proofRecipe(document, from),
    ...renditionSize(pictureSize(document, from), width),
  }
  const { value, error } = useAsync<readonly ImageBitmap[]>(
    `${recipeKey(recipe)} ${numbers.join()}`,
    async (signal) => {
      const got: ImageBitmap[] = []
      const order = { type: 'output', place: placeOf(source), recipe, numbers } as const
      try {
        await frameWorker().run(order, { signal, onStep: ({ picture }) => void got.push(picture) })
      } catch (problem) {
        closeAll(got)
        throw problem
      }
      return got
    },
    { delayMs: AFTER_MS, dispose: closeAll },
  )
  return { pictures: value, error }
}
