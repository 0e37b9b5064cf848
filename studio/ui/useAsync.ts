import { useEffect, useEffectEvent, useState } from 'react'
import { messageOf } from '../api/client'

/** What a piece of work has given so far. */
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
 * The outcome of work that depends on `key` alone: begun when the key is new, cancelled when it
 * changes or the view goes. `load` may hand out a value before its end by `emit`. With null nothing
 * is wanted.
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
  // What belongs to another key is none of this one's.
  return state.key === key ? state : NOTHING
}

const NOTHING: Async<never> = { value: null, error: null }
