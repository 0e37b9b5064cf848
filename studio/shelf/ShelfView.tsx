import { FolderPlus, LayoutGrid, List, Plus, Search, Trash2, Upload, X } from 'lucide-react'
import { useCallback, useEffect, useRef, useState, type DragEvent } from 'react'
import { useParams } from 'react-router'
import type { ShelfQuery, SourceCard, StillSet } from '../../core/api/wire'
import { api, messageOf } from '../api/client'
import { useLoad } from '../api/useLoad'
import { Loading, Problem, Shell } from '../app/Shell'
import { useAnalysis } from '../state/analysisStore'
import { useNotices } from '../state/noticeStore'
import { useUploads } from '../state/uploadStore'
import { AskDialog, TextLine } from '../ui/AskDialog'
import { Button } from '../ui/controls'
import { formatBytes } from '../ui/format'
import { Picker } from '../ui/Picker'
import { carryOutMend } from './mendOffers'
import { ReplaceDialog } from './ReplaceDialog'
import { SetBoard } from './SetBoard'
import { SourceCards, type SourceDeed } from './SourceCards'
import { Uploads } from './Uploads'
import { useShelf, useShelfQuery } from './useShelf'

type Asking = { readonly kind: SourceDeed; readonly source: SourceCard } | { readonly kind: 'new-set' | 'rename-set' } | null

/** A project's material: found, filtered, judged and put in order. Files come by the button or by dropping them anywhere on the view. */
export function ShelfView() {
  const { projectId = '' } = useParams()
  const { query, ask, view, setView } = useShelfQuery()
  const load = useCallback(
    async () => ({ project: await api.readProject(projectId), unfinished: await api.listUploads(projectId), sets: await api.listSets(projectId), config: await api.config() }),
    [projectId],
  )
  const { value, error, reload } = useLoad(load)
  const shelf = useShelf(projectId, query)
  const { items, arrivals, add } = useUploads()
  const measured = useAnalysis((state) => state.arrivals)
  const tell = useNotices((state) => state.tell)
  const picker = useRef<HTMLInputElement>(null)
  const [scroller, setScroller] = useState<HTMLElement | null>(null)
  const [over, setOver] = useState(false)
  const [asking, setAsking] = useState<Asking>(null)
  const [name, setName] = useState('')
  const [selected, setSelected] = useState<ReadonlySet<string>>(new Set())
  const lastPicked = useRef<string | null>(null)
  const { reload: reloadShelf } = shelf

  useEffect(() => {
    if (arrivals === 0 && measured === 0) return
    void reload()
    void reloadShelf()
  }, [arrivals, measured, reload, reloadShelf])
  useEffect(() => useAnalysis.getState().ensure(shelf.sources.filter((source) => !source.measured)), [shelf.sources])

  if (error && !value) return <Shell crumbs={[{ label: 'Shelf' }]}><Problem message={error} onRetry={() => void reload()} /></Shell>
  if (!value) return <Shell crumbs={[{ label: 'Shelf' }]}><Loading /></Shell>
  const { project, unfinished, config, sets } = value
  const own = items.filter((item) => item.projectId === projectId)
  const resting = unfinished.filter((upload) => !own.some((item) => item.name === upload.filename && item.bytes === upload.bytes))
  const set = sets.find((each) => each.id === query.set) ?? null
  const chosen = shelf.sources.filter((source) => selected.has(source.id))
  const both = async (): Promise<void> => void (await Promise.all([reload(), reloadShelf()]))
  const take = (files: FileList | null): void => {
    if (files && files.length > 0) add(projectId, [...files], config.maxUploadBytes)
  }
  const drop = (event: DragEvent): void => {
    event.preventDefault()
    setOver(false)
    take(event.dataTransfer.files)
  }
  const select = (id: string, on: boolean, range: boolean): void => {
    const ids = shelf.sources.map((source) => source.id)
    const [from, to] = [ids.indexOf(lastPicked.current ?? id), ids.indexOf(id)]
    const touched = range && from >= 0 ? ids.slice(Math.min(from, to), Math.max(from, to) + 1) : [id]
    lastPicked.current = id
    setSelected((before) => new Set(on ? [...before, ...touched] : [...before].filter((each) => !touched.includes(each))))
  }
  const remove = async (sources: readonly SourceCard[]): Promise<void> => {
    const ids = sources.map((source) => source.id)
    try {
      await api.deleteSources(ids)
      setSelected(new Set())
      tell(sources.length === 1 ? `${sources[0]!.name} is off the shelf.` : `${sources.length} sources are off the shelf.`, () => api.restoreSources(ids).then(both))
    } catch (problem) {
      const users = [...new Set(sources.flatMap((source) => source.usedBy))]
      tell(users.length > 0 ? `Used by ${users.join(', ')}: replace the clip there first. Nothing was taken off.` : messageOf(problem))
    }
    await both()
  }
  const saveSet = async (changed: StillSet, sourceIds: readonly string[]): Promise<void> => {
    await api.saveSet(changed.id, { name: changed.name, sourceIds })
    tell(`${changed.name} is in its new order.`, () => api.saveSet(changed.id, { name: changed.name, sourceIds: changed.sourceIds }).then(both))
    await both()
  }
  const onDeed = (kind: SourceDeed, source: SourceCard): void => {
    if (kind === 'delete') {
      void remove([source])
      return
    }
    setName(source.name)
    setAsking({ kind, source })
  }
  const filtered = query.search !== '' || query.kind !== 'all' || query.orientation !== 'all' || query.liveliness !== 'all' || query.wide > 0 || query.findings !== 'all'
  const stills = chosen.filter((source) => source.facts.kind === 'still')
  return (
    <div
      className="relative h-full"
      onDragOver={(event) => {
        if (!event.dataTransfer.types.includes('Files')) return
        event.preventDefault()
        setOver(true)
      }}
      onDragLeave={(event) => event.currentTarget.contains(event.relatedTarget as Node) || setOver(false)}
      onDrop={drop}
    >
      <Shell
        crumbs={[{ label: 'Projects', to: '/' }, { label: project.name, to: `/projects/${project.id}` }, { label: 'Shelf' }]}
        actions={<Button tone="accent" onClick={() => picker.current?.click()}><Plus className="size-4" aria-hidden />Add material</Button>}
      >
        <input ref={picker} type="file" multiple accept="video/*,image/*,.mkv,.mov,.avif" className="hidden" aria-label="Files to add" onChange={(event) => {
          take(event.target.files)
          event.target.value = ''
        }} />
        <main ref={setScroller} className="min-h-0 flex-1 overflow-auto px-6 py-4">
          <div className="mb-3 flex flex-wrap items-baseline gap-x-3">
            <h1 className="text-2xl figure-face">Shelf</h1>
            <p className="text-muted">Clips and stills, up to {formatBytes(config.maxUploadBytes)} each. Drop files anywhere here; each is read before it is sent.</p>
          </div>
          <Uploads items={own} resting={resting} onPick={() => picker.current?.click()} onGone={() => void reload()} />
          {chosen.length > 0 ? (
            <SelectionBar
              count={chosen.length} onNone={() => setSelected(new Set())} onDelete={() => void remove(chosen)}
              onSet={stills.length === 0 ? null : () => {
                setName(set?.name ?? 'New set')
                setAsking({ kind: 'new-set' })
              }}
              sets={stills.length === 0 ? [] : sets} onPutInto={(into) => void api.saveSet(into.id, { name: into.name, sourceIds: [...into.sourceIds, ...stills.map((source) => source.id)] }).then(async () => {
                tell(`${stills.length === 1 ? stills[0]!.name : `${stills.length} stills`} put into ${into.name}.`, () => api.saveSet(into.id, into).then(both))
                setSelected(new Set())
                await both()
              })}
            />
          ) : (
            <Toolbar query={query} ask={ask} view={view} setView={setView} sets={sets} total={shelf.total} filtered={filtered} />
          )}
          {set ? (
            <SetBoard
              set={set} sources={shelf.sources} onChange={(ids) => void saveSet(set, ids)}
              onRename={() => {
                setName(set.name)
                setAsking({ kind: 'rename-set' })
              }}
              onDelete={() => void api.deleteSet(set.id).then(async () => {
                ask({ set: undefined })
                tell(`${set.name} is gone; its stills stay.`, () => api.createSet(projectId, set).then(both))
                await both()
              })}
            />
          ) : shelf.sources.length > 0 && scroller ? (
            <SourceCards sources={shelf.sources} view={view} selected={selected} onSelect={select} onDeed={onDeed} onMend={(offer, source) => {
              tell(`${offer.label}: ${source.name} is being copied …`)
              void carryOutMend(source, offer.request, offer.label, both).catch((problem: unknown) => tell(messageOf(problem)))
            }} onEnd={shelf.more} scroller={scroller} />
          ) : shelf.loading ? <Loading /> : shelf.error ? <Problem message={shelf.error} onRetry={() => void reloadShelf()} /> : filtered ? (
            <div className="grid place-items-center gap-3 p-14 text-center"><p>Nothing on the shelf fits all of this.</p><Button onClick={() => ask(NO_FILTER)}>Show everything</Button></div>
          ) : own.length === 0 && (
            <button type="button" onClick={() => picker.current?.click()} className="grid w-full place-items-center gap-3 rounded-lg border-2 border-dashed border-line-strong p-14 text-center hover:bg-sheet">
              <Upload className="size-8 text-curtain" aria-hidden />
              <span>The shelf is empty. Drop clips and stills here, or choose them.<br /><span className="text-muted">MP4, MOV, WebM, MKV, animated GIF, WebP and AVIF; JPEG, PNG, WebP, AVIF, SVG.</span></span>
            </button>
          )}
        </main>
      </Shell>
      {over && <div className="pointer-events-none absolute inset-0 z-40 grid place-items-center border-4 border-curtain bg-paper/85 text-xl font-semibold">Drop the files to add them to {project.name}</div>}
      {asking?.kind === 'rename' && <AskDialog title="Rename source" action="Rename" onClose={() => setAsking(null)} onAct={() => api.renameSource(asking.source.id, name).then(reloadShelf)}><TextLine label="Name" value={name} onChange={setName} /></AskDialog>}
      {asking?.kind === 'replace' && <ReplaceDialog source={asking.source} onClose={() => setAsking(null)} onDone={both} />}
      {asking?.kind === 'new-set' && (
        <AskDialog title={`Make a set of ${stills.length} ${stills.length === 1 ? 'still' : 'stills'}`} action="Make the set" onClose={() => setAsking(null)} onAct={async () => {
          const made = await api.createSet(projectId, { name, sourceIds: stills.map((source) => source.id) })
          setSelected(new Set())
          await both()
          ask({ ...NO_FILTER, set: made.id })
        }}><TextLine label="Name" value={name} onChange={setName} /></AskDialog>
      )}
      {asking?.kind === 'rename-set' && set && <AskDialog title="Rename set" action="Rename" onClose={() => setAsking(null)} onAct={() => api.saveSet(set.id, { name, sourceIds: set.sourceIds }).then(both)}><TextLine label="Name" value={name} onChange={setName} /></AskDialog>}
    </div>
  )
}

const NO_FILTER: Partial<ShelfQuery> = { search: '', kind: 'all', orientation: 'all', liveliness: 'all', wide: 0, findings: 'all' }

interface ToolbarProps {
  readonly query: ShelfQuery
  readonly ask: (fields: Partial<ShelfQuery>) => void
  readonly view: 'grid' | 'list'
  readonly setView: (view: 'grid' | 'list') => void
  readonly sets: readonly StillSet[]
  readonly total: number
  readonly filtered: boolean
}

function Toolbar({ query, ask, view, setView, sets, total, filtered }: ToolbarProps) {
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
    <div role="group" aria-label="Filter and sort" className="sticky -top-4 z-20 -mx-6 mb-3 flex flex-wrap items-center gap-2 bg-paper px-6 py-2">
      {!query.set && <label className="relative">
        <Search className="absolute top-2 left-2 size-4 text-muted" aria-hidden />
        <input type="search" aria-label="Search by name" placeholder="Search by name" value={typed} onChange={(event) => setTyped(event.target.value)} className="h-8 w-48 rounded border border-line-strong/60 bg-white pr-2 pl-8" />
      </label>}
      {!query.set && (
        <>
          <Picker label="Kind" resting="all" value={query.kind} onChange={(kind) => ask({ kind })} options={[{ value: 'all', label: 'Clips and stills' }, { value: 'clip', label: 'Clips' }, { value: 'still', label: 'Stills' }]} />
          <Picker label="Shape" resting="all" value={query.orientation} onChange={(orientation) => ask({ orientation })} options={[{ value: 'all', label: 'Any shape' }, { value: 'landscape', label: 'Landscape' }, { value: 'portrait', label: 'Portrait' }, { value: 'square', label: 'Square' }]} />
          <Picker label="Sharp on" resting="0" value={String(query.wide)} onChange={(wide) => ask({ wide: Number(wide) })} options={[{ value: '0', label: 'Any screen' }, { value: '1280', label: 'Sharp on laptops, 1280' }, { value: '1920', label: 'Sharp on wide screens, 1920' }]} />
          <Picker label="Motion" resting="all" value={query.liveliness} onChange={(liveliness) => ask({ liveliness })} options={[{ value: 'all', label: 'Any motion' }, { value: 'calm', label: 'Calm' }, { value: 'lively', label: 'Lively' }, { value: 'busy', label: 'Busy' }]} />
          <Picker label="Findings" resting="all" value={query.findings} onChange={(findings) => ask({ findings })} options={[{ value: 'all', label: 'With or without findings' }, { value: 'some', label: 'Has findings' }, { value: 'none', label: 'No findings' }]} />
          {filtered && <Button tone="quiet" onClick={() => { setTyped(''); ask(NO_FILTER) }}><X className="size-3.5" aria-hidden />Clear</Button>}
        </>
      )}
      {(sets.length > 0 || query.set) && <Picker label="Sets" resting="" value={query.set ?? ''} onChange={(id) => ask({ ...NO_FILTER, set: id === '' ? undefined : id })} options={[{ value: '', label: 'Whole shelf' }, ...sets.map((set) => ({ value: set.id, label: `Set: ${set.name}` }))]} />}
      <span className="ml-auto text-muted" role="status">{total} {total === 1 ? 'source' : 'sources'}</span>
      {!query.set && <Picker label="Sort" value={query.sort} onChange={(sort) => ask({ sort })} options={[{ value: 'newest', label: 'Newest first' }, { value: 'oldest', label: 'Oldest first' }, { value: 'name', label: 'By name' }, { value: 'bytes', label: 'Heaviest first' }, { value: 'duration', label: 'Longest first' }]} />}
      {!query.set && <span role="group" aria-label="View" className="flex rounded border border-line-strong/60 bg-sheet">
        {([['grid', LayoutGrid, 'Large pictures'], ['list', List, 'Compact list']] as const).map(([each, Icon, label]) => (
          <button key={each} type="button" aria-label={label} title={label} aria-pressed={view === each} onClick={() => setView(each)} className="grid size-8 place-items-center rounded aria-pressed:bg-ink aria-pressed:text-white"><Icon className="size-4" aria-hidden /></button>
        ))}
      </span>}
    </div>
  )
}

interface SelectionProps {
  readonly count: number
  readonly sets: readonly StillSet[]
  readonly onNone: () => void
  readonly onDelete: () => void
  readonly onSet: (() => void) | null
  readonly onPutInto: (set: StillSet) => void
}

function SelectionBar({ count, sets, onNone, onDelete, onSet, onPutInto }: SelectionProps) {
  return (
    <div role="group" aria-label="Selected sources" className="sticky -top-4 z-20 -mx-6 mb-3 flex flex-wrap items-center gap-2 bg-paper-deep px-6 py-2">
      <b className="font-semibold" role="status">{count} selected</b>
      {onSet && <Button onClick={onSet}><FolderPlus className="size-4" aria-hidden />Make a set of the stills</Button>}
      {sets.map((set) => <Button key={set.id} onClick={() => onPutInto(set)}>Put into {set.name}</Button>)}
      <Button tone="danger" onClick={onDelete}><Trash2 className="size-4" aria-hidden />Take off the shelf</Button>
      <Button tone="quiet" onClick={onNone}>Select none</Button>
      {!onSet && <span className="text-muted">Sets are made of stills.</span>}
    </div>
  )
}
