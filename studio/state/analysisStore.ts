import { useStore } from 'zustand'
import { createStore, type StoreApi } from 'zustand/vanilla'
import type { Source, SourceCard } from '../../core/api/wire'
import { mimeOf } from '../../core/media/image/mimeOf'
import { api, mediaUrl, messageOf, type Api } from '../api/client'
import { shelfChanged } from '../api/queries'
import { MediaWorker } from '../worker/MediaWorker'
import { WorkError } from '../worker/WorkError'

/** The measuring of one source: queued, running, or failed. */
export interface Measuring {
  readonly id: string
  readonly state: 'queued' | 'running' | 'failed' | 'stopped'
  /** 0 to 1. */
  readonly done: number
  readonly startedAt: number | null
  readonly message: string | null
}

type Measurable = Pick<SourceCard, 'id' | 'projectId' | 'sha256' | 'facts'>

interface AnalysisState {
  readonly jobs: Readonly<Record<string, Measuring>>
  /**
   * Measures each source that is not measured yet, one after another; cancelled and failed ones
   * wait until they are requested again.
   */
  ensure(sources: readonly Measurable[]): void
  /** Measures a source before all that wait, unless it is measured or was stopped. */
  measureFirst(source: Measurable): void
  again(source: Measurable): void
  stop(id: string): void
}

/** Whether there is anything to measure: drawings have no pixels of their own. */
export function isMeasurable({ facts }: Pick<SourceCard, 'facts'>): boolean {
  return facts.kind === 'clip' ? facts.video.family !== 'other' : facts.format !== 'svg'
}

/** What the store needs; tests replace it. */
export interface AnalysisParts {
  readonly api: Pick<Api, 'storeRendition' | 'storeAnalysis'>
  readonly newWorker: () => Pick<MediaWorker, 'run'>
  /** Called when the measurements of a source of this project are stored. */
  readonly onMeasured: (projectId: string) => void
  /** The address of stored content, by its digest. */
  readonly addressOf: (sha256: string) => string
  readonly now: () => number
}

/** Measures new material in a worker of its own, while work continues elsewhere. */
export function createAnalysisStore(parts: AnalysisParts): StoreApi<AnalysisState> {
  return createStore<AnalysisState>((set, get) => {
    const waiting: Measurable[] = []
    let worker: Pick<MediaWorker, 'run'> | null = null
    let current: { id: string; abort: AbortController } | null = null
    /** Content that was measured here: a view may still have the card without measurements. */
    const measured = new Set<string>()
    const contentOf = ({ id, sha256 }: Measurable): string => `${id} ${sha256}`

    const change = (id: string, fields: Partial<Measuring>): void =>
      set((state) =>
        state.jobs[id] ? { jobs: { ...state.jobs, [id]: { ...state.jobs[id], ...fields } } } : {},
      )
    const drop = (id: string): void => set(({ jobs: { [id]: _, ...jobs } }) => ({ jobs }))

    const measure = async (
      { id, sha256, facts }: Measurable,
      signal: AbortSignal,
    ): Promise<Source> => {
      worker ??= parts.newWorker()
      const place = { url: parts.addressOf(sha256), bytes: facts.bytes }
      const onStep = ({ done }: { done: number }): void => change(id, { done })
      const { analysis, strip, trace } =
        facts.kind === 'clip'
          ? await worker.run({ type: 'analyse', place }, { signal, onStep })
          : await worker.run(
              { type: 'analyse-image', place, mime: mimeOf(facts.format) },
              { signal },
            )
      // The search for loops can do without: it then describes the clip itself.
      if (trace)
        await parts.api
          .storeRendition(
            { kind: 'trace', sourceSha256: sha256 },
            { kind: 'trace', moments: trace.moments },
            trace.bytes,
          )
          .catch(() => undefined)
      return parts.api.storeAnalysis(id, analysis, strip.cells, strip.bytes)
    }

    const next = async (): Promise<void> => {
      const source = current ? undefined : waiting.shift()
      if (!source) return
      const abort = new AbortController()
      current = { id: source.id, abort }
      change(source.id, { state: 'running', done: 0, startedAt: parts.now() })
      try {
        await measure(source, abort.signal)
        measured.add(contentOf(source))
        drop(source.id)
        parts.onMeasured(source.projectId)
      } catch (error) {
        const stopped = error instanceof WorkError && error.code === 'work/cancelled'
        change(source.id, {
          state: stopped ? 'stopped' : 'failed',
          message: stopped ? null : messageOf(error),
        })
      }
      current = null
      void next()
    }

    const enqueue = (source: Measurable, isFirst = false): void => {
      if (isFirst) waiting.unshift(source)
      else waiting.push(source)
      set((state) => ({
        jobs: {
          ...state.jobs,
          [source.id]: { id: source.id, state: 'queued', done: 0, startedAt: null, message: null },
        },
      }))
    }

    return {
      jobs: {},
      ensure(sources) {
        for (const source of sources)
          if (!get().jobs[source.id] && !measured.has(contentOf(source)) && isMeasurable(source))
            enqueue(source)
        void next()
      },
      measureFirst(source) {
        const place = waiting.findIndex(({ id }) => id === source.id)
        if (place > 0) waiting.unshift(...waiting.splice(place, 1))
        const isNew = !get().jobs[source.id] && !measured.has(contentOf(source))
        if (isNew && isMeasurable(source)) enqueue(source, true)
        void next()
      },
      again(source) {
        enqueue(source)
        void next()
      },
      stop(id) {
        if (current?.id === id) {
          current.abort.abort()
          return
        }
        const place = waiting.findIndex((source) => source.id === id)
        if (place >= 0) waiting.splice(place, 1)
        change(id, { state: 'stopped' })
      },
    }
  })
}

const store = createAnalysisStore({
  api,
  newWorker: () => new MediaWorker(),
  onMeasured: (projectId) => void shelfChanged(projectId),
  addressOf: (sha256) => new URL(mediaUrl(sha256), location.href).href,
  now: () => performance.now(),
})

/** The measuring of new material. */
export const useAnalysis = Object.assign(
  <T>(selector: (state: AnalysisState) => T): T => useStore(store, selector),
  { getState: store.getState },
)
