import { History, Redo2, Undo2 } from 'lucide-react'
import { useEffect, useMemo, useState } from 'react'
import { Navigate, useNavigate, useParams } from 'react-router'
import { isClip, type BackdropRecord } from '../../core/api/wire'
import type { BackdropDocument } from '../../core/backdrop/BackdropDocument'
import { kindOf } from '../../core/kinds'
import { useSources } from '../api/queries'
import { ProjectColors } from '../color/ProjectColors'
import { kindView } from '../kinds'
import { WatchParticles } from '../particles/WatchParticles'
import { WatchContrasts } from '../rooms/legibility/WatchContrasts'
import { Loading, Problem, Shell } from '../shell/Shell'
import { Stage } from '../stage/Stage'
import { useAnalysis } from '../state/analysisStore'
import { useBackdrop } from '../state/backdropStore'
import { type LoadedSources, loadedSources } from '../state/loadedSources'
import { Button } from '../ui/controls'
import { BalanceBar } from './BalanceBar'
import { ConflictDialog } from './ConflictDialog'
import { RevisionsPanel, ViewedBar } from './RevisionsPanel'
import { ROOM_NAMES, roomsOf, type RoomName } from './rooms'

/** The workbench: header, balance bar, stage, and the bench and deck of the open readout. */
export function WorkbenchView() {
  const { backdropId = '', readout } = useParams()
  const { record, document, problem, open, viewed, save } = useBackdrop()
  const shown = viewed?.document ?? document
  const projectId = record?.project.id ?? ''
  const refs = shown ? kindOf(shown.base).sources(shown.base) : []
  const { all, gone, retry } = useSources(refs, projectId)
  const sources = useMemo(() => (all ? loadedSources(all) : null), [all])
  useEffect(() => void open(backdropId), [backdropId, open])
  useEffect(() => {
    // Undo may lead to a clip that was taken off the shelf: saving brings it back, then it can be
    // read.
    if (save === 'saved' && gone) retry()
    // Only a save can bring it back: `retry` is another function every time.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [save])
  const name = ROOM_NAMES.find((each) => each === readout)
  if (problem && !document) {
    return (
      <Shell crumbs={[{ label: 'Backdrop' }]}>
        <Problem message={problem} onRetry={() => void open(backdropId)} />
      </Shell>
    )
  }
  if (!record || !shown || record.id !== backdropId || (!sources && !gone)) {
    return (
      <Shell crumbs={[{ label: 'Backdrop' }]}>
        <Loading />
      </Shell>
    )
  }
  if (!name) {
    const { firstRoom } = kindView(shown.base.kind)
    return <Navigate to={`/backdrops/${backdropId}/${firstRoom}`} replace />
  }
  if (!sources) {
    const { Lost } = kindView(shown.base.kind)
    return (
      <Shell
        crumbs={[
          { label: record.project.name, to: `/projects/${record.project.id}` },
          { label: record.name },
        ]}
      >
        <Lost projectId={record.project.id} />
      </Shell>
    )
  }
  return (
    <ProjectColors projectId={record.project.id}>
      <Workbench
        key={backdropId}
        record={record}
        document={shown}
        sources={sources}
        name={name}
        isViewing={viewed !== null}
      />
    </ProjectColors>
  )
}

interface WorkbenchProps {
  readonly record: BackdropRecord
  readonly document: BackdropDocument
  readonly sources: LoadedSources
  readonly name: RoomName
  /** Whether an earlier revision is viewed: then nothing can be changed. */
  readonly isViewing: boolean
}

function Workbench({ record, document, sources, name, isViewing }: WorkbenchProps) {
  useEffect(() => {
    for (const source of sources.all)
      if (isClip(source) && source.analysis === null) useAnalysis.getState().measureFirst(source)
  }, [sources])
  const theirs = useBackdrop((state) => state.theirs)
  const { label, Bench, Deck, deckHeight } = roomsOf(document.base)[name]
  const { Watch, Limits, Visits } = kindView(document.base.kind)
  const home = `/projects/${record.project.id}`
  useUndoKeys()
  const crumbs = [
    { label: record.project.name, to: home },
    { label: record.page.name, to: home },
    { label: record.spot.name, to: home },
    { label: record.name },
  ]
  return (
    <Shell crumbs={crumbs} actions={<Actions record={record} />}>
      <ViewedBar />
      <BalanceBar id={record.id} document={document} sources={sources} />
      <main aria-label="Workbench" className="flex min-h-0 flex-1 flex-col max-md:overflow-auto">
        <h1 className="sr-only">
          {record.name}, {label}
        </h1>
        <div className="flex min-h-0 flex-1 max-md:flex-none max-md:flex-col">
          <div className="flex min-h-0 min-w-0 flex-1 max-md:h-96 max-md:flex-none">
            <Stage document={document} sources={sources} room={isViewing ? null : name} />
          </div>
          <aside
            aria-label={`${label} bench`}
            tabIndex={0}
            inert={isViewing}
            className={`w-[22rem] shrink-0 overflow-auto border-l border-line bg-sheet max-md:w-full xl:w-96 ${isViewing ? 'opacity-55' : ''}`}
          >
            <Bench
              document={document}
              sources={sources}
              backdropId={record.id}
              projectId={record.project.id}
              Limits={Limits}
            />
          </aside>
        </div>
        <section
          aria-label={`${label} deck`}
          inert={isViewing}
          className={`shrink-0 border-t border-line bg-paper-deep ${deckHeight} ${isViewing ? 'opacity-55' : ''}`}
        >
          <Deck document={document} sources={sources} backdropId={record.id} Visits={Visits} />
        </section>
      </main>
      {Watch && <Watch document={document} sources={sources} />}
      <WatchParticles document={document} />
      {(name === 'legibility' || name === 'handoff') && (
        <WatchContrasts document={document} sources={sources} />
      )}
      {theirs && <ConflictDialog theirs={theirs} />}
    </Shell>
  )
}

/** Saved state, undo and redo, revisions, and the way to the handoff. */
function Actions({ record }: { record: BackdropRecord }) {
  const { history, undo, redo, viewed } = useBackdrop()
  const [listing, setListing] = useState(false)
  const navigate = useNavigate()
  const last = history.past[history.past.length - 1]
  const next = history.future[history.future.length - 1]
  const undoName = last ? `Undo: ${last.label}` : 'Nothing to undo'
  const redoName = next ? `Redo: ${next.label}` : 'Nothing to redo'
  return (
    <>
      <SavedState />
      <Button
        tone="quiet"
        disabled={!last || viewed !== null}
        onClick={undo}
        aria-label={undoName}
        title={undoName}
      >
        <Undo2 className="size-4" aria-hidden />
      </Button>
      <Button
        tone="quiet"
        disabled={!next || viewed !== null}
        onClick={redo}
        aria-label={redoName}
        title={redoName}
      >
        <Redo2 className="size-4" aria-hidden />
      </Button>
      <Button
        tone="quiet"
        onClick={() => setListing(true)}
        aria-label="Revisions"
        title="Revisions"
      >
        <History className="size-4" aria-hidden />
      </Button>
      <Button
        tone="accent"
        onClick={() => void navigate(`/backdrops/${record.id}/handoff`, { replace: true })}
      >
        Hand off
      </Button>
      {listing && (
        <RevisionsPanel
          backdropId={record.id}
          current={record.revision}
          onClose={() => setListing(false)}
        />
      )}
    </>
  )
}

const SAVE_WORDS = {
  pending: 'Saving …',
  saving: 'Saving …',
  failed: 'Not saved',
  conflict: 'Two versions',
} as const

function SavedState() {
  const { save, savedAt, problem } = useBackdrop()
  const at = savedAt
    ? new Date(savedAt).toLocaleTimeString([], { hour: '2-digit', minute: '2-digit' })
    : ''
  const isBad = save === 'failed' || save === 'conflict'
  return (
    <span
      role="status"
      className={`text-xs ${isBad ? 'font-medium text-fix' : 'text-muted'}`}
      title={problem ?? ''}
    >
      {save === 'saved' ? `Saved ${at}` : SAVE_WORDS[save]}
    </span>
  )
}

/** Undo and redo by the platform's usual keys, except in text fields, which have their own. */
function useUndoKeys(): void {
  useEffect(() => {
    const press = (event: KeyboardEvent): void => {
      if (!(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== 'z') return
      const { target } = event
      if (target instanceof HTMLInputElement && target.type !== 'range' && target.type !== 'color')
        return
      event.preventDefault()
      const { undo, redo, viewed } = useBackdrop.getState()
      if (viewed) return
      if (event.shiftKey) redo()
      else undo()
    }
    addEventListener('keydown', press)
    return () => removeEventListener('keydown', press)
  }, [])
}
