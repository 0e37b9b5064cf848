import type { Context, Middleware } from 'koa'
import type { Logger } from 'pino'
import { ZodError } from 'zod'
import { ApiError } from '../ApiError'
import { databaseFailure } from '../store/databaseFailure'

/** Headers that were set before the request failed: they must not go out with the error. */
const HEADERS_OF_SUCCESS = [
  'Cache-Control',
  'ETag',
  'Last-Modified',
  'Content-Disposition',
  'Accept-Ranges',
  'Content-Length',
]

/**
 * The one place that writes error responses. It comes first; everything thrown later ends here.
 * Bugs are answered with 500 and without their text; failures of the database with their code, and
 * without SQL.
 */
export function errorExit(log: Logger): Middleware {
  return async (ctx, next) => {
    try {
      await next()
      if (ctx.respond !== false && ctx.status === 404 && ctx.body == null)
        throw new ApiError('route/not-found')
    } catch (thrown) {
      answer(ctx, toApiError(thrown), thrown, log)
    }
  }
}

function answer(ctx: Context, error: ApiError | null, thrown: unknown, log: Logger): void {
  if (ctx.res.headersSent) return
  for (const name of HEADERS_OF_SUCCESS) ctx.remove(name)
  ctx.set('Cache-Control', 'no-store')
  if (!error && isDropped(thrown)) {
    // The caller has gone.
    log.debug({ err: thrown, path: ctx.path }, 'request broken off')
    ctx.status = 400
    return
  }
  if (!error) {
    log.error({ err: thrown, method: ctx.method, path: ctx.path }, 'request failed')
    ctx.status = 500
    ctx.body = {
      error: {
        code: 'server/fault',
        message: 'Something went wrong on the server. Nothing was changed; try again.',
      },
    }
    return
  }
  if (error.status >= 500)
    log.warn({ code: error.code, method: ctx.method, path: ctx.path }, 'request failed')
  if (error.retryAfterSeconds !== null) ctx.set('Retry-After', String(error.retryAfterSeconds))
  ctx.status = error.status
  ctx.body = error.body
}

const DROPPED = new Set([
  'ECONNRESET',
  'EPIPE',
  'ECANCELED',
  'ERR_STREAM_PREMATURE_CLOSE',
  'ERR_STREAM_DESTROYED',
])

/**
 * Whether the caller broke the connection off, or sent what is no HTTP: that is no error of ours.
 */
export function isDropped(error: unknown): boolean {
  const { code } = error as NodeJS.ErrnoException
  return typeof code === 'string' && (DROPPED.has(code) || code.startsWith('HPE_'))
}

function toApiError(thrown: unknown): ApiError | null {
  if (thrown instanceof ApiError) return thrown
  if (thrown instanceof ZodError) return new ApiError('request/invalid', thrown.issues.slice(0, 20))
  const failure = databaseFailure(thrown)
  return failure ? new ApiError(failure) : null
}

/**
 * Refuses addresses that cannot be read: a percent sign that begins no escape, or escapes that are
 * no UTF-8.
 */
export function readableAddresses(): Middleware {
  return async (ctx, next) => {
    try {
      const path = decodeURIComponent(ctx.path)
      if (path.includes('\0')) throw new URIError('NUL')
    } catch {
      throw new ApiError('request/invalid', 'The address is malformed.')
    }
    await next()
  }
}

/** Logs each answered request with its time in milliseconds. */
export function requestLog(log: Logger): Middleware {
  return async (ctx, next) => {
    const start = performance.now()
    await next()
    const ms = Math.round(performance.now() - start)
    log.info({ method: ctx.method, path: ctx.path, status: ctx.status, ms }, 'request')
  }
}
