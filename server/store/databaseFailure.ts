import type { ApiErrorCode } from '../ApiError'

/*
 * Every failure of the database ends in one of the codes of `ApiError`: this is the only place that
 * knows SQLSTATEs.
 */

/** Classes and codes of SQLSTATE that stand for one failure. Source: PostgreSQL 15, appendix A. */
const BY_SQLSTATE: readonly (readonly [RegExp, ApiErrorCode])[] = [
  [/^53100$/, 'storage/full'],
  // Connections, statements that are cancelled, servers that stop or are read-only, no memory,
  // disks that fail.
  [/^(08|57|58|25006|53)/, 'database/unavailable'],
  // Serialization failures, deadlocks, locks that are not available: the same request may succeed.
  [/^(40|55P03)/, 'database/unavailable'],
  // A row that is referred to has gone, or came twice.
  [/^(23503|23505)/, 'request/outdated'],
  // Values that no column can hold: malformed ids, numbers out of range, text with NUL.
  [/^(22|23514|23502)/, 'request/invalid'],
]

const CONNECTION_ERRORS = new Set([
  'ConnectionLostError',
  'SequelizeConnectionError',
  'SequelizeConnectionRefusedError',
  'SequelizeConnectionTimedOutError',
  'SequelizeConnectionAcquireTimeoutError',
  'SequelizeHostNotFoundError',
  'SequelizeHostNotReachableError',
  'SequelizeInvalidConnectionError',
  'SequelizeAccessDeniedError',
])
const SOCKET_ERRORS = new Set(['ECONNRESET', 'ECONNREFUSED', 'EPIPE', 'ETIMEDOUT'])
/** What pg says where a connection ends under a statement, or before one. */
const LOST =
  /^(Connection terminated|Client has encountered a connection error|Client was closed|Query read timeout|timeout expired)/

/** The code for a failure of the database; null for everything else, which is a bug. */
export function databaseFailure(thrown: unknown): ApiErrorCode | null {
  for (let error = thrown, depth = 0; error instanceof Error && depth < 5; depth++) {
    if (CONNECTION_ERRORS.has(error.name)) return 'database/unavailable'
    const { code, parent } = error as Error & { code?: unknown; parent?: unknown }
    const fromDatabase = error.name.startsWith('Sequelize') || 'severity' in error
    if (typeof code === 'string' && fromDatabase) {
      const known = BY_SQLSTATE.find(([pattern]) => pattern.test(code))
      if (known) return known[1]
      if (SOCKET_ERRORS.has(code)) return 'database/unavailable'
    }
    if (LOST.test(error.message)) return 'database/unavailable'
    if (
      parent instanceof Error &&
      SOCKET_ERRORS.has((parent as NodeJS.ErrnoException).code ?? '')
    ) {
      return 'database/unavailable'
    }
    error = parent ?? error.cause
  }
  return null
}
