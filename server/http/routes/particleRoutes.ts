import {
  slowOrderSchema,
  slowRunsSchema,
  triedCost,
  type TrySlowMachines,
} from '../../../core/api/slowMachines'
import { ApiError } from '../../ApiError'
import type { TriedParticles } from '../../store/TriedParticles'
import { route, type Route } from '../route'

/**
 * Particles on slowed machines: one try at a time, since each wants the whole processor. It ends
 * when its request is dropped. What it found is kept for the folders that are delivered.
 */
export function particleRoutes(trySlow: TrySlowMachines | null, tried: TriedParticles): Route[] {
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
          const runs = await trySlow(body, abort.signal)
          await tried.keep(body, triedCost(body, runs))
          return runs
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
