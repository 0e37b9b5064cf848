import { create } from 'zustand'
import type { ClipSource, Rendition } from '../../core/api/wire'
import type { BackdropDocument } from '../../core/backdrop/BackdropDocument'
import { clipRecipes, posterRecipes, proofRecipe, recipeKey, type PosterRecipe, type Recipe, type RecipeSource } from '../../core/backdrop/recipe'
import { frameCount } from '../../core/loop/framePlan'
import { api, mediaUrl, messageOf } from '../api/client'
import { MediaWorker } from '../worker/MediaWorker'
import type { ClipPlace } from '../worker/sources'
import { WorkError } from '../worker/WorkError'

/** A file being made, or waiting for its turn. */
export interface Job {
  readonly key: string
  readonly recipe: Recipe
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
  /** Asks the server which recipes are made already. */
  look(keys: readonly string[]): Promise<void>
  /** Makes the proof of a document unless it is there; a proof under way for another recipe is cancelled. */
  makeProof(document: BackdropDocument, source: ClipSource): Promise<void>
  /** Makes every final file that is missing, one after another. */
  makeFinals(document: BackdropDocument, source: ClipSource): Promise<void>
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
function placeOfStill(recipe: Recipe): ClipPlace | null {
  return recipe.kind === 'poster' && recipe.picture.kind === 'source' ? { url: new URL(mediaUrl(recipe.picture.sha256), location.href).href, bytes: recipe.picture.bytes } : null
}

/** All recipes of a document's final files. */
export function finalRecipes(document: BackdropDocument, source: ClipSource): Recipe[] {
  const from = recipeSource(source)
  return [...posterRecipes(document, from), ...clipRecipes(document, from)].map(({ recipe }) => recipe)
}

/** Frames times pixels: what a job costs, for the time left. */
export function effortOf(recipe: Recipe): number {
  return recipe.width * recipe.height * (recipe.kind === 'poster' ? 8 : frameCount(recipe))
}

/** Encodes under way and files that are made. Work is keyed by recipe: nothing is encoded twice. */
export const useWork = create<WorkState>((set, get) => {
  const keep = (rendition: Rendition): void => set((state) => ({ made: { ...state.made, [rendition.key]: rendition } }))

  const render = async (worker: MediaWorker, source: ClipSource, job: Job, signal: AbortSignal, onChange: (fields: Partial<Job>) => void): Promise<void> => {
    const { bytes, facts } = await worker.run({ type: 'render', place: placeOf(source), recipe: job.recipe, still: placeOfStill(job.recipe) }, { signal, onStep: ({ done, pass }) => onChange({ done, pass }) })
    keep(await api.storeRendition(job.key, facts, bytes))
  }
  const jobOf = (recipe: Recipe): Job => ({ key: recipeKey(recipe), recipe, state: 'queued', done: 0, pass: 0, startedAt: null, message: null })

  return {
    made: {}, jobs: [], proof: null,
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
      const recipes = finalRecipes(document, source)
      await get().look(recipes.map(recipeKey))
      const missing = recipes.map(jobOf).filter((job) => !get().made[job.key])
      finalAbort?.abort()
      const abort = new AbortController()
      finalAbort = abort
      set({ jobs: missing })
      finalWorker ??= new MediaWorker()
      for (const job of missing) {
        if (abort.signal.aborted) return
        const onChange = (fields: Partial<Job>): void => {
          if (!abort.signal.aborted) set((state) => ({ jobs: state.jobs.map((each) => (each.key === job.key ? { ...each, ...fields } : each)) }))
        }
        onChange({ state: 'running', startedAt: performance.now() })
        try {
          await render(finalWorker, source, job, abort.signal, onChange)
          if (!abort.signal.aborted) set((state) => ({ jobs: state.jobs.filter((each) => each.key !== job.key) }))
        } catch (error) {
          onChange({ state: 'failed', message: messageOf(error) })
        }
      }
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
      set({ jobs: [] })
    },
    cancelProof() {
      proofAbort?.abort()
      set({ proof: null })
    },
  }
})
