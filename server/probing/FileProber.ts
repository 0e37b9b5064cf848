import { Worker } from 'node:worker_threads'
import type { ByteSource } from '../../core/bytes/ByteSource'
import type { AnyRecipe } from '../../core/api/recipes'
import type { RenditionFacts } from '../../core/api/renditions'
import type { RepairOrder } from '../../core/media/repair/RepairPlan'
import type { FromThread, Outcome, Task, ToThread } from './messages'

/** What reading a file may take at most. */
export interface ProbeLimits {
  /** Files that are read at the same time. */
  readonly threads: number
  /** Time of computing; waiting for bytes does not count. */
  readonly computeMs: number
  /** Time in all, also of waiting for bytes. */
  readonly totalMs: number
  /** Heap of a thread. */
  readonly heapMb: number
  /** Bytes of one read: an index is never larger. */
  readonly readBytes: number
}

const LIMITS: ProbeLimits = {
  threads: 2,
  computeMs: 10_000,
  totalMs: 180_000,
  heapMb: 192,
  readBytes: 80 * 1024 * 1024,
}

/** A file that takes more than the limits is as damaged as one whose index contradicts itself. */
const TOO_MUCH = { ok: false, error: { code: 'media/index-too-large', subject: '' } } as const
const NOT_READABLE = {
  ok: false,
  error: { property: 'content', expected: 'readable', found: 'media/index-too-large' },
} as const

// In the built server the thread's file is next to this one as JavaScript; from sources it needs a
// loader.
const FROM_SOURCES = import.meta.url.endsWith('.ts')
const THREAD = new URL(FROM_SOURCES ? './fromSources.mjs' : './probeThread.js', import.meta.url)

interface Waiting {
  readonly task: Task
  readonly source: ByteSource
  readonly resolve: (outcome: Outcome[Task['type']]) => void
  readonly reject: (error: unknown) => void
}

/**
 * Reads foreign files in threads of their own, so that no file can stall the server: each has
 * limits of memory and time, and one that exceeds them ends with its thread. Files beyond the
 * number of threads wait for their turn.
 */
export class FileProber {
  private readonly limits: ProbeLimits
  private readonly waiting: Waiting[] = []
  private readonly idle: Worker[] = []
  private busy = 0
  private closed = false

  constructor(limits: Partial<ProbeLimits> = {}) {
    this.limits = { ...LIMITS, ...limits }
  }

  /**
   * What a file is. Errors: those of the core's readers; `media/index-too-large` past the limits.
   */
  probe(source: ByteSource): Promise<Outcome['probe']> {
    return this.run<'probe'>({ type: 'probe' }, source)
  }

  /** Plans a repair. Errors: those of `planRepair`; `media/index-too-large` beyond the limits. */
  planRepair(source: ByteSource, order: RepairOrder): Promise<Outcome['plan-repair']> {
    return this.run<'plan-repair'>({ type: 'plan-repair', order }, source)
  }

  /** Whether a finished file is what its recipe and its facts say. */
  verify(source: ByteSource, recipe: AnyRecipe, facts: RenditionFacts): Promise<Outcome['verify']> {
    return this.run<'verify'>({ type: 'verify', recipe, facts }, source)
  }

  async close(): Promise<void> {
    this.closed = true
    await Promise.all(this.idle.splice(0).map((thread) => thread.terminate()))
  }

  private run<T extends Task['type']>(
    task: Task & { type: T },
    source: ByteSource,
  ): Promise<Outcome[T]> {
    return new Promise((resolve, reject) => {
      this.waiting.push({
        task,
        source,
        resolve: (outcome) => resolve(outcome as Outcome[T]),
        reject,
      })
      this.next()
    })
  }

  private next(): void {
    if (this.busy >= this.limits.threads) return
    const job = this.waiting.shift()
    if (!job) return
    this.busy += 1
    void this.carryOut(job).finally(() => {
      this.busy -= 1
      this.next()
    })
  }

  private startThread(): Worker {
    const thread = new Worker(THREAD, {
      resourceLimits: { maxOldGenerationSizeMb: this.limits.heapMb, maxYoungGenerationSizeMb: 32 },
    })
    thread.unref()
    return thread
  }

  private carryOut({ task, source, resolve, reject }: Waiting): Promise<void> {
    return new Promise((settled) => {
      const thread = this.idle.pop() ?? this.startThread()
      const send = (message: ToThread, transfer: ArrayBuffer[] = []): void =>
        thread.postMessage(message, transfer)
      let computing: NodeJS.Timeout | undefined
      let readsOut = 0
      let ended = false
      const end = (act: () => void, reusable: boolean): void => {
        if (ended) return
        ended = true
        clearTimeout(total)
        clearTimeout(computing)
        // By name: without names Node's own listeners would go, too, and the thread would never be
        // heard again.
        for (const name of ['message', 'error', 'exit']) thread.removeAllListeners(name)
        // A thread that is terminated may still report this as an error.
        thread.on('error', () => undefined)
        if (reusable && !this.closed) this.idle.push(thread)
        else void thread.terminate()
        act()
        settled()
      }
      const giveUp = (): void =>
        end(() => resolve(task.type === 'verify' ? NOT_READABLE : TOO_MUCH), false)
      const compute = (): void => {
        clearTimeout(computing)
        if (!ended) computing = setTimeout(giveUp, this.limits.computeMs)
      }
      const total = setTimeout(giveUp, this.limits.totalMs)
      const read = async (id: number, offset: number, length: number): Promise<void> => {
        if (length > this.limits.readBytes) return giveUp()
        readsOut += 1
        clearTimeout(computing)
        try {
          const bytes = await source.read(offset, length)
          // A copy of exactly these bytes, handed over: the buffer below may hold others, too.
          const copy = new Uint8Array(bytes)
          send({ type: 'bytes', read: id, bytes: copy }, [copy.buffer])
        } catch (error) {
          end(() => reject(error), false)
          return
        }
        readsOut -= 1
        if (readsOut === 0) compute()
      }
      thread.on('message', (message: FromThread) => {
        // Loading the thread's own code is no fault of the file.
        if (message.type === 'begun') compute()
        else if (message.type === 'read') void read(message.read, message.offset, message.length)
        else if (message.type === 'done') end(() => resolve(message.result), true)
        else end(() => reject(new Error(message.message)), false)
      })
      thread.on('error', (error: NodeJS.ErrnoException) =>
        error.code === 'ERR_WORKER_OUT_OF_MEMORY' ? giveUp() : end(() => reject(error), false),
      )
      thread.on('exit', giveUp)
      send({ type: 'job', job: { task, size: source.size } })
    })
  }
}
