import { ERRORS, type ServerOptions } from '@tus/server'
import type { Logger } from 'pino'
import { ApiError, type ApiErrorCode } from '../ApiError'
import { databaseFailure } from '../store/databaseFailure'
import type { TusBlobs } from '../uploads/TusBlobs'
import type { UploadLocks } from '../uploads/UploadLocks'

/*
 * What all that is sent by the open tus 1.0 protocol has in common: where bytes go, who writes, and
 * errors in the form of the API.
 */

type TusParts = Pick<ServerOptions, 'path' | 'locker' | 'onResponseError'> & {
  readonly datastore: TusBlobs
}

/** Options of a tus server below a path. */
export function tusParts(
  path: string,
  datastore: TusBlobs,
  locker: UploadLocks,
  log: Logger,
): TusParts {
  return {
    ...{ path, datastore, locker },
    onResponseError: (request, thrown) => {
      const id = new URL(request.url).pathname.slice(path.length + 1)
      const aborted = (thrown as { body?: string }).body === ERRORS.ABORTED.body
      const error = toApiError(
        aborted ? (datastore.takeFailure(id) ?? new ApiError('upload/offset')) : thrown,
      )
      if (!error) log.error({ err: thrown }, 'upload failed')
      const { retryAfterSeconds, status, body } = error ?? SERVER_FAULT
      const response = (
        request as {
          runtime?: { node?: { res?: { setHeader(name: string, value: string): void } } }
        }
      ).runtime?.node?.res
      if (retryAfterSeconds !== null) response?.setHeader('Retry-After', String(retryAfterSeconds))
      return { status_code: status, body: JSON.stringify(body) }
    },
  }
}

const SERVER_FAULT = {
  retryAfterSeconds: null,
  status: 500,
  body: {
    error: {
      code: 'server/fault',
      message: 'Something went wrong on the server. What was sent is kept; try again.',
    },
  },
}

/** Codes by the status that the tus server gives its own errors. */
const CODES: Readonly<Record<number, ApiErrorCode>> = {
  404: 'upload/not-found',
  410: 'upload/not-found',
  409: 'upload/offset',
  413: 'upload/too-large',
}

/** The error to answer with; null for what is a bug. */
function toApiError(thrown: unknown): ApiError | null {
  if (thrown instanceof ApiError) return thrown
  const failure = databaseFailure(thrown)
  if (failure) return new ApiError(failure)
  const { status_code: status, body } = thrown as { status_code?: number; body?: string }
  // 501: an extension of the protocol that is not offered. That is the caller's mistake.
  if (status === undefined || (status >= 500 && status !== 501)) return null
  return new ApiError(CODES[status] ?? 'request/invalid', body?.trim())
}
