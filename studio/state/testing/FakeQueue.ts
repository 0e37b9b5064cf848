import type { WorkJob } from '../../../core/api/work'
import { recipeKey, type ProbeRecipe, type Recipe } from '../../../core/backdrop/recipe'
import { RequestError } from '../../api/client'

const WAITING: Omit<WorkJob, 'key'> = {
  ...{ state: 'waiting', step: null, pass: 0, done: 0 },
  ...{ secondsLeft: null, worker: null, reason: null },
}

/** The server's queue of render jobs, changed by hand; several tabs may listen. */
export class FakeQueue {
  readonly jobs = new Map<string, WorkJob>()
  readonly priorities = new Map<string, number>()
  isAway = false
  /** Whether events get lost on the way. */
  isDeaf = false
  private readonly listeners = new Set<{
    readonly hear: (jobs: readonly WorkJob[]) => void
    readonly missed: () => void
  }>()

  constructor(private readonly isMade: (key: string) => boolean) {}

  get listening(): number {
    return this.listeners.size
  }

  async request(recipes: readonly (Recipe | ProbeRecipe)[], priority: number): Promise<WorkJob[]> {
    this.answer()
    const keys = recipes.map(recipeKey).filter((key) => !this.isMade(key))
    for (const key of keys) {
      this.priorities.set(key, priority)
      const before = this.jobs.get(key)
      if (!before || before.state === 'failed') this.jobs.set(key, { ...WAITING, key })
    }
    return this.look(keys)
  }

  async look(keys: readonly string[]): Promise<WorkJob[]> {
    this.answer()
    return keys.flatMap((key) => this.jobs.get(key) ?? [])
  }

  cancel(keys: readonly string[]): void {
    this.answer()
    for (const key of keys) {
      if (!this.jobs.delete(key)) continue
      this.tell({ ...WAITING, key, state: 'cancelled' })
    }
  }

  listen(hear: (jobs: readonly WorkJob[]) => void, missed: () => void): () => void {
    const listener = { hear, missed }
    this.listeners.add(listener)
    return () => this.listeners.delete(listener)
  }

  /** A worker does something of a job. */
  change(key: string, fields: Partial<WorkJob>): void {
    const job = { ...this.jobs.get(key)!, ...fields }
    if (job.state === 'done') this.jobs.delete(key)
    else this.jobs.set(key, job)
    this.tell(job)
  }

  /** The connection was lost and is back. */
  miss(): void {
    this.listeners.forEach(({ missed }) => missed())
  }

  private tell(job: WorkJob): void {
    if (!this.isDeaf) this.listeners.forEach(({ hear }) => hear([job]))
  }

  private answer(): void {
    if (this.isAway) throw new RequestError('server/unreachable', 'The server does not answer.')
  }
}
