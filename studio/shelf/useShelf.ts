import { useCallback, useEffect, useMemo, useRef, useState } from 'react'
import { useSearchParams } from 'react-router'
import { shelfQuerySchema, type ShelfQuery, type SourceCard } from '../../core/api/wire'
import { api, messageOf } from '../api/client'

const PAGE = 60
/** A set is put in order as a whole. */
const WHOLE_SET = 200

/** What the shelf is asked for, kept in the address so that a closed tab opens as it was. */
export function useShelfQuery(): { query: ShelfQuery; ask: (fields: Partial<ShelfQuery>) => void; view: 'grid' | 'list'; setView: (view: 'grid' | 'list') => void } {
  const [params, setParams] = useSearchParams()
  const text = params.toString()
  const query = useMemo(() => {
    const parsed = shelfQuerySchema.safeParse(Object.fromEntries(new URLSearchParams(text)))
    return parsed.success ? parsed.data : shelfQuerySchema.parse({})
  }, [text])
  const change = useCallback((fields: Record<string, unknown>): void => {
    setParams((before) => {
      const next = new URLSearchParams(before)
      for (const [name, value] of Object.entries(fields)) {
        if (value === undefined || value === '' || value === 'all' || value === 0 || value === 'grid') next.delete(name)
        else next.set(name, String(value))
      }
      return next
    }, { replace: true })
  }, [setParams])
  return { query, ask: change, view: params.get('view') === 'list' ? 'list' : 'grid', setView: (view) => change({ view }) }
}

/** The part of the shelf that was loaded so far, and the number of all that match. */
export interface ShelfContents {
  readonly sources: readonly SourceCard[]
  readonly total: number
  readonly loading: boolean
  readonly error: string | null
  /** Loads the next part, where there is one. */
  more(): void
  /** Loads again as many as are shown. */
  reload(): Promise<void>
}

/** Reads the shelf part by part; the newest request wins. */
export function useShelf(projectId: string, query: ShelfQuery): ShelfContents {
  const [state, setState] = useState<{ sources: readonly SourceCard[]; total: number; loading: boolean; error: string | null }>({ sources: [], total: 0, loading: true, error: null })
  const turn = useRef(0)
  const held = useRef(state)
  held.current = state
  const load = useCallback(async (offset: number, count: number): Promise<void> => {
    const own = ++turn.current
    setState((before) => ({ ...before, loading: true }))
    try {
      const found: SourceCard[] = []
      let total = Infinity
      while (found.length < count && offset + found.length < total) {
        const page = await api.listSources(projectId, { ...query, offset: offset + found.length, limit: Math.min(200, count - found.length) })
        total = page.total
        found.push(...page.sources)
        if (page.sources.length === 0) break
      }
      if (turn.current !== own) return
      setState((before) => ({ sources: offset === 0 ? found : [...before.sources, ...found], total: Number.isFinite(total) ? total : 0, loading: false, error: null }))
    } catch (error) {
      if (turn.current === own) setState((before) => ({ ...before, loading: false, error: messageOf(error) }))
    }
  }, [projectId, query])
  useEffect(() => void load(0, query.set ? WHOLE_SET : PAGE), [load, query.set])
  return {
    ...state,
    more: useCallback(() => {
      const { sources, total, loading } = held.current
      if (!loading && sources.length < total) void load(sources.length, PAGE)
    }, [load]),
    reload: useCallback(() => load(0, Math.max(query.set ? WHOLE_SET : PAGE, held.current.sources.length)), [load, query.set]),
  }
}
