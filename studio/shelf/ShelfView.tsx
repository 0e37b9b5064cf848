import { Plus, Upload } from 'lucide-react'
import { useEffect, useRef, useState } from 'react'
import { useParams } from 'react-router'
import type { ImageSet, Project, SlidesOrder, SourceCard } from '../../core/api/wire'
import { SLIDE_COUNT } from '../../core/kinds/slideshow/Slideshow'
import { api, messageOf } from '../api/client'
import {
  shelfChanged,
  useConfig,
  useProject,
  useSets,
  useShelf,
  useUnfinishedUploads,
} from '../api/queries'
import { Loading, Problem, Shell } from '../shell/Shell'
import { useAnalysis } from '../state/analysisStore'
import { useNotices } from '../state/noticeStore'
import { useUploads } from '../state/uploadStore'
import { AskDialog, TextLine } from '../ui/AskDialog'
import { Button } from '../ui/controls'
import { formatBytes } from '../ui/format'
import { runRepair, type RepairOffer } from './repairOffers'
import { ReplaceDialog } from './ReplaceDialog'
import { SetBoard } from './SetBoard'
import { NO_FILTER, SelectionBar, ShelfToolbar } from './ShelfToolbar'
import { SourceCards, type SourceAction } from './SourceCards'
import { DropArea } from '../ui/DropArea'
import { Uploads } from './Uploads'
import { SlideshowDialog } from './SlideshowDialog'
import { useSelection, type Selection } from './useSelection'
import { useShelfActions } from './useShelfActions'
import { useShelfQuery, type AskedShelf } from './useShelfQuery'

type Asking =
  | { readonly kind: SourceAction; readonly source: SourceCard }
  | { readonly kind: 'new-set'; readonly images: readonly SourceCard[] }
  | { readonly kind: 'rename-set'; readonly set: ImageSet }
  | { readonly kind: 'slideshow'; readonly slides: SlidesOrder; readonly name: string }
  | null

/**
 * A project's material: found, filtered, judged and put in order. Files come by the button or by
 * dropping them anywhere.
 */
export function ShelfView() {
  const { projectId = '' } = useParams()
  const project = useProject(projectId)
  const config = useConfig()
  const failed = project.error ?? config.error
  const retry = (): void => void Promise.all([project.refetch(), config.refetch()])
  if (project.data && config.data) {
    return (
      <Shelf key={projectId} project={project.data} maxUploadBytes={config.data.maxUploadBytes} />
    )
  }
  return (
    <Shell crumbs={[{ label: 'Shelf' }]}>
      {failed ? <Problem message={failed.message} onRetry={retry} /> : <Loading />}
    </Shell>
  )
}

function Shelf({ project, maxUploadBytes }: { project: Project; maxUploadBytes: number }) {
  const asked = useShelfQuery()
  const shelf = useShelf(project.id, asked.query)
  const { data: sets = [] } = useSets(project.id)
  const add = useUploads((state) => state.add)
  const picker = useRef<HTMLInputElement>(null)
  const [scroller, setScroller] = useState<HTMLElement | null>(null)
  const [asking, setAsking] = useState<Asking>(null)
  const selection = useSelection(shelf.sources)
  const { sources } = shelf
  const set = sets.find((each) => each.id === asked.query.set) ?? null

  useEffect(() => {
    const unmeasured = sources.filter((source) => !source.measured)
    if (unmeasured.length > 0) useAnalysis.getState().ensure(unmeasured)
  }, [sources])

  const take = (files: FileList | null): void => {
    if (files && files.length > 0) add(project.id, [...files], maxUploadBytes)
  }
  const pick = (): void => picker.current?.click()
  return (
    <DropArea label={`Drop the files to add them to ${project.name}`} onFiles={take}>
      <Shell
        crumbs={[
          { label: 'Projects', to: '/' },
          { label: project.name, to: `/projects/${project.id}` },
          { label: 'Shelf' },
        ]}
        actions={
          <Button tone="accent" onClick={pick}>
            <Plus className="size-4" aria-hidden />
            Add files
          </Button>
        }
      >
        <input
          ref={picker}
          type="file"
          multiple
          accept="video/*,image/*,.mkv,.mov,.avif"
          className="hidden"
          aria-label="Files to add"
          onChange={(event) => {
            take(event.target.files)
            event.target.value = ''
          }}
        />
        <main ref={setScroller} className="min-h-0 flex-1 overflow-auto px-6 py-4">
          <div className="mb-3 flex flex-wrap items-baseline gap-x-3">
            <h1 className="text-2xl figure-face">Shelf</h1>
            <p className="text-muted">
              Clips and images, up to {formatBytes(maxUploadBytes)} each. Drop files anywhere here;
              each is read before it is sent.
            </p>
          </div>
          <UploadList projectId={project.id} onPick={pick} />
          <Bar
            asked={asked}
            sets={sets}
            total={shelf.total}
            projectId={project.id}
            selection={selection}
            onAsk={setAsking}
          />
          <Content
            projectId={project.id}
            shelf={shelf}
            asked={asked}
            set={set}
            selection={selection}
            scroller={scroller}
            onAsk={setAsking}
            onPick={pick}
          />
        </main>
      </Shell>
      <Dialogs
        key={JSON.stringify(asking?.kind)}
        projectId={project.id}
        asking={asking}
        selection={selection}
        asked={asked}
        onClose={() => setAsking(null)}
      />
    </DropArea>
  )
}

/** The open set, the cards, or why there are none. */
function Content({
  projectId,
  shelf,
  asked,
  set,
  selection,
  scroller,
  onAsk,
  onPick,
}: {
  projectId: string
  shelf: ReturnType<typeof useShelf>
  asked: AskedShelf
  set: ImageSet | null
  selection: Selection
  scroller: HTMLElement | null
  onAsk: (asking: Asking) => void
  onPick: () => void
}) {
  const { sources } = shelf
  if (set)
    return <OpenSet set={set} sources={sources} projectId={projectId} asked={asked} onAsk={onAsk} />
  if (sources.length > 0 && scroller)
    return (
      <Cards
        projectId={projectId}
        sources={sources}
        view={asked.view}
        selection={selection}
        scroller={scroller}
        onEnd={shelf.more}
        onAsk={onAsk}
      />
    )
  if (shelf.isLoading) return <Loading />
  if (shelf.error)
    return <Problem message={shelf.error.message} onRetry={() => void shelf.reload()} />
  return <Nothing projectId={projectId} asked={asked} onPick={onPick} />
}

function UploadList({ projectId, onPick }: { projectId: string; onPick: () => void }) {
  const items = useUploads((state) => state.items)
  const { data: unfinished = [], refetch } = useUnfinishedUploads(projectId)
  const own = items.filter((item) => item.projectId === projectId)
  const resting = unfinished.filter(
    (upload) => !own.some((item) => item.name === upload.filename && item.bytes === upload.bytes),
  )
  return <Uploads items={own} resting={resting} onPick={onPick} onGone={() => void refetch()} />
}

interface BarProps {
  readonly asked: AskedShelf
  readonly sets: readonly ImageSet[]
  readonly total: number
  readonly projectId: string
  readonly selection: Selection
  readonly onAsk: (asking: Asking) => void
}

/** Filters, or what can be done with the sources that are selected. */
function Bar({ asked, sets, total, projectId, selection, onAsk }: BarProps) {
  const actions = useShelfActions(projectId)
  const { chosen, clear } = selection
  const images = chosen.filter((source) => source.facts.kind === 'image')
  const then = (done: boolean): void => {
    if (done) clear()
  }
  if (chosen.length === 0) {
    return <ShelfToolbar {...asked} sets={sets} total={total} filtered={isFiltered(asked)} />
  }
  return (
    <SelectionBar
      count={chosen.length}
      onNone={clear}
      onDelete={() => void actions.remove(chosen).then(then)}
      onSet={images.length === 0 ? null : () => onAsk({ kind: 'new-set', images })}
      onSlideshow={
        images.length < SLIDE_COUNT.min
          ? null
          : () =>
              onAsk({
                kind: 'slideshow',
                slides: { sourceIds: images.map(({ id }) => id), setId: null },
                name: 'Slideshow',
              })
      }
      sets={images.length === 0 ? [] : sets}
      onPutInto={(set) => void actions.putInto(set, images).then(then)}
    />
  )
}

function isFiltered({ query }: AskedShelf): boolean {
  return Object.entries(NO_FILTER).some(
    ([name, resting]) => query[name as keyof typeof query] !== resting,
  )
}

interface SetProps {
  readonly set: ImageSet
  readonly sources: readonly SourceCard[]
  readonly projectId: string
  readonly asked: AskedShelf
  readonly onAsk: (asking: Asking) => void
}

function OpenSet({ set, sources, projectId, asked, onAsk }: SetProps) {
  const actions = useShelfActions(projectId)
  return (
    <SetBoard
      set={set}
      sources={sources}
      onChange={(ids) => void actions.reorder(set, ids)}
      onRename={() => onAsk({ kind: 'rename-set', set })}
      onSlideshow={() =>
        onAsk({
          kind: 'slideshow',
          slides: { sourceIds: set.sourceIds, setId: set.id },
          name: set.name,
        })
      }
      onDelete={() =>
        void actions.deleteSet(set).then((done) => {
          if (done) asked.ask({ set: undefined })
        })
      }
    />
  )
}

interface CardsProps {
  readonly projectId: string
  readonly sources: readonly SourceCard[]
  readonly view: 'grid' | 'list'
  readonly selection: Selection
  readonly scroller: HTMLElement
  readonly onEnd: () => void
  readonly onAsk: (asking: Asking) => void
}

function Cards({ projectId, sources, view, selection, scroller, onEnd, onAsk }: CardsProps) {
  const actions = useShelfActions(projectId)
  const tell = useNotices((state) => state.tell)
  const repair = (offer: RepairOffer, source: SourceCard): void => {
    tell(`${offer.label}: ${source.name} is being copied …`)
    runRepair(source, offer.request, offer.label, () => shelfChanged(projectId)).catch(
      (problem: unknown) => tell(messageOf(problem)),
    )
  }
  return (
    <SourceCards
      sources={sources}
      view={view}
      selected={selection.selected}
      onSelect={selection.select}
      onAction={(kind, source) =>
        kind === 'delete' ? void actions.remove([source]) : onAsk({ kind, source })
      }
      onRepair={repair}
      onEnd={onEnd}
      scroller={scroller}
    />
  )
}

/** Where there is nothing to show: because of the filters, or because there is nothing yet. */
function Nothing({
  projectId,
  asked,
  onPick,
}: {
  projectId: string
  asked: AskedShelf
  onPick: () => void
}) {
  const isUploading = useUploads((state) =>
    state.items.some((item) => item.projectId === projectId),
  )
  if (isFiltered(asked)) {
    return (
      <div className="grid place-items-center gap-3 p-14 text-center">
        <p>No source matches these filters.</p>
        <Button onClick={() => asked.ask(NO_FILTER)}>Clear filters</Button>
      </div>
    )
  }
  if (isUploading) return null
  return (
    <button
      type="button"
      onClick={onPick}
      className="grid w-full place-items-center gap-3 rounded-lg border-2 border-dashed border-line-strong p-14 text-center hover:bg-sheet"
    >
      <Upload className="size-8 text-curtain" aria-hidden />
      <span>
        The shelf is empty. Drop clips and images here, or choose files.
        <br />
        <span className="text-muted">
          MP4, MOV, WebM, MKV, animated GIF, WebP and AVIF; JPEG, PNG, WebP, AVIF, SVG.
        </span>
      </span>
    </button>
  )
}

interface DialogsProps {
  readonly projectId: string
  readonly asking: Asking
  readonly selection: Selection
  readonly asked: AskedShelf
  readonly onClose: () => void
}

function startName(asking: Asking): string {
  if (asking?.kind === 'rename-set') return asking.set.name
  if (asking?.kind === 'slideshow') return asking.name
  return asking?.kind === 'new-set' ? 'New set' : (asking?.source.name ?? '')
}

function Dialogs({ projectId, asking, selection, asked, onClose }: DialogsProps) {
  const [name, setName] = useState(startName(asking))
  const changed = (): Promise<void> => shelfChanged(projectId)
  const line = <TextLine label="Name" value={name} onChange={setName} />
  switch (asking?.kind) {
    case 'rename':
      return (
        <AskDialog
          title="Rename source"
          action="Rename"
          onClose={onClose}
          onAct={() => api.renameSource(asking.source.id, name).then(changed)}
        >
          {line}
        </AskDialog>
      )
    case 'slideshow':
      return (
        <SlideshowDialog
          projectId={projectId}
          slides={asking.slides}
          firstName={asking.name}
          onClose={onClose}
        />
      )
    case 'replace':
      return <ReplaceDialog source={asking.source} onClose={onClose} onDone={changed} />
    case 'new-set': {
      const { images } = asking
      const make = async (): Promise<void> => {
        const made = await api.createSet(projectId, {
          name,
          sourceIds: images.map((image) => image.id),
        })
        selection.clear()
        await changed()
        asked.ask({ ...NO_FILTER, set: made.id })
      }
      return (
        <AskDialog
          title={`Make a set of ${images.length} ${images.length === 1 ? 'image' : 'images'}`}
          action="Create set"
          onClose={onClose}
          onAct={make}
        >
          {line}
        </AskDialog>
      )
    }
    case 'rename-set': {
      const { set } = asking
      return (
        <AskDialog
          title="Rename set"
          action="Rename"
          onClose={onClose}
          onAct={() => api.saveSet(set.id, { name, sourceIds: set.sourceIds }).then(changed)}
        >
          {line}
        </AskDialog>
      )
    }
    default:
      return null
  }
}
