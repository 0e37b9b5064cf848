import type { Rendition } from '../../../core/api/wire'
import { mediaUrl } from '../../api/client'
import { frameWorker } from '../../state/frameWorker'
import { useAsync } from '../../ui/useAsync'
import type { Outcome } from '../../worker/messages'
import type { ClipPlace } from '../../worker/sources'

/** Where the worker finds a finished file. */
export function placeOfRendition(rendition: Rendition): ClipPlace {
  return { url: new URL(mediaUrl(rendition.sha256), location.href).href, bytes: rendition.bytes }
}

/**
 * The index of a finished file: when its frames are shown, and what each takes. Null until it is
 * there.
 */
export function useRenditionIndex(rendition: Rendition | undefined): {
  index: Outcome['index'] | null
  error: string | null
} {
  const { value, error } = useAsync<Outcome['index']>(rendition?.sha256 ?? null, (signal) =>
    frameWorker().run({ type: 'index', place: placeOfRendition(rendition!) }, { signal }),
  )
  return { index: value, error }
}

const NONE: ReadonlyMap<number, ImageBitmap> = new Map()

/**
 * Small pictures of some frames of a finished file, in their order; those that have not come yet
 * are missing.
 */
export function useRenditionPictures(
  rendition: Rendition | undefined,
  numbers: readonly number[],
  width: number,
): ReadonlyMap<number, ImageBitmap> {
  const key =
    rendition && numbers.length > 0 ? `${rendition.sha256} ${width} ${numbers.join()}` : null
  const { value } = useAsync<ReadonlyMap<number, ImageBitmap>>(
    key,
    async (signal, emit) => {
      let got = NONE
      const order = {
        type: 'frames',
        place: placeOfRendition(rendition!),
        numbers,
        width,
        coarse: false,
      } as const
      const onStep = ({ number, picture }: { number: number; picture: ImageBitmap }): void =>
        emit((got = new Map([...got, [number, picture]])))
      await frameWorker()
        .run(order, { signal, onStep })
        .catch(() => undefined)
      return got
    },
    { dispose: (pictures) => pictures.forEach((picture) => picture.close()) },
  )
  return value ?? NONE
}
