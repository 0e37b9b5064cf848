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
    const queue = new AnalysisQueue(parts, set, get)
    return {
      jobs: {},
      ensure: (sources) => queue.ensure(sources),
      measureFirst: (source) => queue.measureFirst(source),
      again: (source) => queue.again(source),
      stop: (id) => queue.stop(id),
    }
  })
}

const contentOf = ({ id, sha256 }: Measurable): string => `${id} ${sha256}`

/** Sources that wait to be measured, and the one that is. */
class AnalysisQueue {
  private readonly parts: AnalysisParts
  private readonly set: StoreApi<AnalysisState>['setState']
  private readonly get: StoreApi<AnalysisState>['getState']
  private readonly waiting: Measurable[] = []
  private worker: Pick<MediaWorker, 'run'> | null = null
  private current: { readonly id: string; readonly abort: AbortController } | null = null
  /** Content that was measured here: a view may still have the card without measurements. */
  private readonly measured = new Set<string>()

  constructor(
    parts: AnalysisParts,
    set: StoreApi<AnalysisState>['setState'],
    get: StoreApi<AnalysisState>['getState'],
  ) {
    this.parts = parts
    this.set = set
    this.get = get
  }

  ensure(sources: readonly Measurable[]): void {
    for (const source of sources) if (this.isNew(source)) this.enqueue(source)
    void this.next()
  }

  measureFirst(source: Measurable): void {
    const { waiting } = this
    const place = waiting.findIndex(({ id }) => id === source.id)
    if (place > 0) waiting.unshift(...waiting.splice(place, 1))
    if (this.isNew(source)) this.enqueue(source, true)
    void this.next()
  }

  again(source: Measurable): void {
    this.enqueue(source)
    void this.next()
  }

  stop(id: string): void {
    if (this.current?.id === id) {
      this.current.abort.abort()
      return
    }
    const place = this.waiting.findIndex((source) => source.id === id)
    if (place >= 0) this.waiting.splice(place, 1)
    this.change(id, { state: 'stopped' })
  }

  private isNew(source: Measurable): boolean {
    const known = this.get().jobs[source.id] ?? this.measured.has(contentOf(source))
    return !known && isMeasurable(source)
  }

  private enqueue(source: Measurable, isFirst = false): void {
    if (isFirst) this.waiting.unshift(source)
    else this.waiting.push(source)
    this.set((state) => ({
      jobs: {
        ...state.jobs,
        [source.id]: { id: source.id, state: 'queued', done: 0, startedAt: null, message: null },
      },
    }))
  }

  private change(id: string, fields: Partial<Measuring>): void {
    this.set((state) =>
      state.jobs[id] ? { jobs: { ...state.jobs, [id]: { ...state.jobs[id], ...fields } } } : {},
    )
  }

  private async next(): Promise<void> {
    const source = this.current ? undefined : this.waiting.shift()
    if (!source) return
    const abort = new AbortController()
    this.current = { id: source.id, abort }
    this.change(source.id, { state: 'running', done: 0, startedAt: this.parts.now() })
    try {
      await this.measure(source, abort.signal)
      this.measured.add(contentOf(source))
      this.set(({ jobs: { [source.id]: _, ...jobs } }) => ({ jobs }))
      this.parts.onMeasured(source.projectId)
    } catch (error) {
      const stopped = error instanceof WorkError && error.code === 'work/cancelled'
      this.change(source.id, {
        state: stopped ? 'stopped' : 'failed',
        message: stopped ? null : messageOf(error),
      })
    }
    this.current = null
    void this.next()
  }

  private async measure({ id, sha256, facts }: Measurable, signal: AbortSignal): Promise<Source> {
    const { api: server, newWorker, addressOf } = this.parts
    const worker = (this.worker ??= newWorker())
    const place = { url: addressOf(sha256), bytes: facts.bytes }
    const onStep = ({ done }: { done: number }): void => this.change(id, { done })
    const { analysis, strip, trace } =
      facts.kind === 'clip'
        ? await worker.run({ type: 'analyse', place }, { signal, onStep })
        : await worker.run({ type: 'analyse-image', place, mime: mimeOf(facts.format) }, { signal })
    // The search for loops can do without: it then describes the clip itself.
    if (trace)
      await server
        .storeRendition(
          { kind: 'trace', sourceSha256: sha256 },
          { kind: 'trace', moments: trace.moments },
          trace.bytes,
        )
        .catch(() => undefined)
    return server.storeAnalysis(id, analysis, strip.cells, strip.bytes)
  }
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
