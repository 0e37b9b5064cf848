import type { Order, Outcome, Reply, Request, Step } from './messages'
import { WorkError } from './WorkError'

interface Waiting {
  readonly resolve: (outcome: never) => void
  readonly reject: (error: unknown) => void
  readonly onStep: ((step: never) => void) | undefined
}

interface RunOptions<T extends Order['type']> {
  readonly onStep?: (step: Step[T]) => void
  readonly signal?: AbortSignal
}

/** What a handle needs of a worker; tests put their own in its place. */
export type WorkerLike = Pick<Worker, 'postMessage' | 'terminate' | 'addEventListener'>

const startWorker = (): WorkerLike =>
  new Worker(new URL('./worker.ts', import.meta.url), { type: 'module' })

/**
 * A handle on a media worker: orders go out, promises come back. Every promise ends: if the worker
 * fails (its script cannot be loaded, or a message cannot be read), all running orders fail with
 * `work/fault`, and the next order starts another worker.
 */
export class MediaWorker {
  private readonly start: () => WorkerLike
  private worker: WorkerLike | null = null
  private readonly waiting = new Map<number, Waiting>()
  private lastId = 0

  constructor(start: () => WorkerLike = startWorker) {
    this.start = start
  }

  /**
   * Carries out an order. Aborting `signal` cancels it: the promise fails with `work/cancelled` at
   * once.
   */
  run<O extends Order>(order: O, options: RunOptions<O['type']> = {}): Promise<Outcome[O['type']]> {
    const { signal, onStep } = options
    return new Promise((resolve, reject) => {
      if (signal?.aborted) {
        reject(new WorkError('work/cancelled'))
        return
      }
      const worker = (this.worker ??= this.started())
      const id = ++this.lastId
      this.waiting.set(id, { resolve, reject, onStep })
      const cancel = (): void => {
        if (!this.waiting.delete(id)) return
        worker.postMessage({ cancel: id } satisfies Request)
        reject(new WorkError('work/cancelled'))
      }
      signal?.addEventListener('abort', cancel, { once: true })
      worker.postMessage({ id, order } satisfies Request)
    })
  }

  close(): void {
    this.fail(this.worker, new WorkError('work/cancelled'))
  }

  private started(): WorkerLike {
    const worker = this.start()
    worker.addEventListener('message', (event) => this.take((event as MessageEvent<Reply>).data))
    worker.addEventListener('error', (event) =>
      this.fail(worker, new WorkError('work/fault', undefined, (event as ErrorEvent).message)),
    )
    worker.addEventListener('messageerror', () => this.fail(worker, new WorkError('work/fault')))
    return worker
  }

  /** Ends a worker with everything that waits for it. */
  private fail(worker: WorkerLike | null, error: WorkError): void {
    // An old worker has nothing to say any more.
    if (worker === null || worker !== this.worker) return
    this.worker = null
    worker.terminate()
    const waiting = [...this.waiting.values()]
    this.waiting.clear()
    for (const { reject } of waiting) reject(error)
  }

  private take(reply: Reply): void {
    const waiting = this.waiting.get(reply.id)
    if (!waiting) return closePictures(reply)
    if ('step' in reply) {
      waiting.onStep?.(reply.step as never)
      return
    }
    this.waiting.delete(reply.id)
    if ('error' in reply) waiting.reject(new WorkError(reply.error.code, reply.error.message))
    else waiting.resolve(reply.outcome as never)
  }
}

/** Pictures that come after their order was cancelled hold memory until they are closed. */
function closePictures(reply: Reply): void {
  const carried = 'step' in reply ? reply.step : 'outcome' in reply ? reply.outcome : null
  if (carried && typeof carried === 'object' && 'picture' in carried) carried.picture.close()
}
