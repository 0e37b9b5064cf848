import { useEffect, useRef, useState } from 'react'
import type { ClipSource } from '../../core/api/wire'
import { frameAt, type Presentation } from '../../core/media/presentation'
import { messageOf } from '../api/client'
import { placeOf } from '../state/workStore'
import { useStage } from '../state/stageStore'
import { frameWorker } from '../worker/frameWorker'
import { WorkError } from '../worker/WorkError'

/** A clip's frame times, for exact cuts. */
export type ClipIndex = Omit<Presentation, 'order'> & { readonly keys: readonly number[] }

/** Reads a source's index; null until it is there. */
export function useClipIndex(source: ClipSource): { index: ClipIndex | null; error: string | null } {
  const [state, setState] = useState<{ index: ClipIndex | null; error: string | null }>({ index: null, error: null })
  useEffect(() => {
    const abort = new AbortController()
    setState({ index: null, error: null })
    frameWorker().run({ type: 'index', place: placeOf(source) }, { signal: abort.signal }).then(
      (index) => !abort.signal.aborted && setState({ index, error: null }),
      (error: unknown) => !abort.signal.aborted && setState({ index: null, error: messageOf(error) }),
    )
    return () => abort.abort()
  }, [source])
  return state
}

/** Pictures along a clip, `count` of them, arriving one by one. */
export function useFilmstrip(source: ClipSource, index: ClipIndex | null, count: number): readonly (ImageBitmap | null)[] {
  const [pictures, setPictures] = useState<(ImageBitmap | null)[]>([])
  useEffect(() => {
    if (!index || count === 0) return
    const abort = new AbortController()
    const numbers = Array.from({ length: count }, (_, cell) => frameAt(index, ((cell + 0.5) / count) * index.length))
    const got = numbers.map((): ImageBitmap | null => null)
    setPictures(got)
    frameWorker()
      .run({ type: 'frames', place: placeOf(source), numbers, width: 200, coarse: true }, {
        signal: abort.signal,
        onStep: ({ number, picture }) => {
          if (abort.signal.aborted) return
          numbers.forEach((wanted, cell) => wanted === number && (got[cell] = picture))
          setPictures([...got])
        },
      })
      .catch(() => undefined)
    return () => abort.abort()
  }, [source, index, count])
  return pictures
}

/** Shows exact source frames on the stage: the latest asked for wins, older requests are cancelled. */
export function useScrubber(source: ClipSource): { show: (number: number) => void; end: () => void } {
  const abort = useRef<AbortController | null>(null)
  const busy = useRef(false)
  const next = useRef<number | null>(null)

  const read = async (number: number): Promise<void> => {
    busy.current = true
    const controller = new AbortController()
    abort.current = controller
    await frameWorker()
      .run({ type: 'frames', place: placeOf(source), numbers: [number], width: 1280, coarse: false }, {
        signal: controller.signal,
        onStep: ({ picture }) => useStage.getState().scrubbing && useStage.getState().set({ scrub: picture }),
      })
      .catch((error: unknown) => {
        if (!(error instanceof WorkError) || error.code !== 'work/cancelled') useStage.getState().set({ scrub: null })
      })
    busy.current = false
    const waiting = next.current
    next.current = null
    if (waiting !== null) void read(waiting)
  }

  return {
    show(number) {
      useStage.getState().set({ scrubbing: true })
      if (busy.current) next.current = number
      else void read(number)
    },
    end() {
      next.current = null
      abort.current?.abort()
      useStage.getState().set({ scrub: null, scrubbing: false })
    },
  }
}

/** The exact first frame of a cut, for a stage that has no proof yet; null while there is none or none is wanted. */
export function useFirstFrame(source: ClipSource, index: ClipIndex | null, startTicks: number, wanted: boolean): ImageBitmap | null {
  const [picture, setPicture] = useState<ImageBitmap | null>(null)
  useEffect(() => {
    setPicture(null)
    if (!wanted || !index) return
    const abort = new AbortController()
    frameWorker()
      .run({ type: 'frames', place: placeOf(source), numbers: [frameAt(index, startTicks)], width: 1280, coarse: false }, {
        signal: abort.signal,
        onStep: (step) => !abort.signal.aborted && setPicture(step.picture),
      })
      // The proof tells what is wrong with the clip; a stand-in needs no second message.
      .catch(() => undefined)
    return () => abort.abort()
  }, [source, index, startTicks, wanted])
  return picture
}
