import { useEffect, useMemo, useRef, useState } from 'react'
import type { ClipSource } from '../../core/api/wire'
import type { BackdropDocument } from '../../core/backdrop/BackdropDocument'
import { proofRecipe, recipeKey } from '../../core/backdrop/recipe'
import { frameAt, type Presentation } from '../../core/media/presentation'
import { isPlain } from '../../core/picture/pictureShape'
import { messageOf } from '../api/client'
import { placeOf, recipeSource, useWork } from '../state/workStore'
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

/** Pictures that a filmstrip keeps: a few screens of them. */
const MOST_PICTURES = 500
const ASK_AFTER_MS = 90

/**
 * Pictures of frames, arriving one by one; those that were there before are there at once. With a `step` above one frame, a key frame near
 * by may stand in for a frame.
 */
export function useStripPictures(source: ClipSource, numbers: readonly number[], step: number): ReadonlyMap<number, ImageBitmap> {
  const held = useRef(new Map<string, ImageBitmap>())
  const [, redraw] = useState(0)
  const asked = numbers.join()
  useEffect(() => {
    held.current.forEach((picture) => picture.close())
    held.current.clear()
  }, [source.sha256])
  useEffect(() => {
    const missing = numbers.filter((number) => !held.current.has(`${step} ${number}`) && !held.current.has(`1 ${number}`))
    if (missing.length === 0) return
    const abort = new AbortController()
    // While the view still moves nothing is asked for that will be out of sight in a moment.
    const timer = setTimeout(() => {
      frameWorker()
        .run({ type: 'frames', place: placeOf(source), numbers: missing, width: 200, coarse: step > 1 }, {
          signal: abort.signal,
          onStep: ({ number, picture }) => {
            held.current.set(`${step} ${number}`, picture)
            redraw((count) => count + 1)
          },
        })
        .catch(() => undefined)
    }, ASK_AFTER_MS)
    return () => {
      clearTimeout(timer)
      abort.abort()
      for (const [key, picture] of held.current) {
        if (held.current.size <= MOST_PICTURES) break
        picture.close()
        held.current.delete(key)
      }
    }
    // The numbers are compared by what they are, not by which list they stand in.
  }, [source, asked, step])
  const found = new Map<number, ImageBitmap>()
  for (const number of numbers) {
    const picture = held.current.get(`1 ${number}`) ?? held.current.get(`${step} ${number}`)
    if (picture) found.set(number, picture)
  }
  return found
}

/** When a hand rests so long, the frame is decoded at full size. */
const SETTLE_MS = 140
const STAGE_WIDTH = 1280

/** Shows exact source frames on the stage: the latest asked for wins; first from the scrub proxy where there is one, then at full size. */
export function useScrubber(source: ClipSource, shape: BackdropDocument['picture']): { show: (number: number) => void; hold: () => void; end: () => void } {
  const state = useRef({ abort: null as AbortController | null, busy: false, next: null as number | null, timer: 0, shape })
  state.current.shape = shape

  return useMemo(() => {
    const own = state.current
    const read = async (number: number, quick: boolean): Promise<void> => {
      own.busy = true
      const controller = new AbortController()
      own.abort = controller
      await frameWorker()
        .run({ type: 'exact', place: placeOf(source), number, width: STAGE_WIDTH, quick, shape: own.shape }, { signal: controller.signal })
        .then(
          (outcome) => {
            if (useStage.getState().held === null) return
            useStage.getState().set({ scrub: { number, picture: outcome.picture } })
            if (outcome.quick && own.next === null) own.timer = window.setTimeout(() => (own.busy ? undefined : void read(number, false)), SETTLE_MS)
          },
          (error: unknown) => {
            if (!(error instanceof WorkError) || error.code !== 'work/cancelled') useStage.getState().set({ scrub: null })
          },
        )
      own.busy = false
      const waiting = own.next
      own.next = null
      if (waiting !== null) void read(waiting, true)
    }
    return {
      show(number) {
        clearTimeout(own.timer)
        useStage.getState().set({ scrubbing: true, held: number })
        if (own.busy) own.next = number
        else void read(number, true)
      },
      /** The hand lets go: the frame stays on the stage until something plays. */
      hold: () => useStage.getState().set({ scrubbing: false }),
      end() {
        clearTimeout(own.timer)
        own.next = null
        own.abort?.abort()
        useStage.getState().set({ scrub: null, scrubbing: false, held: null })
      },
    }
  }, [source])
}

const PROXY_AFTER_MS = 900
/** Frames that the proxy covers at most: two minutes at 25 a second. */
const MOST_PROXY_FRAMES = 3000

/** Makes the scrub proxy of a clip once the stage has its proof; of long clips the part around `middleTicks`. The share done while it is made, else null. */
export function useScrubProxy(source: ClipSource, index: ClipIndex | null, middleTicks: number): number | null {
  const [done, setDone] = useState<number | null>(null)
  const proving = useWork((state) => state.proof?.state === 'running')
  const middle = index ? frameAt(index, middleTicks) : 0
  const first = index ? Math.max(0, Math.min(index.times.length - MOST_PROXY_FRAMES, Math.round((middle - MOST_PROXY_FRAMES / 2) / 1000) * 1000)) : 0
  useEffect(() => {
    if (!index || proving) return
    const abort = new AbortController()
    const last = Math.min(index.times.length - 1, first + MOST_PROXY_FRAMES - 1)
    const timer = setTimeout(() => {
      if (madeProxy === `${source.sha256} ${first}`) return
      setDone(0)
      frameWorker()
        .run({ type: 'proxy', place: placeOf(source), first, last }, { signal: abort.signal, onStep: (step) => setDone(step.done) })
        .then(() => (madeProxy = `${source.sha256} ${first}`), () => undefined)
        // Without a proxy frames come from the clip itself, only later.
        .finally(() => setDone(null))
    }, PROXY_AFTER_MS)
    return () => {
      clearTimeout(timer)
      abort.abort()
    }
  }, [source, index, first, proving])
  return done
}

/** Which proxy the worker holds. */
let madeProxy = ''

/** The loop's exact first frame, for a stage that has no proof yet; null while there is none or none is wanted. */
export function useFirstFrame(document: BackdropDocument, source: ClipSource, wanted: boolean): ImageBitmap | null {
  const [picture, setPicture] = useState<ImageBitmap | null>(null)
  const recipe = proofRecipe(document, recipeSource(source))
  const key = recipeKey(recipe)
  useEffect(() => {
    setPicture(null)
    if (!wanted) return
    const abort = new AbortController()
    frameWorker()
      .run({ type: 'output', place: placeOf(source), recipe: isPlain(recipe.shape) ? { ...recipe, width: recipe.width * 2, height: recipe.height * 2 } : recipe, numbers: [0] }, {
        signal: abort.signal,
        onStep: (step) => !abort.signal.aborted && setPicture(step.picture),
      })
      // The proof tells what is wrong with the clip; a stand-in needs no second message.
      .catch(() => undefined)
    return () => abort.abort()
    // The key says all of the recipe.
  }, [source, key, wanted])
  return picture
}
