import {
  slowOrderSchema,
  slowRunsSchema,
  type TrySlowMachines,
} from '../../../core/api/slowMachines'
import { ApiError } from '../../ApiError'
import { route, type Route } from '../route'

/**
 * Particles on slowed machines: one try at a time, since each wants the whole processor. It ends
 * when its request is dropped.
 */
export function particleRoutes(trySlow: TrySlowMachines | null): Route[] {
  let busy = false
  return [
    route({
      method: 'post',
      path: '/api/particles/slow-machines',
      summary: 'Try particles in a browser that is slowed down; takes about half a minute',
      body: slowOrderSchema,
      answer: slowRunsSchema,
      async handle({ body, ctx }) {
        if (!trySlow) throw new ApiError('particles/no-browser')
        if (busy) throw new ApiError('particles/busy')
        const abort = new AbortController()
        const end = (): void => abort.abort()
        ctx.res.once('close', end)
        busy = true
        try {
          return await trySlow(body, abort.signal)
        } catch (error) {
          if (abort.signal.aborted) throw new ApiError('particles/ended')
          ctx.app.emit('error', error, ctx)
          throw new ApiError('particles/failed')
        } finally {
          busy = false
          ctx.res.off('close', end)
        }
      },
    }),
  ]
}
