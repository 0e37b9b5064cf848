import { useState } from 'react'
import type { SourceCard } from '../../core/api/wire'

export interface Selection {
  readonly selected: ReadonlySet<string>
  /** The selected sources that are shown, in their order. */
  readonly chosen: readonly SourceCard[]
  /** Selects or leaves out a source; with `range` all from the one touched last. */
  select(id: string, on: boolean, range: boolean): void
  clear(): void
}

/** Which of the sources that are shown are selected. */
export function useSelection(sources: readonly SourceCard[]): Selection {
  const [selected, setSelected] = useState<ReadonlySet<string>>(new Set())
  const [last, setLast] = useState<string | null>(null)
  return {
    selected,
    chosen: sources.filter((source) => selected.has(source.id)),
    select(id, on, range) {
      const ids = sources.map((source) => source.id)
      const [from, to] = [ids.indexOf(last ?? id), ids.indexOf(id)]
      const touched =
        range && from >= 0 ? ids.slice(Math.min(from, to), Math.max(from, to) + 1) : [id]
      setLast(id)
      setSelected(
        (before) =>
          new Set(
            on ? [...before, ...touched] : [...before].filter((each) => !touched.includes(each)),
          ),
      )
    },
    clear: () => setSelected(new Set()),
  }
}
