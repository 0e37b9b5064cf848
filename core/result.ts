/** An expected outcome: a value, or an error a person can act on. Bugs are thrown instead. */
export type Result<T, E> =
  { readonly ok: true; readonly value: T } | { readonly ok: false; readonly error: E }

/** Wraps a value as a success. */
export function ok<T>(value: T): { readonly ok: true; readonly value: T } {
  return { ok: true, value }
}

/** Wraps an error as a failure. */
export function fail<E>(error: E): { readonly ok: false; readonly error: E } {
  return { ok: false, error }
}

/**
 * Ends a `switch` over a union: a case that is forgotten fails to compile, and throws if data lied.
 */
export function assertNever(value: never): never {
  throw new TypeError(`Unexpected case: ${JSON.stringify(value)}`)
}
