import { useEffect, useRef, useState } from 'react'
import { messageOf } from '../api/client'

/** What was asked for by a button, so far. */
export type Asked<T> =
  | { readonly is: 'idle' }
  | { readonly is: 'busy'; readonly told: string | null }
  | { readonly is: 'failed'; readonly message: string }
  | { readonly is: 'done'; readonly found: T }

/**
 * Work that is begun by hand and can be stopped, as it is when the view closes; `tell` says how far
 * it is. It is idle again where it gave undefined.
 */
export function useAsked<T>(
  work: (signal: AbortSignal, tell: (text: string) => void) => Promise<T | undefined>,
): { readonly state: Asked<T>; readonly ask: () => void; readonly stop: () => void } {
  const [state, setState] = useState<Asked<T>>({ is: 'idle' })
  const abort = useRef<AbortController | null>(null)
  useEffect(() => () => abort.current?.abort(), [])
  const ask = async (): Promise<void> => {
    abort.current?.abort()
    const own = new AbortController()
    abort.current = own
    const show = (next: Asked<T>): void => {
      if (abort.current === own) setState(next)
    }
    show({ is: 'busy', told: null })
    try {
      const found = await work(own.signal, (told) => show({ is: 'busy', told }))
      show(found === undefined ? { is: 'idle' } : { is: 'done', found })
    } catch (error) {
      show({ is: 'failed', message: messageOf(error) })
    }
  }
  const stop = (): void => {
    abort.current?.abort()
    // At once, however late the work notices.
    abort.current = null
    setState({ is: 'idle' })
  }
  return { state, ask: () => void ask(), stop }
}
