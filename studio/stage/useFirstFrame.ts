import type { BackdropDocument } from '../../core/backdrop/BackdropDocument'
import { sequenceOf } from '../../core/backdrop/delivered'
import { sequenceKey } from '../../core/kinds/Sequence'
import { renditionSize } from '../../core/weight/renditionSize'
import { kindView } from '../kinds'
import { frameWorker } from '../state/frameWorker'
import type { LoadedSources } from '../state/loadedSources'
import { useAsync } from '../ui/useAsync'

/** Sharp enough for a stage, in pixels. */
const FIRST_FRAME_WIDTH = 1280

/**
 * The loop's exact first frame, for a stage that has no proof yet; where this browser cannot decode
 * the clip, the nearest picture of its filmstrip. Null while there is none or none is wanted.
 */
export function useFirstFrame(
  document: BackdropDocument,
  sources: LoadedSources,
  wanted: boolean,
): ImageBitmap | null {
  const sequence = sequenceOf(document, sources.known)
  // The proof reports what is wrong with the clip; a proxy needs no second message.
  const { value } = useAsync<ImageBitmap | null>(
    wanted && sequence ? sequenceKey(sequence) : null,
    async (signal, emit) => {
      const order = {
        type: 'output',
        places: sources.places,
        sequence: sequence!,
        ...renditionSize(sequence!.size, FIRST_FRAME_WIDTH),
        copyBlur: null,
        numbers: [0],
      } as const
      let first: ImageBitmap | null = null
      const onStep = ({ picture }: { picture: ImageBitmap }): void => emit((first = picture))
      try {
        await frameWorker().run(order, { signal, onStep })
      } catch (error) {
        if (signal.aborted) throw error
        first = await kindView(document.base.kind).standIn(document, sources)
        if (!first) throw error
      }
      return first
    },
  )
  return value
}
