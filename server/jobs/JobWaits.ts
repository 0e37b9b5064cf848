import type { ServerResponse } from 'node:http'
import type { TakenJob } from '../../core/api/work'
import type { RenderWork } from './RenderWork'
import type { WorkEvents } from './WorkEvents'

/** A worker's question for a job is answered after so long. */
const WAIT_MS = 15_000
/** Jobs that were notified while the connection was away are found by asking, for all who wait. */
const ASK_EVERY_MS = 3000
/** Workers that are woken by one question. */
const MAX_WOKEN = 100
/** Workers that are woken beyond the number of jobs. */
const MORE_WOKEN = 8

/** Workers that wait for jobs: their question is answered as soon as there is one. */
export class JobWaits {
  private readonly wakes = new Set<() => void>()
  private isClosed = false
  private asking: NodeJS.Timeout | null = null

  constructor(
    private readonly work: Pick<RenderWork, 'take' | 'countWaiting'>,
    events: Pick<WorkEvents, 'listen'>,
  ) {
    events.listen({
      waiting: (jobs) => this.wake(jobs),
      missed: () => this.wakeAll(),
    })
  }

  /** The next job for a worker; null where none comes, or where its connection closes. */
  async take(workerId: string, response: ServerResponse): Promise<TakenJob | null> {
    const end = Date.now() + WAIT_MS
    for (;;) {
      // A job that nobody takes delivery of would only come back when its worker is missed.
      if (response.destroyed || this.isClosed) return null
      const job = await this.work.take(workerId)
      if (job || Date.now() >= end) return job
      await this.wait(end - Date.now(), response)
    }
  }

  /** Answers everyone who waits. */
  close(): void {
    this.isClosed = true
    if (this.asking) clearInterval(this.asking)
    this.wakeAll()
  }

  /**
   * Answers those who have waited longest: so many as there are jobs, and some more, for not all
   * have every encoder. Hundreds at once would only wait for each other.
   */
  private wake(jobs: number): void {
    if (jobs === 0) return
    ;[...this.wakes].slice(0, jobs + MORE_WOKEN).forEach((wake) => wake())
  }

  private async ask(): Promise<void> {
    if (this.wakes.size === 0) return
    // Where the database is away, they are told so when they ask themselves.
    this.wake(await this.work.countWaiting(MAX_WOKEN).catch(() => 0))
  }

  private wakeAll(): void {
    this.wakes.forEach((wake) => wake())
  }

  private wait(ms: number, response: ServerResponse): Promise<void> {
    this.asking ??= setInterval(() => void this.ask(), ASK_EVERY_MS).unref()
    return new Promise((resolve) => {
      const wake = (): void => {
        clearTimeout(timer)
        this.wakes.delete(wake)
        response.off('close', wake)
        resolve()
      }
      const timer = setTimeout(wake, Math.max(0, ms))
      this.wakes.add(wake)
      response.once('close', wake)
    })
  }
}
