import { PassThrough } from 'node:stream'
import type Router from '@koa/router'
import type { WorkEvents } from '../jobs/WorkEvents'

/** Proxies close connections on which nothing happens. */
const ALIVE_EVERY_MS = 15_000

/**
 * Changes of render jobs as server-sent events: `jobs` with a list of them, `missed` where some may
 * have been missed. Source: HTML Living Standard, 9.2. Gives a function that ends all streams.
 */
export function workEventRoute(router: Router, events: WorkEvents): () => void {
  const open = new Set<PassThrough>()
  router.get('/api/jobs/events', (ctx) => {
    const stream = new PassThrough()
    const send = (name: string, data: unknown): void =>
      void stream.write(`event: ${name}\ndata: ${JSON.stringify(data)}\n\n`)
    const stop = events.listen({
      hear: (jobs) => send('jobs', jobs),
      missed: () => send('missed', null),
    })
    const alive = setInterval(() => stream.write(': alive\n\n'), ALIVE_EVERY_MS)
    open.add(stream)
    stream.once('close', () => {
      clearInterval(alive)
      stop()
      open.delete(stream)
    })
    ctx.res.once('close', () => stream.destroy())
    ctx.type = 'text/event-stream'
    ctx.set('Cache-Control', 'no-store')
    // Proxies must not gather events.
    ctx.set('X-Accel-Buffering', 'no')
    stream.write(': open\n\n')
    ctx.body = stream
  })
  return () => open.forEach((stream) => stream.end())
}
