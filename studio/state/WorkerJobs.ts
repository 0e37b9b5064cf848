import type { Rendition } from '../../core/api/wire'
import type { WorkJob } from '../../core/api/work'
import { recipeKey, type ProbeRecipe, type Recipe } from '../../core/backdrop/recipe'
import { inParts } from '../../core/inParts'
import type { Api } from '../api/client'
import type { Job } from './Job'

type Wanted = Recipe | ProbeRecipe

/** Where jobs are, and what is told of them; tests replace it. */
export interface WorkerJobsParts {
  readonly api: Pick<Api, 'requestWork' | 'lookWork' | 'cancelWork' | 'findRenditions'>
  /** Changes of jobs as they happen; gives a function that ends it. */
  readonly openEvents: (hear: (jobs: readonly WorkJob[]) => void, missed: () => void) => () => void
  readonly now: () => number
}

/** What changes in the studio by it. */
export interface WorkerJobsSink {
  readonly setJobs: (jobs: readonly Job[]) => void
  readonly keep: (rendition: Rendition) => void
  /** A file that was followed from its beginning took so long. */
  readonly took: (recipe: Wanted, seconds: number) => void
}

/** Where events fail, jobs under way are asked for so often. */
const ASK_EVERY_MS = 10_000
/** Files come first that someone waits for; of those, what is looked at now. */
const PRIORITY = { files: 5, looked: 8 } as const

/** Recipes that are asked for, and keys that are looked up, in one request. */
const MAX_ASKED = 100

/** Someone who waits for one file. */
interface Wait {
  readonly onDone: (done: number) => void
  readonly resolve: () => void
  readonly reject: (error: Error) => void
}

/**
 * Jobs of render workers, as this tab follows them: those of the backdrop that is open, whoever
 * asked for them, and those that something here waits for. They go on without the tab.
 */
export class WorkerJobs {
  /** Files of the open backdrop. */
  private followed: ReadonlyMap<string, Wanted> = new Map()
  private readonly waits = new Map<string, Set<Wait>>()
  private readonly jobs = new Map<string, Job>()
  /** Files of the open backdrop that this tab has asked for. */
  private asked: ReadonlySet<string> = new Set()
  private closeEvents: (() => void) | null = null
  private timer: ReturnType<typeof setInterval> | null = null

  constructor(
    private readonly parts: WorkerJobsParts,
    private readonly sink: WorkerJobsSink,
  ) {}

  /** Follows the jobs of these files, in place of those before; asks which are under way. */
  follow(recipes: readonly Wanted[]): void {
    const next = new Map(recipes.map((recipe) => [recipeKey(recipe), recipe]))
    const isSame =
      next.size === this.followed.size && [...next.keys()].every((key) => this.followed.has(key))
    if (isSame) return
    this.followed = next
    for (const key of this.jobs.keys()) if (!next.has(key)) this.jobs.delete(key)
    this.show()
    void this.ask()
  }

  /**
   * Asks for files of the open backdrop; those that failed are tried again, and what was asked for
   * before a change is no longer wanted. Throws `RequestError` where the server does not answer.
   */
  async request(recipes: readonly Wanted[]): Promise<void> {
    const wanted = new Set(recipes.map(recipeKey))
    const unwanted = [...this.asked].filter((key) => !wanted.has(key) && !this.followed.has(key))
    this.asked = wanted
    await this.cancelAll(unwanted)
    for (const part of inParts(recipes, MAX_ASKED))
      for (const job of await this.parts.api.requestWork(part, PRIORITY.files)) this.take(job)
    this.show()
  }

  /** Files of the open backdrop that are no longer wanted; nobody renders them. */
  async cancel(): Promise<void> {
    const keys = [...this.jobs.keys()]
    this.jobs.clear()
    this.show()
    try {
      await this.cancelAll(keys)
    } catch {
      // They go on: they are shown again as soon as the server answers.
      await this.ask()
    }
  }

  private async cancelAll(keys: readonly string[]): Promise<void> {
    for (const part of inParts(keys, MAX_ASKED)) await this.parts.api.cancelWork(part)
  }

  /**
   * Resolves when a file is made. Rejects with the worker's reason where it cannot be; with the
   * signal's where nobody waits any more, and then it is not made for this.
   */
  async until(recipe: Wanted, signal: AbortSignal, onDone: (done: number) => void): Promise<void> {
    signal.throwIfAborted()
    const key = recipeKey(recipe)
    const [job] = await this.parts.api.requestWork([recipe], PRIORITY.looked)
    if (!job) return this.fetch([key])
    if (signal.aborted) this.drop(key)
    signal.throwIfAborted()
    await new Promise<void>((resolve, reject) => {
      const wait: Wait = { onDone, resolve, reject }
      const all = this.waits.get(key) ?? new Set()
      this.waits.set(key, all.add(wait))
      signal.addEventListener('abort', () => {
        all.delete(wait)
        reject(signal.reason as Error)
        if (all.size > 0) return
        this.waits.delete(key)
        this.show()
        this.drop(key)
      })
      this.take(job)
      this.show()
    })
  }

  /** Nobody waits for a file any more; it is made all the same where the backdrop has it. */
  private drop(key: string): void {
    if (this.followed.has(key) || this.waits.has(key)) return
    void this.parts.api.cancelWork([key]).catch(() => undefined)
  }

  /** Takes what became of a job; those of other backdrops are told of, too. */
  private take(job: WorkJob): void {
    const recipe = this.followed.get(job.key)
    const waits = this.waits.get(job.key)
    if (!recipe && !waits) return
    if (job.state === 'done') {
      // Where it cannot be fetched now, it is when jobs are asked for again.
      void this.fetch([job.key]).catch(() => undefined)
    } else if (job.state === 'cancelled' || job.state === 'failed') {
      const reason = job.reason ?? 'It was cancelled in another window.'
      this.waits.delete(job.key)
      waits?.forEach(({ reject }) => reject(new Error(reason)))
    } else if (job.state === 'running') waits?.forEach(({ onDone }) => onDone(job.done))
    if (job.state === 'cancelled') this.jobs.delete(job.key)
    // One that is done stays until its file is told of.
    else if (recipe && job.state !== 'done') this.jobs.set(job.key, this.jobOf(job, recipe))
  }

  private jobOf(job: WorkJob, recipe: Wanted): Job {
    const before = this.jobs.get(job.key)
    const isRunning = job.state === 'running'
    return {
      key: job.key,
      recipe,
      state: job.state === 'failed' ? 'failed' : isRunning ? 'running' : 'queued',
      done: job.done,
      pass: job.pass,
      // Of one that was under way already it is not known.
      startedAt: isRunning
        ? (before?.startedAt ??
          (job.step === null || job.step === 'sources' ? this.parts.now() : null))
        : null,
      message: job.reason,
      apart: { step: job.step, secondsLeft: job.secondsLeft, worker: job.worker },
    }
  }

  /** Fetches what is told of files that are made by now. */
  private async fetch(keys: readonly string[]): Promise<void> {
    const found = await Promise.all(
      inParts(keys, MAX_ASKED).map((part) => this.parts.api.findRenditions(part)),
    )
    for (const rendition of found.flat()) {
      this.sink.keep(rendition)
      const job = this.jobs.get(rendition.key)
      if (job?.startedAt != null)
        this.sink.took(job.recipe, (this.parts.now() - job.startedAt) / 1000)
      this.jobs.delete(rendition.key)
      const waits = this.waits.get(rendition.key)
      this.waits.delete(rendition.key)
      waits?.forEach(({ resolve }) => resolve())
    }
    this.show()
  }

  /** Asks for everything that is followed: at the beginning, and where events were missed. */
  private async ask(): Promise<void> {
    const keys = [...new Set([...this.followed.keys(), ...this.waits.keys()])]
    if (keys.length === 0) return
    // What is asked for meanwhile is in no answer, and not gone.
    const before = [...this.jobs.keys(), ...this.waits.keys()]
    try {
      const looked = await Promise.all(
        inParts(keys, MAX_ASKED).map((part) => this.parts.api.lookWork(part)),
      )
      const jobs = looked.flat()
      const gone = before.filter((key) => !jobs.some((job) => job.key === key))
      jobs.forEach((job) => this.take(job))
      // What is no longer a job is made, or was cancelled.
      if (gone.length > 0) await this.fetch(gone)
      for (const key of gone)
        if (this.jobs.has(key) || this.waits.has(key))
          this.take({ ...GONE, key, state: 'cancelled' })
    } catch {
      // Asked again soon; what is shown stays.
    }
    this.show()
  }

  private show(): void {
    this.sink.setJobs([...this.jobs.values()])
    const isFollowing = this.followed.size > 0 || this.waits.size > 0
    if (isFollowing && !this.closeEvents) {
      this.closeEvents = this.parts.openEvents(
        (jobs) => {
          jobs.forEach((job) => this.take(job))
          this.show()
        },
        () => void this.ask(),
      )
    } else if (!isFollowing) {
      this.closeEvents?.()
      this.closeEvents = null
    }
    const isBusy =
      this.waits.size > 0 || [...this.jobs.values()].some(({ state }) => state !== 'failed')
    if (isBusy) this.timer ??= setInterval(() => void this.ask(), ASK_EVERY_MS)
    else if (this.timer) {
      clearInterval(this.timer)
      this.timer = null
    }
  }
}

const GONE = {
  ...{ step: null, pass: 0, done: 0 },
  ...{ secondsLeft: null, worker: null, reason: null },
} as const
