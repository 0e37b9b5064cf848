import { describe, expect, it, vi } from 'vitest'
import { MediaWorker, type WorkerLike } from './MediaWorker'
import type { Order, Reply, Request } from './messages'

const ORDER: Order = { type: 'index', place: { url: 'http://localhost/media/x', bytes: 10 } }
const OUTCOME = { timescale: 24, times: [0], length: 1, keys: [0], sizes: [5] }

/** A worker whose answers are written by the test. */
class FakeWorker implements WorkerLike {
  readonly sent: Request[] = []
  terminated = false
  private readonly listeners = new Map<string, (event: unknown) => void>()

  postMessage(message: Request): void {
    this.sent.push(message)
  }
  terminate(): void {
    this.terminated = true
  }
  addEventListener(type: string, listener: unknown): void {
    this.listeners.set(type, listener as (event: unknown) => void)
  }
  answer(reply: Reply): void {
    this.listeners.get('message')!({ data: reply })
  }
  raise(type: 'error' | 'messageerror'): void {
    this.listeners.get(type)!({ message: 'the script could not be loaded' })
  }
}

function make(): { media: MediaWorker; workers: FakeWorker[] } {
  const workers: FakeWorker[] = []
  const media = new MediaWorker(() => {
    const worker = new FakeWorker()
    workers.push(worker)
    return worker
  })
  return { media, workers }
}
const codeOf = (promise: Promise<unknown>): Promise<unknown> =>
  promise.then(
    () => 'done',
    (error: { code?: string }) => error.code,
  )

describe('orders to a worker', () => {
  it('come back with their outcome, each to its own caller, with steps on the way', async () => {
    const { media, workers } = make()
    const steps: unknown[] = []
    const first = media.run(ORDER, { onStep: (step) => steps.push(step) })
    const second = media.run(ORDER)
    workers[0]!.answer({ id: 2, outcome: { ...OUTCOME, timescale: 2 } })
    workers[0]!.answer({ id: 1, step: { done: 0.5, pass: 0 } })
    workers[0]!.answer({ id: 1, outcome: OUTCOME })
    expect([(await first).timescale, (await second).timescale, steps, workers.length]).toEqual([
      24,
      2,
      [{ done: 0.5, pass: 0 }],
      1,
    ])
  })
  it('fail with the code that the worker gives', async () => {
    const { media, workers } = make()
    const order = media.run(ORDER)
    workers[0]!.answer({ id: 1, error: { code: 'work/cannot-decode', message: 'x' } })
    expect(await codeOf(order)).toBe('work/cannot-decode')
  })
  it.each(['error', 'messageerror'] as const)(
    'all end when the worker fails (%s), and the next one starts another',
    async (event) => {
      const { media, workers } = make()
      const orders = [media.run(ORDER), media.run(ORDER)].map(codeOf)
      workers[0]!.raise(event)
      expect(await Promise.all(orders)).toEqual(['work/fault', 'work/fault'])
      const next = media.run(ORDER)
      expect([workers[0]!.terminated, workers.length]).toEqual([true, 2])
      workers[1]!.answer({ id: 3, outcome: OUTCOME })
      expect((await next).timescale).toBe(24)
    },
  )
  it('that are cancelled end at once, whether the worker answers or not, and are cancelled there', async () => {
    const { media, workers } = make()
    const abort = new AbortController()
    const order = codeOf(media.run(ORDER, { signal: abort.signal }))
    abort.abort()
    expect(await order).toBe('work/cancelled')
    expect(workers[0]!.sent).toEqual([{ id: 1, order: ORDER }, { cancel: 1 }])
  })
  it('that were cancelled before are not sent', async () => {
    const { media, workers } = make()
    expect(await codeOf(media.run(ORDER, { signal: AbortSignal.abort() }))).toBe('work/cancelled')
    expect(workers).toEqual([])
  })
  it('let go of pictures that come too late', async () => {
    const { media, workers } = make()
    const abort = new AbortController()
    const order = codeOf(media.run(ORDER, { signal: abort.signal }))
    abort.abort()
    await order
    const close = vi.fn()
    workers[0]!.answer({
      id: 1,
      outcome: { picture: { close } as unknown as ImageBitmap, quick: false },
    })
    expect(close).toHaveBeenCalledOnce()
  })
})
