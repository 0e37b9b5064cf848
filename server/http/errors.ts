import type { Middleware } from 'koa'
import type { Logger } from 'pino'
import { ZodError } from 'zod'
import { ApiError } from '../ApiError'

/** The one place that writes error bodies. Stands first; whatever is thrown below ends here, and 5xx hide their text. */
export function errorExit(log: Logger): Middleware {
  return async (ctx, next) => {
    try {
      await next()
      if (ctx.status === 404 && ctx.body === undefined) throw new ApiError('route/not-found')
    } catch (thrown) {
      const error = thrown instanceof ZodError ? new ApiError('request/invalid', thrown.issues) : thrown
      if (error instanceof ApiError) {
        ctx.status = error.status
        ctx.body = { error: { code: error.code, message: error.message, details: error.details } }
        return
      }
      log.error({ err: thrown, method: ctx.method, path: ctx.path }, 'request failed')
      ctx.status = 500
      ctx.body = { error: { code: 'server/fault', message: 'Something went wrong on the server. Nothing was changed; try again.' } }
    }
  }
}

/** Logs each answered request with its time in milliseconds. */
export function requestLog(log: Logger): Middleware {
  return async (ctx, next) => {
    const start = performance.now()
    await next()
    log.info({ method: ctx.method, path: ctx.path, status: ctx.status, ms: Math.round(performance.now() - start) }, 'request')
  }
}

/** Refuses writes that another site's page sends: there are no accounts, so the origin is what protects a local server. */
export function sameOriginWrites(): Middleware {
  return async (ctx, next) => {
    const site = ctx.get('Sec-Fetch-Site')
    const writes = ctx.method !== 'GET' && ctx.method !== 'HEAD'
    if (writes && site !== '' && site !== 'same-origin' && site !== 'none') throw new ApiError('request/origin')
    await next()
  }
}
