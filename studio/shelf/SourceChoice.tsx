import { useState } from 'react'
import type { SourceCard } from '../../core/api/wire'
import { SourceThumb } from '../clip/SourceThumb'
import { factLines } from './describe'

/** From so many on, a list is easier searched than scrolled. */
const SEARCHED_FROM = 6

/** Sources with their pictures, one of which is chosen; searched by name where they are many. */
export function SourceChoice({
  label,
  sources,
  chosen,
  onChoose,
}: {
  /** What they are: `Clip`. */
  label: string
  sources: readonly SourceCard[]
  /** The id of the chosen one; null while none is. */
  chosen: string | null
  onChoose: (id: string) => void
}) {
  const [search, setSearch] = useState('')
  const wanted = search.trim().toLowerCase()
  const shown = sources.filter(({ name }) => name.toLowerCase().includes(wanted))
  return (
    <div className="flex flex-col gap-1.5">
      {sources.length >= SEARCHED_FROM && (
        <input
          type="search"
          aria-label={`Search: ${label}`}
          placeholder="Search by name"
          value={search}
          onChange={(event) => setSearch(event.target.value)}
          className="rounded border border-line bg-white px-2.5 py-1.5"
        />
      )}
      <div
        role="group"
        aria-label={label}
        className="flex max-h-80 flex-col gap-1.5 overflow-auto p-0.5"
      >
        {shown.map((each) => (
          <button
            key={each.id}
            type="button"
            aria-pressed={each.id === chosen}
            title={each.name}
            onClick={() => onChoose(each.id)}
            className="flex items-center gap-3 rounded border border-line bg-white p-1.5 text-left aria-pressed:border-curtain aria-pressed:ring-1 aria-pressed:ring-curtain"
          >
            <span className="[container-type:size] h-12 w-21 shrink-0">
              <SourceThumb source={each} className="size-full" />
            </span>
            <span className="min-w-0">
              <span className="block truncate font-medium">{each.name}</span>
              <span className="text-xs text-muted">{factLines(each)[0]}</span>
            </span>
          </button>
        ))}
        {shown.length === 0 && <p className="text-muted">Nothing of this name.</p>}
      </div>
    </div>
  )
}
