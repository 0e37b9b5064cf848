import { useCallback, useMemo } from 'react'
import { useSearchParams } from 'react-router'
import { shelfQuerySchema, type ShelfQuery } from '../../core/api/wire'

export interface AskedShelf {
  readonly query: ShelfQuery
  readonly ask: (fields: Partial<ShelfQuery>) => void
  readonly view: 'grid' | 'list'
  readonly setView: (view: 'grid' | 'list') => void
}

/** Values that an address leaves out. */
const RESTING: readonly unknown[] = [undefined, '', 'all', 0, 'grid']

/** What the shelf is asked for, kept in the address so that a closed tab opens as it was. */
export function useShelfQuery(): AskedShelf {
  const [params, setParams] = useSearchParams()
  const text = params.toString()
  const query = useMemo(() => {
    const parsed = shelfQuerySchema.safeParse(Object.fromEntries(new URLSearchParams(text)))
    return parsed.success ? parsed.data : shelfQuerySchema.parse({})
  }, [text])
  const change = useCallback(
    (fields: Record<string, unknown>): void => {
      const changed = (before: URLSearchParams): URLSearchParams => {
        const next = new URLSearchParams(before)
        for (const [name, value] of Object.entries(fields)) {
          if (RESTING.includes(value)) next.delete(name)
          else next.set(name, String(value))
        }
        return next
      }
      setParams(changed, { replace: true })
    },
    [setParams],
  )
  return {
    query,
    ask: change,
    view: params.get('view') === 'list' ? 'list' : 'grid',
    setView: (view) => change({ view }),
  }
}
