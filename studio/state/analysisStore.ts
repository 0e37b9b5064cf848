import { create } from 'zustand'
import type { Source, SourceCard } from '../../core/api/wire'
import { mimeOf } from '../../core/media/image/mimeOf'
import { api, mediaUrl, messageOf } from '../api/client'
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
  again(source: Measurable): void
  stop(id: string): void
}

/** Whether there is anything to measure: drawings have no pixels of their own. */
export function isMeasurable({ facts }: Pick<SourceCard, 'facts'>): boolean {
  return facts.kind === 'clip' ? facts.video.family !== 'other' : facts.format !== 'svg'
}

/** Measures new material in a worker of its own, while work continues elsewhere. */
export const useAnalysis = create<AnalysisState>((set, get) => {
  const waiting: Measurable[] = []
  let worker: MediaWorker | null = null
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
    worker ??= new MediaWorker()
    const place = { url: new URL(mediaUrl(sha256), location.href).href, bytes: facts.bytes }
    const onStep = ({ done }: { done: number }): void => change(id, { done })
    const { analysis, strip, trace } =
      facts.kind === 'clip'
        ? await worker.run({ type: 'analyse', place }, { signal, onStep })
        : await worker.run({ type: 'analyse-still', place, mime: mimeOf(facts.format) }, { signal })
    // The search for loops can do without: it then describes the clip itself.
    if (trace)
      await api
        .storeRendition(
          { kind: 'trace', sourceSha256: sha256 },
          { kind: 'trace', moments: trace.moments },
          trace.bytes,
        )
        .catch(() => undefined)
    return api.storeAnalysis(id, analysis, strip.cells, strip.bytes)
  }

  const next = async (): Promise<void> => {
    const source = current ? undefined : waiting.shift()
    if (!source) return
    const abort = new AbortController()
    current = { id: source.id, abort }
    change(source.id, { state: 'running', done: 0, startedAt: performance.now() })
    try {
      await measure(source, abort.signal)
      measured.add(contentOf(source))
      drop(source.id)
      void shelfChanged(source.projectId)
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

  const enqueue = (source: Measurable): void => {
    waiting.push(source)
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
