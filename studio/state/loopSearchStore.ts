import { create } from 'zustand'
import type { ClipSource } from '../../core/api/wire'
import { recipeKey } from '../../core/backdrop/recipe'
import type { LoopRange } from '../../core/loop/findLoops'
import { api, mediaUrl, messageOf } from '../api/client'
import type { FoundLoop, SearchProgress } from '../worker/jobs/findLoopsInClip'
import { MediaWorker } from '../worker/MediaWorker'
import { WorkError } from '../worker/WorkError'
import { placeOf } from './workStore'

/** The search for loops of one clip: running, finished, or failed. */
export interface LoopSearch {
  readonly sourceSha256: string
  readonly range: LoopRange
  readonly state: 'running' | 'done' | 'failed' | 'stopped'
  readonly progress: SearchProgress
  /** When the present part of the work began, by `performance.now()`. */
  readonly phaseSince: number
  readonly message: string | null
  /** Best first. */
  readonly loops: readonly FoundLoop[]
}

interface LoopSearchState {
  readonly search: LoopSearch | null
  /** Looks for loops of a clip; what was found before makes room. */
  find(source: ClipSource, range: LoopRange): Promise<void>
  stop(): void
}

/** Loops that are offered: as many as fit side by side and can be distinguished. */
const OFFERED = 6

/**
 * What is kept with the source from its measuring or an earlier search; null where there is nothing
 * yet.
 */
async function storedTrace(key: string): Promise<Uint8Array | null> {
  const [found] = await api.findRenditions([key]).catch(() => [])
  if (!found) return null
  const answer = await fetch(mediaUrl(found.sha256)).catch(() => null)
  return answer?.ok ? new Uint8Array(await answer.arrayBuffer()) : null
}

/** The search for loops, in a worker of its own, so that stage and deck stay responsive. */
export const useLoopSearch = create<LoopSearchState>((set, get) => {
  let worker: MediaWorker | null = null
  let abort: AbortController | null = null
  return {
    search: null,
    async find(source, range) {
      abort?.abort()
      const own = new AbortController()
      abort = own
      get().search?.loops.forEach((loop) => loop.pictures.forEach((picture) => picture.close()))
      const change = (fields: Partial<LoopSearch>): void =>
        set((state) =>
          abort === own && state.search ? { search: { ...state.search, ...fields } } : {},
        )
      set({
        search: {
          sourceSha256: source.sha256,
          range,
          state: 'running',
          progress: { phase: 'comparing', done: 0 },
          phaseSince: performance.now(),
          message: null,
          loops: [],
        },
      })
      const recipe = { kind: 'trace', sourceSha256: source.sha256 } as const
      const key = recipeKey(recipe)
      const known = await storedTrace(key)
      worker ??= new MediaWorker()
      try {
        const { loops, trace, moments } = await worker.run(
          { type: 'find-loops', place: placeOf(source), trace: known, range, count: OFFERED },
          {
            signal: own.signal,
            onStep: (progress) =>
              change({
                progress,
                ...(get().search?.progress.phase === progress.phase
                  ? {}
                  : { phaseSince: performance.now() }),
              }),
          },
        )
        change({ state: 'done', loops })
        // Stored so that the next search need not decode the clip again. If storing fails, nothing
        // is lost.
        if (!known)
          await api.storeRendition(recipe, { kind: 'trace', moments }, trace).catch(() => undefined)
      } catch (error) {
        const stopped = error instanceof WorkError && error.code === 'work/cancelled'
        change({
          state: stopped ? 'stopped' : 'failed',
          message: stopped ? null : messageOf(error),
        })
      }
    },
    stop() {
      abort?.abort()
      set((state) =>
        state.search?.state === 'running' ? { search: { ...state.search, state: 'stopped' } } : {},
      )
    },
  }
})
