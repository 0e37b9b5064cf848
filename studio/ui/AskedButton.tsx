import type { ReactNode } from 'react'
import { Button } from './controls'
import type { useAsked } from './useAsked'

/** Begins work that is asked for; while it goes on it tells how far it is, and stops it. */
export function AskedButton({
  asked: { state, ask, stop },
  children,
}: {
  readonly asked: Pick<ReturnType<typeof useAsked>, 'ask' | 'stop' | 'state'>
  readonly children: ReactNode
}) {
  return (
    <>
      {state.is === 'busy' ? (
        <Button onClick={stop}>
          <span role="status" className="truncate">
            {state.told ?? 'Measuring'} …
          </span>
          <span className="ml-auto pl-2 font-medium">Stop</span>
        </Button>
      ) : (
        <Button onClick={ask}>{children}</Button>
      )}
      {state.is === 'failed' && (
        <p role="alert" className="text-xs text-fix">
          {state.message}
        </p>
      )}
    </>
  )
}
