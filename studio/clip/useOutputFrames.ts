import type { AnySequence } from '../../core/kinds'
import { sequenceKey } from '../../core/kinds/Sequence'
import { renditionSize } from '../../core/weight/renditionSize'
import { frameWorker } from '../state/frameWorker'
import { useAsync } from '../ui/useAsync'
import type { Places } from '../worker/sources'

const AFTER_MS = 250

const closeAll = (pictures: readonly ImageBitmap[]): void =>
  pictures.forEach((picture) => picture.close())

/**
 * Output frames of a sequence, composed as they are delivered, `width` pixels wide; all at once,
 * null until they are there.
 */
export function useOutputFrames(
  sequence: AnySequence | null,
  places: Places,
  numbers: readonly number[],
  width: number,
): { pictures: readonly ImageBitmap[] | null; error: string | null } {
  const { value, error } = useAsync<readonly ImageBitmap[]>(
    sequence && `${sequenceKey(sequence)} ${width} ${numbers.join()}`,
    async (signal) => {
      const got: ImageBitmap[] = []
      const order = {
        type: 'output',
        places,
        sequence: sequence!,
        ...renditionSize(sequence!.size, width),
        copyBlur: null,
        numbers,
      } as const
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
