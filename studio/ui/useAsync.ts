import { useEffect, useEffectEvent, useState } from 'react'
import { messageOf } from '../api/client'

/** Result of asynchronous work so far. */
export interface Async<T> {
  readonly value: T | null
  /** The sentence of its error. */
  readonly error: string | null
}

interface Options<T> {
  /** Begins only after the key has stayed the same for so long. */
  readonly delayMs?: number
  /** Lets go of a value that is not shown any more: pictures hold memory until they are closed. */
  readonly dispose?: (value: T) => void
}

/**
 * The result of work that depends only on `key`: started for each new key, cancelled when it
 * changes or the view closes. `load` may give an early value by `emit`. With null nothing is
 * started.
 */
export function useAsync<T>(
  key: string | null,
  load: (signal: AbortSignal, emit: (value: T) => void) => Promise<T>,
  { delayMs = 0, dispose }: Options<T> = {},
): Async<T> {
  const [state, setState] = useState<Async<T> & { readonly key: string | null }>({
    key: null,
    value: null,
    error: null,
  })
  const begin = useEffectEvent(load)
  const letGo = useEffectEvent((value: T) => dispose?.(value))
  useEffect(() => {
    if (key === null) return
    const abort = new AbortController()
    const { signal } = abort
    let last: T | null = null
    const show = (value: T): void => {
      last = value
      if (signal.aborted) letGo(value)
      else setState({ key, value, error: null })
    }
    const timer = setTimeout(() => {
      begin(signal, show).then(show, (error: unknown) => {
        if (!signal.aborted) setState({ key, value: null, error: messageOf(error) })
      })
    }, delayMs)
    return () => {
      clearTimeout(timer)
      abort.abort()
      if (last !== null) letGo(last)
    }
  }, [key, delayMs])
  // Results for another key are ignored.
  return state.key === key ? state : NOTHING
}

const NOTHING: Async<never> = { value: null, error: null }
