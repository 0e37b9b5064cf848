import { useStore } from 'zustand'
import { createStore, type StoreApi } from 'zustand/vanilla'
import type { Rendition } from '../../core/api/wire'
import type { BackdropDocument } from '../../core/backdrop/BackdropDocument'
import {
  probeOf,
  proofRecipe,
  recipeKey,
  type ClipRecipe,
  type PosterRecipe,
  type ProbeRecipe,
  type Recipe,
} from '../../core/backdrop/recipe'
import type { ProbeFacts } from '../../core/weight/ProbeFacts'
import { api, messageOf, type Api } from '../api/client'
import { MediaWorker } from '../worker/MediaWorker'
import { drawnPlaces } from '../worker/vectorPlace'
import { WorkError } from '../worker/WorkError'
import { effortOf } from './effort'
import { finalRecipes, missingWork, placesFor, rendersApart } from './finalFiles'
import type { Job } from './Job'
import type { LoadedSources } from './loadedSources'
import { openWorkEvents } from '../api/workEvents'
import { WorkerJobs, type WorkerJobsParts } from './WorkerJobs'

export type { Job } from './Job'
export { finalRecipes, missingWork, placesFor, rendersApart } from './finalFiles'
export { clipIn, loadedSources, placeOf, type LoadedSources } from './loadedSources'

/** Failures of a clip that this browser does not decode. */
const DECODING: ReadonlySet<string> = new Set(['work/cannot-decode', 'work/decode-failed'])

export interface WorkState {
  /** Files that are made, by recipe key. */
  readonly made: Readonly<Record<string, Rendition>>
  /** Keys that the server does not have. Keys in neither list are unknown. */
  readonly absent: Readonly<Record<string, true>>
  /** Why the server could not be asked; null while it answers. */
  readonly lookProblem: string | null
  /** Files that this tab renders. */
  readonly jobs: readonly Job[]
  /** Files of the open backdrop that render workers make, whoever asked for them. */
  readonly apart: readonly Job[]
  readonly proof: Job | null
  /**
   * What this machine, and render workers, render per second, in units of `effortOf`; null before
   * the first job.
   */
  readonly effortPerSecond: Readonly<Record<Renderer, number | null>>
  /**
   * Asks the server which recipes are made already. Throws `RequestError` where it does not answer:
   * then nothing is known.
   */
  look(keys: readonly string[]): Promise<void>
  /**
   * Makes the proof of a document unless it is there; a proof under way for another recipe is
   * cancelled.
   */
  makeProof(document: BackdropDocument, sources: LoadedSources): Promise<void>
  /**
   * Makes every final file that is missing, one after another; waits where another tab is at work
   * on the same clip. What was under way when the page was left is taken up by `resume`.
   */
  makeFinals(document: BackdropDocument, sources: LoadedSources): Promise<void>
  /** Follows what render workers make of the backdrop that is open; null: of none. */
  follow(opened: OpenedDocument | null): void
  /**
   * Continues files that were rendering when their page was left, unless another tab renders them.
   */
  resume(document: BackdropDocument, sources: LoadedSources): Promise<void>
  /**
   * Renders the probe of a clip unless it exists; resolves to its facts. Throws if it cannot be
   * rendered.
   */
  makeProbe(
    sources: LoadedSources,
    recipe: ProbeRecipe,
    signal: AbortSignal,
    onProgress?: (done: number) => void,
  ): Promise<ProbeFacts>
  /** Makes one poster unless it is there. Throws where it cannot be made. */
  renderPosterFiles(
    sources: LoadedSources,
    recipe: PosterRecipe,
    signal: AbortSignal,
  ): Promise<void>
  cancelFinals(): void
  cancelProof(): void
}

/** A document with its sources. */
interface OpenedDocument {
  readonly document: BackdropDocument
  readonly sources: LoadedSources
}

/** What the store needs; tests replace it. */
export interface WorkParts {
  readonly api: Pick<Api, 'findRenditions' | 'storeRendition'> & WorkerJobsParts['api']
  readonly openEvents: WorkerJobsParts['openEvents']
  readonly newWorker: () => Pick<MediaWorker, 'run'>
  readonly locks: Pick<LockManager, 'request' | 'query'>
  /** Notes that outlive the page: this machine's pace, and what was rendering. */
  readonly notes: Pick<Storage, 'getItem' | 'setItem' | 'removeItem'>
  readonly now: () => number
}

/** What renders files. */
type Renderer = 'here' | 'worker'
/** Where their paces are kept from visit to visit. */
const PACE_NOTES = { here: 'telon-pace', worker: 'telon-worker-pace' } as const
/** Weight of the latest job in the moving average of the pace. */
const LATEST_WEIGHT = 0.5
/** Keys that are looked up in one request. */
const MAX_KEYS = 200

/** Where it is noted, for a reload, that a backdrop's files were rendering. */
const noteOf = (sourcesKey: string): string => `telon-making-${sourcesKey}`

const jobOf = (recipe: Recipe | ProbeRecipe): Job => ({
  key: recipeKey(recipe),
  recipe,
  state: 'queued',
  done: 0,
  pass: 0,
  startedAt: null,
  message: null,
})

const isCancelled = (error: unknown): boolean =>
  error instanceof WorkError && error.code === 'work/cancelled'

/** Renders files on the worker, stores them, and keeps the store's state. */
class Rendering {
  private readonly workers: Record<'proof' | 'final', Pick<MediaWorker, 'run'> | null> = {
    proof: null,
    final: null,
  }
  private proofAbort: AbortController | null = null
  private finalAbort: AbortController | null = null
  private readonly parts: WorkParts
  private readonly get: () => WorkState
  private readonly set: StoreApi<WorkState>['setState']
  private readonly workerJobs: WorkerJobs

  constructor(parts: WorkParts, store: Pick<StoreApi<WorkState>, 'getState' | 'setState'>) {
    this.parts = parts
    this.get = store.getState
    this.set = store.setState
    this.workerJobs = new WorkerJobs(parts, {
      setJobs: (apart) => this.set({ apart }),
      keep: (rendition) => this.keep(rendition),
      took: (recipe, seconds) => this.learnPace('worker', recipe, seconds),
    })
  }

  async look(keys: readonly string[]): Promise<void> {
    const unknown = keys.filter((key) => !this.get().made[key])
    for (let at = 0; at < unknown.length; at += MAX_KEYS) {
      const part = unknown.slice(at, at + MAX_KEYS)
      try {
        const found = await this.parts.api.findRenditions(part)
        found.forEach((each) => this.keep(each))
      } catch (error) {
        this.set({ lookProblem: messageOf(error) })
        throw error
      }
      const { made, absent } = this.get()
      const missing = part.filter((key) => !made[key])
      this.set({
        lookProblem: null,
        absent: { ...absent, ...Object.fromEntries(missing.map((key) => [key, true])) },
      })
    }
  }

  async makeProof(document: BackdropDocument, sources: LoadedSources): Promise<void> {
    const recipe = proofRecipe(document, sources.known)
    if (!recipe) return
    const job = jobOf(recipe)
    const { proof } = this.get()
    if (proof?.key === job.key && proof.state === 'running') return
    this.proofAbort?.abort()
    const abort = new AbortController()
    this.proofAbort = abort
    const { signal } = abort
    const fail = (error: unknown): void => {
      // Another change came meanwhile: its proof is the one that counts.
      if (signal.aborted) return
      const cannotDecode = error instanceof WorkError && DECODING.has(error.code)
      const failed = { ...job, state: 'failed', message: messageOf(error), cannotDecode } as const
      this.set({ proof: isCancelled(error) ? null : failed })
    }
    try {
      await this.get().look([job.key])
      if (signal.aborted) return
      if (this.get().made[job.key]) return this.set({ proof: null })
      this.set({ proof: { ...job, state: 'running', startedAt: this.parts.now() } })
      await this.render('proof', sources, job, signal, (fields) => {
        if (!signal.aborted)
          this.set((state) =>
            state.proof?.key === job.key ? { proof: { ...state.proof, ...fields } } : {},
          )
      })
      if (!signal.aborted) this.set({ proof: null })
    } catch (error) {
      fail(error)
    }
  }

  follow(opened: OpenedDocument | null): void {
    const isApart = opened !== null && rendersApart(opened.document)
    this.workerJobs.follow(isApart ? finalRecipes(opened.document, opened.sources.known) : [])
  }

  private async makeApart(document: BackdropDocument, sources: LoadedSources): Promise<void> {
    this.follow({ document, sources })
    try {
      const missing = await this.missingJobs(document, sources)
      this.set({ jobs: [] })
      if (missing.length > 0) await this.workerJobs.request(missing.map(({ recipe }) => recipe))
    } catch (error) {
      const message = messageOf(error)
      const left = missingWork(document, sources.known, this.get().made).map(jobOf)
      this.set({ jobs: left.map((job) => ({ ...job, state: 'failed', message })) })
    }
  }

  async makeFinals(document: BackdropDocument, sources: LoadedSources): Promise<void> {
    this.finalAbort?.abort()
    if (rendersApart(document)) return this.makeApart(document, sources)
    // What a worker was asked for before this browser was chosen.
    void this.workerJobs.request([]).catch(() => undefined)
    const abort = new AbortController()
    this.finalAbort = abort
    const { signal } = abort
    try {
      const waiting = await this.missingJobs(document, sources)
      if (signal.aborted) return
      this.set({ jobs: waiting })
      if (waiting.length === 0) return
      this.parts.notes.setItem(noteOf(sources.key), JSON.stringify(waiting.map(({ key }) => key)))
      // One tab at a time works on a clip: what another has made meanwhile is not made again.
      await this.parts.locks.request(noteOf(sources.key), { signal }, async () => {
        const jobs = await this.missingJobs(document, sources)
        if (signal.aborted) return
        this.set({ jobs })
        for (const job of jobs) {
          if (signal.aborted) return
          await this.runJob(job, sources, signal)
        }
        if (!signal.aborted) this.parts.notes.removeItem(noteOf(sources.key))
      })
    } catch (error) {
      // A wait that is cancelled ends in the signal's own error.
      if (signal.aborted) return
      const message = messageOf(error)
      const left = missingWork(document, sources.known, this.get().made).map(jobOf)
      this.set({ jobs: left.map((job) => ({ ...job, state: 'failed', message })) })
    }
  }

  async resume(document: BackdropDocument, sources: LoadedSources): Promise<void> {
    const note = this.parts.notes.getItem(noteOf(sources.key))
    if (this.get().jobs.length > 0 || !note) return
    // Another backdrop of the same clip has other files: they are not begun here.
    const own = finalRecipes(document, sources.known).some((recipe) =>
      note.includes(JSON.stringify(recipeKey(recipe))),
    )
    if (!own) return
    const { held = [] } = await this.parts.locks.query()
    if (this.get().jobs.length > 0 || held.some(({ name }) => name === noteOf(sources.key))) return
    await this.get().makeFinals(document, sources)
  }

  async makeProbe(
    sources: LoadedSources,
    recipe: ProbeRecipe,
    signal: AbortSignal,
    onProgress: (done: number) => void = () => undefined,
  ): Promise<ProbeFacts> {
    const job = jobOf(recipe)
    await this.get().look([job.key])
    if (!this.get().made[job.key]) {
      if (recipe.encoder === null)
        await this.render('proof', sources, job, signal, ({ done }) => onProgress(done ?? 0))
      else await this.workerJobs.until(recipe, signal, onProgress)
    }
    const { facts } = this.get().made[job.key]!
    if (facts.kind !== 'probe') throw new Error(`${job.key} is no probe`)
    return facts
  }

  async renderPosterFiles(
    sources: LoadedSources,
    recipe: PosterRecipe,
    signal: AbortSignal,
  ): Promise<void> {
    const job = jobOf(recipe)
    await this.get().look([job.key])
    if (this.get().made[job.key] || signal.aborted) return
    if (recipe.encoder !== null) return this.workerJobs.until(recipe, signal, () => undefined)
    await this.render('proof', sources, job, signal, () => undefined)
  }

  cancelFinals(): void {
    this.finalAbort?.abort()
    for (const { recipe } of this.get().jobs)
      this.parts.notes.removeItem(noteOf(recipe.sequence.inputs.join('-')))
    this.set({ jobs: [] })
    void this.workerJobs.cancel()
  }

  cancelProof(): void {
    this.proofAbort?.abort()
    this.set({ proof: null })
  }

  private keep(rendition: Rendition): void {
    this.set(({ made, absent: { [rendition.key]: _, ...absent } }) => ({
      made: { ...made, [rendition.key]: rendition },
      absent,
    }))
  }

  private probeFactsOf(recipe: ClipRecipe): ProbeFacts | null {
    const facts = this.get().made[recipeKey(probeOf(recipe))]?.facts
    return facts?.kind === 'probe' ? facts : null
  }

  private async render(
    use: 'proof' | 'final',
    sources: LoadedSources,
    { recipe }: Job,
    signal: AbortSignal,
    onChange: (fields: Partial<Job>) => void,
  ): Promise<void> {
    const worker = (this.workers[use] ??= this.parts.newWorker())
    const places = await drawnPlaces(recipe, placesFor(recipe, sources))
    const onStep = ({ done, pass }: { done: number; pass: number }): void =>
      onChange({ done, pass })
    if (recipe.kind === 'probe') {
      const { facts } = await worker.run({ type: 'probe', places, recipe }, { signal, onStep })
      const text = new TextEncoder().encode(JSON.stringify(facts))
      return this.keep(await this.parts.api.storeRendition(recipe, facts, text))
    }
    const probe = recipe.kind === 'clip' ? this.probeFactsOf(recipe) : null
    const order = { type: 'render', places, recipe, probe } as const
    const { bytes, facts } = await worker.run(order, { signal, onStep })
    this.keep(await this.parts.api.storeRendition(recipe, facts, bytes))
  }

  private learnPace(renderer: Renderer, recipe: Recipe | ProbeRecipe, seconds: number): void {
    // Posters are too quick to measure the speed by.
    if (recipe.kind === 'poster' || seconds <= 0) return
    const { effortPerSecond } = this.get()
    const [before, latest] = [effortPerSecond[renderer], effortOf(recipe) / seconds]
    const learnt = before === null ? latest : before * (1 - LATEST_WEIGHT) + latest * LATEST_WEIGHT
    this.parts.notes.setItem(PACE_NOTES[renderer], String(Math.round(learnt)))
    this.set({ effortPerSecond: { ...effortPerSecond, [renderer]: learnt } })
  }

  /** What is missing, as the server says now. */
  private async missingJobs(document: BackdropDocument, sources: LoadedSources): Promise<Job[]> {
    await this.get().look(missingWork(document, sources.known, {}).map(recipeKey))
    return missingWork(document, sources.known, this.get().made).map(jobOf)
  }

  private async runJob(job: Job, sources: LoadedSources, signal: AbortSignal): Promise<void> {
    const onChange = (fields: Partial<Job>): void => {
      if (!signal.aborted) this.changeJob(job.key, fields)
    }
    const startedAt = this.parts.now()
    onChange({ state: 'running', startedAt })
    try {
      await this.render('final', sources, job, signal, onChange)
      this.learnPace('here', job.recipe, (this.parts.now() - startedAt) / 1000)
      if (!signal.aborted)
        this.set(({ jobs }) => ({ jobs: jobs.filter((each) => each.key !== job.key) }))
    } catch (error) {
      onChange({ state: 'failed', message: messageOf(error) })
    }
  }

  private changeJob(key: string, fields: Partial<Job>): void {
    this.set(({ jobs }) => ({
      jobs: jobs.map((each) => (each.key === key ? { ...each, ...fields } : each)),
    }))
  }
}

/** Encodes under way and files that are made. Work is keyed by recipe: nothing is encoded twice. */
export function createWorkStore(parts: WorkParts): StoreApi<WorkState> {
  return createStore<WorkState>((setState, getState) => {
    const rendering = new Rendering(parts, { setState, getState })
    return {
      made: {},
      absent: {},
      lookProblem: null,
      jobs: [],
      apart: [],
      proof: null,
      effortPerSecond: {
        here: readPace(parts.notes, 'here'),
        worker: readPace(parts.notes, 'worker'),
      },
      look: (keys) => rendering.look(keys),
      makeProof: (document, sources) => rendering.makeProof(document, sources),
      makeFinals: (document, sources) => rendering.makeFinals(document, sources),
      follow: (opened) => rendering.follow(opened),
      resume: (document, sources) => rendering.resume(document, sources),
      makeProbe: (...order) => rendering.makeProbe(...order),
      renderPosterFiles: (...order) => rendering.renderPosterFiles(...order),
      cancelFinals: () => rendering.cancelFinals(),
      cancelProof: () => rendering.cancelProof(),
    }
  })
}

function readPace(notes: WorkParts['notes'], renderer: Renderer): number | null {
  const effortPerSecond = Number(notes.getItem(PACE_NOTES[renderer]))
  return effortPerSecond > 0 && Number.isFinite(effortPerSecond) ? effortPerSecond : null
}

/** Whether it is known of every key whether its file is made. */
export function isKnown(
  { made, absent }: Pick<WorkState, 'made' | 'absent'>,
  keys: readonly string[],
): boolean {
  return keys.every((key) => made[key] !== undefined || absent[key] === true)
}

/**
 * Whether the interface must say that it is not known which files are rendered: while the server
 * does not answer, and before its first answer. Keys added by a recent change are requested at once
 * and count as not rendered until then.
 */
export function isUnsure(
  state: Pick<WorkState, 'made' | 'absent' | 'lookProblem'>,
  keys: readonly string[],
): boolean {
  const neverAnswered =
    Object.keys(state.made).length === 0 && Object.keys(state.absent).length === 0
  return (state.lookProblem !== null || neverAnswered) && !isKnown(state, keys)
}

/** Nothing outlives the page: for what runs without a browser. */
const NO_NOTES: WorkParts['notes'] = {
  getItem: () => null,
  setItem: () => undefined,
  removeItem: () => undefined,
}

const store = createWorkStore({
  api,
  openEvents: openWorkEvents,
  newWorker: () => new MediaWorker(),
  locks: typeof navigator === 'undefined' ? (undefined as unknown as LockManager) : navigator.locks,
  notes: typeof localStorage === 'undefined' ? NO_NOTES : localStorage,
  now: () => performance.now(),
})

/** Encodes under way and files that are made. */
export const useWork = Object.assign(
  <T = WorkState>(selector?: (state: WorkState) => T): T =>
    useStore(store, selector ?? ((state) => state as unknown as T)),
  { getState: store.getState, setState: store.setState, subscribe: store.subscribe },
)
