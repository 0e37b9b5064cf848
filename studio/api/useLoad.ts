import { useCallback, useEffect, useState } from 'react'
import { messageOf } from './client'

/** What a view loads: nothing yet, a value, or the sentence of an error. `reload` fetches again and keeps the old value meanwhile. */
export interface Loaded<T> {
  readonly value: T | null
  readonly error: string | null
  readonly reload: () => Promise<void>
}

/** Loads when shown and whenever `load` changes. */
export function useLoad<T>(load: () => Promise<T>): Loaded<T> {
  const [state, setState] = useState<{ value: T | null; error: string | null }>({ value: null, error: null })
  const reload = useCallback(async () => {
    await load().then(
      (value) => setState({ value, error: null }),
      (error: unknown) => setState((before) => ({ ...before, error: messageOf(error) })),
    )
  }, [load])
  useEffect(() => {
    let shown = true
    load().then(
      (value) => shown && setState({ value, error: null }),
      (error: unknown) => shown && setState({ value: null, error: messageOf(error) }),
    )
    return () => {
      shown = false
    }
  }, [load])
  return { ...state, reload }
}
