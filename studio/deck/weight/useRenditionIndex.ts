import { useEffect, useState } from 'react'
import type { Rendition } from '../../../core/api/wire'
import { mediaUrl, messageOf } from '../../api/client'
import { frameWorker } from '../../worker/frameWorker'
import type { Outcome } from '../../worker/messages'
import type { ClipPlace } from '../../worker/sources'

/** Where the worker finds a finished file. */
export function placeOfRendition(rendition: Rendition): ClipPlace {
  return { url: new URL(mediaUrl(rendition.sha256), location.href).href, bytes: rendition.bytes }
}

/** The index of a finished file: when its frames are shown, and what each takes. Null until it is there. */
export function useRenditionIndex(rendition: Rendition | undefined): { index: Outcome['index'] | null; error: string | null } {
  const [state, setState] = useState<{ index: Outcome['index'] | null; error: string | null }>({ index: null, error: null })
  useEffect(() => {
    setState({ index: null, error: null })
    if (!rendition) return
    const abort = new AbortController()
    frameWorker().run({ type: 'index', place: placeOfRendition(rendition) }, { signal: abort.signal }).then(
      (index) => !abort.signal.aborted && setState({ index, error: null }),
      (error: unknown) => !abort.signal.aborted && setState({ index: null, error: messageOf(error) }),
    )
    return () => abort.abort()
  }, [rendition])
  return state
}

/** Small pictures of some frames of a finished file, in their order; those that have not come yet are missing. */
export function useRenditionPictures(rendition: Rendition | undefined, numbers: readonly number[], width: number): ReadonlyMap<number, ImageBitmap> {
  const [pictures, setPictures] = useState<ReadonlyMap<number, ImageBitmap>>(new Map())
  const asked = numbers.join()
  useEffect(() => {
    setPictures(new Map())
    if (!rendition || numbers.length === 0) return
    const abort = new AbortController()
    const got = new Map<number, ImageBitmap>()
    frameWorker()
      .run({ type: 'frames', place: placeOfRendition(rendition), numbers, width, coarse: false }, {
        signal: abort.signal,
        onStep: ({ number, picture }) => {
          got.set(number, picture)
          setPictures(new Map(got))
        },
      })
      .catch(() => undefined)
    return () => {
      abort.abort()
      got.forEach((picture) => picture.close())
    }
    // The numbers are compared by what they are.
  }, [rendition, asked, width])
  return pictures
}
