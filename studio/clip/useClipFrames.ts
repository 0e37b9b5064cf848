import { useEffect, useEffectEvent, useMemo, useState, useSyncExternalStore } from 'react'
import type { ClipSource } from '../../core/api/wire'
import type { Footage } from '../../core/kinds/footage/Footage'
import { frameAt, type Presentation } from '../../core/media/presentation'
import { frameWorker } from '../state/frameWorker'
import { useMadeProxy } from '../state/madeProxyStore'
import { placeOf, useWork } from '../state/workStore'
import { useAsync } from '../ui/useAsync'
import { Scrubber } from './Scrubber'
import { StripPictures } from './StripPictures'

/** A clip's frame times, for exact cuts. */
export type ClipIndex = Omit<Presentation, 'order'> & { readonly keys: readonly number[] }

/** Reads a source's index; null until it is there. */
export function useClipIndex(source: ClipSource): {
  index: ClipIndex | null
  error: string | null
} {
  const { value, error } = useAsync<ClipIndex>(source.sha256, (signal) =>
    frameWorker().run({ type: 'index', place: placeOf(source) }, { signal }),
  )
  return { index: value, error }
}

const ASK_AFTER_MS = 90

/**
 * Pictures of frames, arriving one by one; those that were there before are there at once. With a
 * `step` above one frame, a key frame near by may stand in for a frame.
 */
export function useStripPictures(
  source: ClipSource,
  numbers: readonly number[],
  step: number,
): ReadonlyMap<number, ImageBitmap> {
  const [pictures] = useState(() => new StripPictures())
  const version = useSyncExternalStore(pictures.subscribe, pictures.getVersion)
  const asked = numbers.join()
  useEffect(() => () => pictures.clear(), [pictures, source.sha256])
  const ask = useEffectEvent((signal: AbortSignal): void => {
    const missing = numbers.filter((number) => !pictures.find(number, step))
    if (missing.length === 0) return
    const order = {
      type: 'frames',
      place: placeOf(source),
      numbers: missing,
      width: 200,
      coarse: step > 1,
    } as const
    const onStep = ({ number, picture }: { number: number; picture: ImageBitmap }): void =>
      pictures.add(number, step, picture)
    frameWorker()
      .run(order, { signal, onStep })
      .catch(() => undefined)
  })
  useEffect(() => {
    const abort = new AbortController()
    // While the view is moving nothing is requested that will be out of sight in a moment.
    const timer = setTimeout(() => ask(abort.signal), ASK_AFTER_MS)
    return () => {
      clearTimeout(timer)
      abort.abort()
      pictures.trim()
    }
    // The numbers are compared by what they are, not by which list they stand in.
  }, [source.sha256, asked, step, pictures])
  return useMemo(() => {
    void version
    const found = new Map<number, ImageBitmap>()
    for (const number of asked === '' ? [] : asked.split(',').map(Number)) {
      const picture = pictures.find(number, step)
      if (picture) found.set(number, picture)
    }
    return found
  }, [asked, step, pictures, version])
}

/** Shows exact source frames on the stage while the hand is on the deck. */
export function useScrubber(source: ClipSource, shape: Footage['picture']): Scrubber {
  const { sha256 } = source
  // A new one for new content only: measurements that arrive meanwhile must not stop a hand.
  const [made, setMade] = useState(() => ({ sha256, scrubber: new Scrubber(source, shape) }))
  if (made.sha256 !== sha256) setMade({ sha256, scrubber: new Scrubber(source, shape) })
  const { scrubber } = made
  useEffect(() => scrubber.setShape(shape), [scrubber, shape])
  return scrubber
}

const PROXY_AFTER_MS = 900
/** Frames that the proxy covers at most: two minutes at 25 a second. */
const MAX_PROXY_FRAMES = 3000
/** The part that a proxy covers moves in steps, so that small changes of the cut keep it. */
const PROXY_STEP_FRAMES = 1000

/**
 * Prepares the scrub proxy of a clip once the stage has its proof; of long clips only the part
 * around `middleTicks`. Returns the share done while it is being prepared, else null.
 */
export function useScrubProxy(
  source: ClipSource,
  index: ClipIndex | null,
  middleTicks: number,
): number | null {
  const isProving = useWork((state) => state.proof?.state === 'running')
  const first = index ? firstOfProxy(index, middleTicks) : 0
  const wanted = `${source.sha256} ${first}`
  const held = useMadeProxy((state) => state.proxy)
  const key = index && !isProving && held !== wanted ? wanted : null
  const { value } = useAsync<number>(
    key,
    async (signal, emit) => {
      const last = Math.min((index?.times.length ?? 1) - 1, first + MAX_PROXY_FRAMES - 1)
      const order = { type: 'proxy', place: placeOf(source), first, last } as const
      emit(0)
      await frameWorker().run(order, { signal, onStep: ({ done }) => emit(done) })
      useMadeProxy.setState({ proxy: wanted })
      return 1
    },
    { delayMs: PROXY_AFTER_MS },
  )
  return value === null || value === 1 ? null : value
}

function firstOfProxy(index: ClipIndex, middleTicks: number): number {
  const middle = frameAt(index, middleTicks)
  const first = Math.round((middle - MAX_PROXY_FRAMES / 2) / PROXY_STEP_FRAMES) * PROXY_STEP_FRAMES
  return Math.max(0, Math.min(index.times.length - MAX_PROXY_FRAMES, first))
}
