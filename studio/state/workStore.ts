import { useStore } from 'zustand'
import { createStore, type StoreApi } from 'zustand/vanilla'
import type { ClipSource, ProbeFacts, Rendition } from '../../core/api/wire'
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
import { api, messageOf, type Api } from '../api/client'
import { MediaWorker } from '../worker/MediaWorker'
import { WorkError } from '../worker/WorkError'
import { effortOf } from './effort'
import { finalRecipes, missingWork, placeOf, placeOfPosterSource, recipeSource } from './finalFiles'

export { finalRecipes, missingWork, placeOf, recipeSource } from './finalFiles'

/** A file rendering, or waiting for its turn. */
export interface Job {
  readonly key: string
  readonly recipe: Recipe | ProbeRecipe
  readonly state: 'queued' | 'running' | 'failed'
  /** 0 to 1 of the pass under way. */
  readonly done: number
  readonly pass: number
  readonly startedAt: number | null
  readonly message: string | null
}

export interface WorkState {
  /** Files that are made, by recipe key. */
  readonly made: Readonly<Record<string, Rendition>>
  /** Keys of which the server has said that they are not made. What is in neither is not known. */
  readonly absent: Readonly<Record<string, true>>
  /** Why the server could not be asked; null while it answers. */
  readonly lookProblem: string | null
  readonly jobs: readonly Job[]
  readonly proof: Job | null
  /** Effort a second (`effortOf`) that this machine has shown so far; null before its first job. */
  readonly rateControl: number | null
  /**
   * Asks the server which recipes are made already. Throws `RequestError` where it does not answer:
   * then nothing is known.
   */
  look(keys: readonly string[]): Promise<void>
  /**
   * Makes the proof of a document unless it is there; a proof under way for another recipe is
   * cancelled.
   */
  makeProof(document: BackdropDocument, source: ClipSource): Promise<void>
  /**
   * Makes every final file that is missing, one after another; waits where another tab is at work
   * on the same clip. What was under way when the page was left is taken up by `resume`.
   */
  makeFinals(document: BackdropDocument, source: ClipSource): Promise<void>
  /**
   * Goes on with files that were rendering when their page was left, unless another tab still
   * makes them.
   */
  resume(document: BackdropDocument, source: ClipSource): Promise<void>
  /**
   * Makes the probe of a clip unless it is there; resolves to what it told. Throws where it cannot
   * be made.
   */
  makeProbe(
    source: ClipSource,
    recipe: ProbeRecipe,
    signal: AbortSignal,
    onProgress?: (done: number) => void,
  ): Promise<ProbeFacts>
  /** Makes one poster unless it is there. Throws where it cannot be made. */
  renderPosterFiles(source: ClipSource, recipe: PosterRecipe, signal: AbortSignal): Promise<void>
  cancelFinals(): void
  cancelProof(): void
}

/** What the store stands on; tests put their own in its place. */
export interface WorkParts {
  readonly api: Pick<Api, 'findRenditions' | 'storeRendition'>
  readonly newWorker: () => Pick<MediaWorker, 'run'>
  readonly locks: Pick<LockManager, 'request' | 'query'>
  /** Notes that outlive the page: this machine's pace, and what was rendering. */
  readonly notes: Pick<Storage, 'getItem' | 'setItem' | 'removeItem'>
  readonly now: () => number
}

/** Where this machine's pace is kept from visit to visit. */
const PACE_NOTE = 'telon-pace'
/** How much of the pace is the last job's. */
const NEWEST = 0.5
/** Keys that are looked up in one request. */
const MAX_KEYS = 200

/** Where it is noted, for a reload, that a backdrop's files were rendering. */
const noteOf = (sourceSha256: string): string => `telon-making-${sourceSha256}`

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

/** Encodes under way and files that are made. Work is keyed by recipe: nothing is encoded twice. */
export function createWorkStore(parts: WorkParts): StoreApi<WorkState> {
  const { locks, notes, now } = parts
  const workers = {
    proof: null as Pick<MediaWorker, 'run'> | null,
    final: null as Pick<MediaWorker, 'run'> | null,
  }
  const workerFor = (use: keyof typeof workers): Pick<MediaWorker, 'run'> =>
    (workers[use] ??= parts.newWorker())
  let proofAbort: AbortController | null = null
  let finalAbort: AbortController | null = null

  return createStore<WorkState>((set, get) => {
    const keep = (rendition: Rendition): void =>
      set(({ made, absent: { [rendition.key]: _, ...absent } }) => ({
        made: { ...made, [rendition.key]: rendition },
        absent,
      }))

    const probeFactsOf = (recipe: ClipRecipe): ProbeFacts | null => {
      const facts = get().made[recipeKey(probeOf(recipe))]?.facts
      return facts?.kind === 'probe' ? facts : null
    }

    const render = async (
      use: keyof typeof workers,
      source: ClipSource,
      { recipe }: Job,
      signal: AbortSignal,
      onChange: (fields: Partial<Job>) => void,
    ): Promise<void> => {
      const worker = workerFor(use)
      const place = placeOf(source)
      const onStep = ({ done, pass }: { done: number; pass: number }): void =>
        onChange({ done, pass })
      if (recipe.kind === 'probe') {
        const { facts } = await worker.run({ type: 'probe', place, recipe }, { signal, onStep })
        const text = new TextEncoder().encode(JSON.stringify(facts))
        return keep(await parts.api.storeRendition(recipe, facts, text))
      }
      const probe = recipe.kind === 'clip' ? probeFactsOf(recipe) : null
      const order = {
        type: 'render',
        place,
        recipe,
        poster: placeOfPosterSource(recipe),
        probe,
      } as const
      const { bytes, facts } = await worker.run(order, { signal, onStep })
      keep(await parts.api.storeRendition(recipe, facts, bytes))
    }

    const learnPace = (latest: number): void => {
      const { rateControl } = get()
      const learnt = rateControl === null ? latest : rateControl * (1 - NEWEST) + latest * NEWEST
      notes.setItem(PACE_NOTE, String(Math.round(learnt)))
      set({ rateControl: learnt })
    }

    const changeJob = (key: string, fields: Partial<Job>): void =>
      set(({ jobs }) => ({
        jobs: jobs.map((each) => (each.key === key ? { ...each, ...fields } : each)),
      }))

    /** What is missing, as the server says now. */
    const missingJobs = async (document: BackdropDocument, source: ClipSource): Promise<Job[]> => {
      await get().look(missingWork(document, source, {}).map(recipeKey))
      return missingWork(document, source, get().made).map(jobOf)
    }

    const runJob = async (job: Job, source: ClipSource, signal: AbortSignal): Promise<void> => {
      const onChange = (fields: Partial<Job>): void => {
        if (!signal.aborted) changeJob(job.key, fields)
      }
      const startedAt = now()
      onChange({ state: 'running', startedAt })
      try {
        await render('final', source, job, signal, onChange)
        // Posters are over too soon to tell.
        if (job.recipe.kind !== 'poster')
          learnPace(effortOf(job.recipe) / ((now() - startedAt) / 1000))
        if (!signal.aborted)
          set(({ jobs }) => ({ jobs: jobs.filter((each) => each.key !== job.key) }))
      } catch (error) {
        onChange({ state: 'failed', message: messageOf(error) })
      }
    }

    return {
      made: {},
      absent: {},
      lookProblem: null,
      jobs: [],
      proof: null,
      rateControl: readPace(notes),
      async look(keys) {
        const unknown = keys.filter((key) => !get().made[key])
        for (let at = 0; at < unknown.length; at += MAX_KEYS) {
          const part = unknown.slice(at, at + MAX_KEYS)
          try {
            const found = await parts.api.findRenditions(part)
            found.forEach(keep)
          } catch (error) {
            set({ lookProblem: messageOf(error) })
            throw error
          }
          const { made, absent } = get()
          const missing = part.filter((key) => !made[key])
          set({
            lookProblem: null,
            absent: { ...absent, ...Object.fromEntries(missing.map((key) => [key, true])) },
          })
        }
      },
      async makeProof(document, source) {
        const job = jobOf(proofRecipe(document, recipeSource(source)))
        const { proof } = get()
        if (proof?.key === job.key && proof.state === 'running') return
        proofAbort?.abort()
        const abort = new AbortController()
        proofAbort = abort
        const { signal } = abort
        const fail = (error: unknown): void => {
          // Another change came meanwhile: its proof is the one that counts.
          if (signal.aborted) return
          set({
            proof: isCancelled(error)
              ? null
              : { ...job, state: 'failed', message: messageOf(error) },
          })
        }
        try {
          await get().look([job.key])
          if (signal.aborted) return
          if (get().made[job.key]) return set({ proof: null })
          set({ proof: { ...job, state: 'running', startedAt: now() } })
          await render('proof', source, job, signal, (fields) => {
            if (!signal.aborted)
              set((state) =>
                state.proof?.key === job.key ? { proof: { ...state.proof, ...fields } } : {},
              )
          })
          if (!signal.aborted) set({ proof: null })
        } catch (error) {
          fail(error)
        }
      },
      async makeFinals(document, source) {
        finalAbort?.abort()
        const abort = new AbortController()
        finalAbort = abort
        const { signal } = abort
        try {
          const waiting = await missingJobs(document, source)
          if (signal.aborted) return
          set({ jobs: waiting })
          if (waiting.length === 0) return
          notes.setItem(noteOf(source.sha256), JSON.stringify(waiting.map(({ key }) => key)))
          // One tab at a time works on a clip: what another has made meanwhile is not made again.
          await locks.request(noteOf(source.sha256), { signal }, async () => {
            const jobs = await missingJobs(document, source)
            if (signal.aborted) return
            set({ jobs })
            for (const job of jobs) {
              if (signal.aborted) return
              await runJob(job, source, signal)
            }
            if (!signal.aborted) notes.removeItem(noteOf(source.sha256))
          })
        } catch (error) {
          // A wait that is cancelled ends in the signal's own error.
          if (signal.aborted) return
          const message = messageOf(error)
          const left = missingWork(document, source, get().made).map(jobOf)
          set({ jobs: left.map((job) => ({ ...job, state: 'failed', message })) })
        }
      },
      async resume(document, source) {
        const note = notes.getItem(noteOf(source.sha256))
        if (get().jobs.length > 0 || !note) return
        // Another backdrop of the same clip has other files: they are not begun here.
        const own = finalRecipes(document, source).some((recipe) =>
          note.includes(JSON.stringify(recipeKey(recipe))),
        )
        if (!own) return
        const { held = [] } = await locks.query()
        if (get().jobs.length > 0 || held.some(({ name }) => name === noteOf(source.sha256))) return
        await get().makeFinals(document, source)
      },
      async makeProbe(source, recipe, signal, onProgress = () => undefined) {
        const job = jobOf(recipe)
        await get().look([job.key])
        if (!get().made[job.key])
          await render('proof', source, job, signal, ({ done }) => onProgress(done ?? 0))
        const { facts } = get().made[job.key]!
        if (facts.kind !== 'probe') throw new Error(`${job.key} is no probe`)
        return facts
      },
      async renderPosterFiles(source, recipe, signal) {
        const job = jobOf(recipe)
        await get().look([job.key])
        if (get().made[job.key] || signal.aborted) return
        await render('proof', source, job, signal, () => undefined)
      },
      cancelFinals() {
        finalAbort?.abort()
        get().jobs.forEach(({ recipe }) => notes.removeItem(noteOf(recipe.sourceSha256)))
        set({ jobs: [] })
      },
      cancelProof() {
        proofAbort?.abort()
        set({ proof: null })
      },
    }
  })
}

function readPace(notes: WorkParts['notes']): number | null {
  const rateControl = Number(notes.getItem(PACE_NOTE))
  return rateControl > 0 && Number.isFinite(rateControl) ? rateControl : null
}

/** Whether it is known of every key whether its file is made. */
export function isKnown(
  { made, absent }: Pick<WorkState, 'made' | 'absent'>,
  keys: readonly string[],
): boolean {
  return keys.every((key) => made[key] !== undefined || absent[key] === true)
}

/**
 * Whether to say that it is not known which files are made: while the server does not answer, and
 * before its first answer. Keys that a change has brought a moment ago are asked for at once and
 * count as not made until then.
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
