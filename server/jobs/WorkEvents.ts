import type { WorkJob } from '../../core/api/work'
import type { Database, Listening } from '../store/database'
import { WAITING, WORK_CHANNEL } from './RenderWork'

/** Changes within so long are told together. */
const GATHER_MS = 100

/** Who hears of changes: of jobs, of how many now wait, or that some were missed. */
export interface WorkListener {
  readonly hear?: (jobs: readonly WorkJob[]) => void
  readonly waiting?: (jobs: number) => void
  readonly missed: () => void
}

/**
 * Changes of jobs as they happen, on whichever server: one connection of the database hears of all
 * of them, and everyone who listens here is told.
 */
export class WorkEvents {
  private readonly listeners = new Set<WorkListener>()
  private readonly keys = new Set<string>()
  private waiting = 0
  private timer: NodeJS.Timeout | null = null
  private listening: Promise<Listening> | null = null

  constructor(
    private readonly database: Pick<Database, 'listen'>,
    private readonly changes: (keys: readonly string[]) => Promise<readonly WorkJob[]>,
  ) {}

  /** Listens until the function that it gives is called. */
  listen(listener: WorkListener): () => void {
    this.listeners.add(listener)
    this.listening ??= this.database.listen(WORK_CHANNEL, {
      hear: (payload) => this.gather(payload),
      missed: () => this.tellMissed(),
    })
    return () => this.listeners.delete(listener)
  }

  async close(): Promise<void> {
    if (this.timer) clearTimeout(this.timer)
    this.listeners.clear()
    await (await this.listening)?.end()
  }

  private tellMissed(): void {
    this.listeners.forEach(({ missed }) => missed())
  }

  private gather(payload: string): void {
    const [key, state] = payload.split(' ')
    this.keys.add(key!)
    if (state === WAITING) this.waiting += 1
    this.timer ??= setTimeout(() => void this.flush(), GATHER_MS)
  }

  private async flush(): Promise<void> {
    this.timer = null
    const [keys, waiting] = [[...this.keys], this.waiting]
    this.keys.clear()
    this.waiting = 0
    if (waiting > 0) this.listeners.forEach((listener) => listener.waiting?.(waiting))
    // With many workers, progress comes all the time, and often nobody looks.
    if (![...this.listeners].some(({ hear }) => hear)) return
    try {
      const jobs = await this.changes(keys)
      this.listeners.forEach(({ hear }) => hear?.(jobs))
    } catch {
      // The database is away: whoever listens asks again.
      this.tellMissed()
    }
  }
}
