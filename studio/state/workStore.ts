import { create } from 'zustand'
import type { ClipSource, ProbeFacts, Rendition } from '../../core/api/wire'
import type { BackdropDocument } from '../../core/backdrop/BackdropDocument'
import { clipRecipes, posterRecipes, probeOf, proofRecipe, recipeKey, type ClipRecipe, type PosterRecipe, type ProbeRecipe, type Recipe, type RecipeSource } from '../../core/backdrop/recipe'
import { api, mediaUrl, messageOf } from '../api/client'
import { MediaWorker } from '../worker/MediaWorker'
import type { ClipPlace } from '../worker/sources'
import { WorkError } from '../worker/WorkError'
import { effortOf } from './effort'

/** A file being made, or waiting for its turn. */
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

interface WorkState {
  /** Files that are made, by recipe key. */
  readonly made: Readonly<Record<string, Rendition>>
  readonly jobs: readonly Job[]
  readonly proof: Job | null
  /** Effort a second (`effortOf`) that this machine has shown so far; null before its first job. */
  readonly pace: number | null
  /** Asks the server which recipes are made already. */
  look(keys: readonly string[]): Promise<void>
  /** Makes the proof of a document unless it is there; a proof under way for another recipe is cancelled. */
  makeProof(document: BackdropDocument, source: ClipSource): Promise<void>
  /** Makes every final file that is missing, one after another; waits where another tab is at work on the same clip. What was under way when the page was left is taken up by `resume`. */
  makeFinals(document: BackdropDocument, source: ClipSource): Promise<void>
  /** Goes on with the files of a backdrop that were being made when its page was left; leaves them to another tab that is still making them. */
  resume(document: BackdropDocument, source: ClipSource): Promise<void>
  /** Makes the probe of a clip unless it is there; resolves to what it told. Throws where it cannot be made. */
  makeProbe(source: ClipSource, recipe: ProbeRecipe, signal: AbortSignal, onProgress?: (done: number) => void): Promise<ProbeFacts>
  /** Makes one still unless it is there. Throws where it cannot be made. */
  makeStill(source: ClipSource, recipe: PosterRecipe, signal: AbortSignal): Promise<void>
  cancelFinals(): void
  cancelProof(): void
}

let proofWorker: MediaWorker | null = null
let finalWorker: MediaWorker | null = null
let proofAbort: AbortController | null = null
let finalAbort: AbortController | null = null

/** Size and digest of a source as recipes want them. */
export function recipeSource(source: ClipSource): RecipeSource {
  return { sha256: source.sha256, width: source.facts.video.displayWidth, height: source.facts.video.displayHeight }
}

/** Where the worker finds a source. */
export function placeOf(source: ClipSource) {
  return { url: new URL(mediaUrl(source.sha256), location.href).href, bytes: source.facts.bytes }
}

/** Where the worker finds the still from the shelf that a poster is made from; null for all others. */
function placeOfStill(recipe: Recipe | ProbeRecipe): ClipPlace | null {
  return recipe.kind === 'poster' && recipe.picture.kind === 'source' ? { url: new URL(mediaUrl(recipe.picture.sha256), location.href).href, bytes: recipe.picture.bytes } : null
}

/** All recipes of a document's final files. */
export function finalRecipes(document: BackdropDocument, source: ClipSource): Recipe[] {
  const from = recipeSource(source)
  return [...posterRecipes(document, from), ...clipRecipes(document, from)].map(({ recipe }) => recipe)
}

/** What is left to be made for a document, in order: each clip that is missing behind its probe, by which it is steered and which other budgets share. */
export function missingWork(document: BackdropDocument, source: ClipSource, made: Readonly<Record<string, Rendition>>): (Recipe | ProbeRecipe)[] {
  const missing = finalRecipes(document, source).filter((recipe) => !made[recipeKey(recipe)])
  const work = missing.flatMap((recipe): (Recipe | ProbeRecipe)[] => (recipe.kind === 'clip' && !made[recipeKey(probeOf(recipe))] ? [probeOf(recipe), recipe] : [recipe]))
  // Screens with the same picture but other budgets share a probe.
  return [...new Map(work.map((recipe) => [recipeKey(recipe), recipe])).values()]
}

/** Where this machine's pace is kept from visit to visit. */
const PACE_NOTE = 'telon-pace'
/** How much of the pace is the last job's. */
const NEWEST = 0.5

function notedPace(): number | null {
  // Tests of what is computed here run without a browser.
  const pace = typeof localStorage === 'undefined' ? 0 : Number(localStorage.getItem(PACE_NOTE))
  return pace > 0 && Number.isFinite(pace) ? pace : null
}

/** Where it is noted, for a reload, that a backdrop's files were being made. */
const noteOf = (sourceSha256: string): string => `telon-making-${sourceSha256}`

/** Encodes under way and files that are made. Work is keyed by recipe: nothing is encoded twice. */
export const useWork = create<WorkState>((set, get) => {
  const keep = (rendition: Rendition): void => set((state) => ({ made: { ...state.made, [rendition.key]: rendition } }))

  const probeFactsOf = (recipe: ClipRecipe): ProbeFacts | null => {
    const facts = get().made[recipeKey(probeOf(recipe))]?.facts
    return facts?.kind === 'probe' ? facts : null
  }
  const render = async (worker: MediaWorker, source: ClipSource, job: Job, signal: AbortSignal, onChange: (fields: Partial<Job>) => void): Promise<void> => {
    const { recipe } = job
    const options = { signal, onStep: ({ done, pass }: { done: number; pass: number }) => onChange({ done, pass }) }
    if (recipe.kind === 'probe') {
      const { facts } = await worker.run({ type: 'probe', place: placeOf(source), recipe }, options)
      keep(await api.storeRendition(recipe, facts, new TextEncoder().encode(JSON.stringify(facts))))
      return
    }
    const probe = recipe.kind === 'clip' ? probeFactsOf(recipe) : null
    const { bytes, facts } = await worker.run({ type: 'render', place: placeOf(source), recipe, still: placeOfStill(recipe), probe }, options)
    keep(await api.storeRendition(recipe, facts, bytes))
  }
  const learnPace = (latest: number): void => {
    const { pace } = get()
    const learnt = pace === null ? latest : pace * (1 - NEWEST) + latest * NEWEST
    localStorage.setItem(PACE_NOTE, String(Math.round(learnt)))
    set({ pace: learnt })
  }
  const jobOf = (recipe: Recipe | ProbeRecipe): Job => ({ key: recipeKey(recipe), recipe, state: 'queued', done: 0, pass: 0, startedAt: null, message: null })

  return {
    made: {}, jobs: [], proof: null, pace: notedPace(),
    async look(keys) {
      const unknown = keys.filter((key) => !get().made[key])
      if (unknown.length === 0) return
      const found = await api.findRenditions(unknown).catch(() => [])
      found.forEach(keep)
    },
    async makeProof(document, source) {
      const job = jobOf(proofRecipe(document, recipeSource(source)))
      const { proof } = get()
      if (proof?.key === job.key && proof.state === 'running') return
      proofAbort?.abort()
      const abort = new AbortController()
      proofAbort = abort
      await get().look([job.key])
      // Another change came while the server was asked: its proof is the one that counts.
      if (abort.signal.aborted) return
      if (get().made[job.key]) {
        set({ proof: null })
        return
      }
      set({ proof: { ...job, state: 'running', startedAt: performance.now() } })
      const onChange = (fields: Partial<Job>): void => set((state) => (state.proof?.key === job.key && !abort.signal.aborted ? { proof: { ...state.proof, ...fields } } : {}))
      proofWorker ??= new MediaWorker()
      try {
        await render(proofWorker, source, job, abort.signal, onChange)
        if (!abort.signal.aborted) set({ proof: null })
      } catch (error) {
        if (abort.signal.aborted || (error instanceof WorkError && error.code === 'work/cancelled')) {
          if (get().proof?.key === job.key && proofAbort === abort) set({ proof: null })
        } else onChange({ state: 'failed', message: messageOf(error) })
      }
    },
    async makeFinals(document, source) {
      finalAbort?.abort()
      const abort = new AbortController()
      finalAbort = abort
      const { signal } = abort
      const missing = async (): Promise<Job[]> => {
        await get().look(missingWork(document, source, {}).map(recipeKey))
        return missingWork(document, source, get().made).map(jobOf)
      }
      const waiting = await missing()
      if (signal.aborted) return
      set({ jobs: waiting })
      if (waiting.length === 0) return
      localStorage.setItem(noteOf(source.sha256), JSON.stringify(waiting.map(({ key }) => key)))
      // One tab at a time works on a clip: what another has made meanwhile is not made again.
      await navigator.locks.request(noteOf(source.sha256), { signal }, async () => {
        const jobs = await missing()
        if (signal.aborted) return
        set({ jobs })
        finalWorker ??= new MediaWorker()
        for (const job of jobs) {
          if (signal.aborted) return
          const onChange = (fields: Partial<Job>): void => {
            if (!signal.aborted) set((state) => ({ jobs: state.jobs.map((each) => (each.key === job.key ? { ...each, ...fields } : each)) }))
          }
          const startedAt = performance.now()
          onChange({ state: 'running', startedAt })
          try {
            await render(finalWorker, source, job, signal, onChange)
            // Stills are over too soon to tell.
            if (job.recipe.kind !== 'poster') learnPace(effortOf(job.recipe) / ((performance.now() - startedAt) / 1000))
            if (!signal.aborted) set((state) => ({ jobs: state.jobs.filter((each) => each.key !== job.key) }))
          } catch (error) {
            onChange({ state: 'failed', message: messageOf(error) })
          }
        }
        if (!signal.aborted) localStorage.removeItem(noteOf(source.sha256))
      }).catch((error: unknown) => {
        // A wait that is cancelled ends in the signal's own error.
        if (!signal.aborted) throw error
      })
    },
    async resume(document, source) {
      const note = localStorage.getItem(noteOf(source.sha256))
      // Another backdrop of the same clip has other files: they are not begun here.
      if (get().jobs.length > 0 || !note || !finalRecipes(document, source).some((recipe) => note.includes(JSON.stringify(recipeKey(recipe))))) return
      const { held = [] } = await navigator.locks.query()
      if (get().jobs.length > 0 || held.some(({ name }) => name === noteOf(source.sha256))) return
      await get().makeFinals(document, source)
    },
    async makeProbe(source, recipe, signal, onProgress = () => undefined) {
      const job = jobOf(recipe)
      await get().look([job.key])
      if (!get().made[job.key]) {
        proofWorker ??= new MediaWorker()
        await render(proofWorker, source, job, signal, ({ done }) => onProgress(done ?? 0))
      }
      const { facts } = get().made[job.key]!
      if (facts.kind !== 'probe') throw new Error(`${job.key} is no probe`)
      return facts
    },
    async makeStill(source, recipe, signal) {
      const job = jobOf(recipe)
      await get().look([job.key])
      if (get().made[job.key] || signal.aborted) return
      proofWorker ??= new MediaWorker()
      await render(proofWorker, source, job, signal, () => undefined)
    },
    cancelFinals() {
      finalAbort?.abort()
      get().jobs.forEach(({ recipe }) => localStorage.removeItem(noteOf(recipe.sourceSha256)))
      set({ jobs: [] })
    },
    cancelProof() {
      proofAbort?.abort()
      set({ proof: null })
    },
  }
})
