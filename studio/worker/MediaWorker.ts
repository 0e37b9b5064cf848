import type { Order, Outcome, Reply, Request, Step } from './messages'
import { WorkError } from './WorkError'

interface Waiting {
  readonly resolve: (outcome: never) => void
  readonly reject: (error: unknown) => void
  readonly onStep: ((step: never) => void) | undefined
}

/** A handle on one media worker: orders go out, promises come back. */
export class MediaWorker {
  private readonly worker: Worker
  private readonly waiting = new Map<number, Waiting>()
  private lastId = 0

  constructor() {
    this.worker = new Worker(new URL('./worker.ts', import.meta.url), { type: 'module' })
    this.worker.addEventListener('message', ({ data }: MessageEvent<Reply>) => this.take(data))
    this.worker.addEventListener('error', (event) => {
      for (const { reject } of this.waiting.values()) reject(new WorkError('work/fault', undefined, event.message))
      this.waiting.clear()
    })
  }

  /** Carries out an order. Aborting `signal` cancels it: the promise then fails with `work/cancelled`. */
  run<O extends Order>(order: O, options: { onStep?: (step: Step[O['type']]) => void; signal?: AbortSignal } = {}): Promise<Outcome[O['type']]> {
    const id = ++this.lastId
    return new Promise((resolve, reject) => {
      if (options.signal?.aborted) {
        reject(new WorkError('work/cancelled'))
        return
      }
      this.waiting.set(id, { resolve, reject, onStep: options.onStep })
      options.signal?.addEventListener('abort', () => this.send({ cancel: id }), { once: true })
      this.send({ id, order })
    })
  }

  close(): void {
    this.worker.terminate()
  }

  private send(request: Request): void {
    this.worker.postMessage(request)
  }

  private take(reply: Reply): void {
    const waiting = this.waiting.get(reply.id)
    if (!waiting) return
    if ('step' in reply) {
      waiting.onStep?.(reply.step as never)
      return
    }
    this.waiting.delete(reply.id)
    if ('error' in reply) waiting.reject(new WorkError(reply.error.code, reply.error.message))
    else waiting.resolve(reply.outcome as never)
  }
}
