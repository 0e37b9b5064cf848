import { FolderPlus, GalleryHorizontal, LayoutGrid, List, Search, Trash2, X } from 'lucide-react'
import { useEffect, useRef, useState } from 'react'
import type { ShelfQuery, ImageSet } from '../../core/api/wire'
import { Button } from '../ui/controls'
import { Picker } from '../ui/Picker'

export const NO_FILTER: Partial<ShelfQuery> = {
  search: '',
  kind: 'all',
  orientation: 'all',
  liveliness: 'all',
  wide: 0,
  findings: 'all',
}

interface ToolbarProps {
  readonly query: ShelfQuery
  readonly ask: (fields: Partial<ShelfQuery>) => void
  readonly view: 'grid' | 'list'
  readonly setView: (view: 'grid' | 'list') => void
  readonly sets: readonly ImageSet[]
  readonly total: number
  readonly filtered: boolean
}

export function ShelfToolbar({ query, ask, view, setView, sets, total, filtered }: ToolbarProps) {
  const [typed, setTyped] = useState(query.search)
  const asked = useRef(query.search)
  useEffect(() => {
    const timer = setTimeout(() => {
      if (typed === asked.current) return
      asked.current = typed
      ask({ search: typed })
    }, 200)
    return () => clearTimeout(timer)
  }, [typed, ask])
  useEffect(() => {
    // Cleared from elsewhere, or by going back: the field follows, but never what is being typed.
    if (query.search === asked.current) return
    asked.current = query.search
    setTyped(query.search)
  }, [query.search])
  return (
    <div
      role="group"
      aria-label="Filter and sort"
      className="sticky -top-4 z-20 -mx-6 mb-3 flex flex-wrap items-center gap-2 bg-paper px-6 py-2"
    >
      {!query.set && (
        <label className="relative">
          <Search className="absolute top-2 left-2 size-4 text-muted" aria-hidden />
          <input
            type="search"
            aria-label="Search by name"
            placeholder="Search by name"
            value={typed}
            onChange={(event) => setTyped(event.target.value)}
            className="h-8 w-48 rounded border border-line-strong/60 bg-white pr-2 pl-8"
          />
        </label>
      )}
      {!query.set && (
        <>
          <Filters query={query} ask={ask} />
          {filtered && (
            <Button
              tone="quiet"
              onClick={() => {
                setTyped('')
                ask(NO_FILTER)
              }}
            >
              <X className="size-3.5" aria-hidden />
              Clear
            </Button>
          )}
        </>
      )}
      {(sets.length > 0 || query.set) && (
        <Picker
          label="Sets"
          resting=""
          value={query.set ?? ''}
          onChange={(id) => ask({ ...NO_FILTER, set: id === '' ? undefined : id })}
          options={[
            { value: '', label: 'Whole shelf' },
            ...sets.map((set) => ({ value: set.id, label: `Set: ${set.name}` })),
          ]}
        />
      )}
      <span className="ml-auto text-muted" role="status">
        {total} {total === 1 ? 'source' : 'sources'}
      </span>
      {!query.set && (
        <Picker
          label="Sort"
          value={query.sort}
          onChange={(sort) => ask({ sort })}
          options={[
            { value: 'newest', label: 'Newest first' },
            { value: 'oldest', label: 'Oldest first' },
            { value: 'name', label: 'By name' },
            { value: 'bytes', label: 'Largest first' },
            { value: 'duration', label: 'Longest first' },
          ]}
        />
      )}
      {!query.set && <ViewChoice view={view} setView={setView} />}
    </div>
  )
}

function Filters({ query, ask }: Pick<ToolbarProps, 'query' | 'ask'>) {
  return (
    <>
      <Picker
        label="Kind"
        resting="all"
        value={query.kind}
        onChange={(kind) => ask({ kind })}
        options={[
          { value: 'all', label: 'Clips and images' },
          { value: 'clip', label: 'Clips' },
          { value: 'image', label: 'Images' },
        ]}
      />
      <Picker
        label="Shape"
        resting="all"
        value={query.orientation}
        onChange={(orientation) => ask({ orientation })}
        options={[
          { value: 'all', label: 'Any shape' },
          { value: 'landscape', label: 'Landscape' },
          { value: 'portrait', label: 'Portrait' },
          { value: 'square', label: 'Square' },
        ]}
      />
      <Picker
        label="Sharp on"
        resting="0"
        value={String(query.wide)}
        onChange={(wide) => ask({ wide: Number(wide) })}
        options={[
          { value: '0', label: 'Any screen' },
          { value: '1280', label: 'Sharp on laptops, 1280' },
          { value: '1920', label: 'Sharp on wide screens, 1920' },
        ]}
      />
      <Picker
        label="Motion"
        resting="all"
        value={query.liveliness}
        onChange={(liveliness) => ask({ liveliness })}
        options={[
          { value: 'all', label: 'Any motion' },
          { value: 'calm', label: 'Calm' },
          { value: 'lively', label: 'Lively' },
          { value: 'busy', label: 'Busy' },
        ]}
      />
      <Picker
        label="Findings"
        resting="all"
        value={query.findings}
        onChange={(findings) => ask({ findings })}
        options={[
          { value: 'all', label: 'With or without findings' },
          { value: 'some', label: 'Has findings' },
          { value: 'none', label: 'No findings' },
        ]}
      />
    </>
  )
}

function ViewChoice({ view, setView }: Pick<ToolbarProps, 'view' | 'setView'>) {
  return (
    <span
      role="group"
      aria-label="View"
      className="flex rounded border border-line-strong/60 bg-sheet"
    >
      {(
        [
          ['grid', LayoutGrid, 'Large pictures'],
          ['list', List, 'Compact list'],
        ] as const
      ).map(([each, Icon, label]) => (
        <button
          key={each}
          type="button"
          aria-label={label}
          title={label}
          aria-pressed={view === each}
          onClick={() => setView(each)}
          className="grid size-8 place-items-center rounded aria-pressed:bg-ink aria-pressed:text-white"
        >
          <Icon className="size-4" aria-hidden />
        </button>
      ))}
    </span>
  )
}

interface SelectionProps {
  readonly count: number
  readonly sets: readonly ImageSet[]
  readonly onNone: () => void
  readonly onDelete: () => void
  readonly onSet: (() => void) | null
  /** Null where there are fewer images than a slideshow needs. */
  readonly onSlideshow: (() => void) | null
  readonly onPutInto: (set: ImageSet) => void
}

export function SelectionBar({
  count,
  sets,
  onNone,
  onDelete,
  onSet,
  onSlideshow,
  onPutInto,
}: SelectionProps) {
  return (
    <div
      role="group"
      aria-label="Selected sources"
      className="sticky -top-4 z-20 -mx-6 mb-3 flex flex-wrap items-center gap-2 bg-paper-deep px-6 py-2"
    >
      <b className="font-semibold" role="status">
        {count} selected
      </b>
      {onSet && (
        <Button onClick={onSet}>
          <FolderPlus className="size-4" aria-hidden />
          Make a set of images
        </Button>
      )}
      {onSlideshow && (
        <Button onClick={onSlideshow}>
          <GalleryHorizontal className="size-4" aria-hidden />
          Make a slideshow
        </Button>
      )}
      {sets.map((set) => (
        <Button key={set.id} onClick={() => onPutInto(set)}>
          Put into {set.name}
        </Button>
      ))}
      <Button tone="danger" onClick={onDelete}>
        <Trash2 className="size-4" aria-hidden />
        Take off the shelf
      </Button>
      <Button tone="quiet" onClick={onNone}>
        Clear selection
      </Button>
      {!onSet && <span className="text-muted">Sets contain images.</span>}
    </div>
  )
}
