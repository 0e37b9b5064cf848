import { Redo2, Undo2 } from 'lucide-react'
import { useEffect, type ComponentType } from 'react'
import { Navigate, useNavigate, useParams } from 'react-router'
import type { ClipSource } from '../../core/api/wire'
import type { BackdropDocument } from '../../core/backdrop/BackdropDocument'
import { BalanceBar } from '../balance/BalanceBar'
import { READOUT_LABELS, READOUTS, type ReadoutName } from '../balance/readouts'
import { BehaviourBench, FitBench, HandoffBench, LegibilityBench } from '../benches/benches'
import { MaterialBench } from '../benches/MaterialBench'
import { TimingBench } from '../benches/TimingBench'
import { WeightBench } from '../benches/WeightBench'
import { BehaviourDeck, FitDeck, HandoffDeck, LegibilityDeck, MaterialDeck } from '../deck/decks'
import { TimingDeck } from '../deck/timing/TimingDeck'
import { WeightDeck } from '../deck/weight/WeightDeck'
import { Stage } from '../stage/Stage'
import { useBackdrop } from '../state/backdropStore'
import { Button } from '../ui/controls'
import { ConflictDialog } from './ConflictDialog'
import { Loading, Problem, Shell } from './Shell'

interface BenchProps {
  readonly document: BackdropDocument
  readonly source: ClipSource
  readonly backdropId: string
  readonly projectId: string
}

const ROOMS: Record<ReadoutName, { readonly bench: ComponentType<BenchProps>; readonly deck: ComponentType<{ document: BackdropDocument; source: ClipSource }> }> = {
  material: { bench: MaterialBench, deck: MaterialDeck },
  timing: { bench: TimingBench, deck: TimingDeck },
  legibility: { bench: LegibilityBench, deck: LegibilityDeck },
  fit: { bench: FitBench, deck: FitDeck },
  behaviour: { bench: BehaviourBench, deck: BehaviourDeck },
  weight: { bench: WeightBench, deck: WeightDeck },
  handoff: { bench: HandoffBench, deck: HandoffDeck },
}

const SAVE_WORDS = { pending: 'Saving …', saving: 'Saving …', failed: 'Not saved', conflict: 'Two versions' } as const

/** The workbench: header, balance bar, stage, and the bench and deck of the open readout. */
export function WorkbenchView() {
  const { backdropId = '', readout } = useParams()
  const { record, document, source, history, save, savedAt, problem, theirs, open, undo, redo, dispatch, sources } = useBackdrop()
  const navigate = useNavigate()
  useEffect(() => void open(backdropId), [backdropId, open])
  useUndoKeys()
  const name = READOUTS.find((each) => each === readout)
  if (!name) return <Navigate to={`/backdrops/${backdropId}/timing`} replace />
  if (problem && !document) return <Shell crumbs={[{ label: 'Backdrop' }]}><Problem message={problem} onRetry={() => void open(backdropId)} /></Shell>
  if (!record || !document || record.id !== backdropId) return <Shell crumbs={[{ label: 'Backdrop' }]}><Loading /></Shell>
  if (!source) {
    return (
      <Shell crumbs={[{ label: record.name }]}>
        <Problem message="The clip of this backdrop is no longer on the shelf." />
        <div className="flex justify-center gap-2">{sources.map((each) => <Button key={each.id} onClick={() => dispatch({ type: 'material/swap', sourceId: each.id, facts: each.facts })}>Take {each.name}</Button>)}</div>
      </Shell>
    )
  }
  const { bench: Bench, deck: Deck } = ROOMS[name]
  const last = history.past[history.past.length - 1]
  const next = history.future[history.future.length - 1]
  return (
    <Shell
      crumbs={[{ label: record.project.name, to: `/projects/${record.project.id}` }, { label: record.page.name, to: `/projects/${record.project.id}` }, { label: record.spot.name, to: `/projects/${record.project.id}` }, { label: record.name }]}
      actions={
        <>
          <span role="status" className={`text-xs ${save === 'failed' || save === 'conflict' ? 'font-medium text-fix' : 'text-muted'}`} title={problem ?? ''}>
            {save === 'saved' ? `Saved ${savedAt ? new Date(savedAt).toLocaleTimeString([], { hour: '2-digit', minute: '2-digit' }) : ''}` : SAVE_WORDS[save]}
          </span>
          <Button tone="quiet" disabled={!last} onClick={undo} aria-label={last ? `Undo: ${last.label}` : 'Nothing to undo'} title={last ? `Undo: ${last.label}` : 'Nothing to undo'}><Undo2 className="size-4" aria-hidden /></Button>
          <Button tone="quiet" disabled={!next} onClick={redo} aria-label={next ? `Redo: ${next.label}` : 'Nothing to redo'} title={next ? `Redo: ${next.label}` : 'Nothing to redo'}><Redo2 className="size-4" aria-hidden /></Button>
          <Button tone="accent" onClick={() => void navigate(`/backdrops/${backdropId}/handoff`, { replace: true })}>Hand off</Button>
        </>
      }
    >
      <BalanceBar id={backdropId} document={document} source={source} />
      <main className="flex min-h-0 flex-1 flex-col max-md:overflow-auto">
        <h1 className="sr-only">{record.name}, {READOUT_LABELS[name]}</h1>
        <div className="flex min-h-0 flex-1 max-md:flex-col max-md:flex-none">
          <div className="flex min-h-0 min-w-0 flex-1 max-md:h-96 max-md:flex-none"><Stage key={backdropId} document={document} source={source} focal={name === 'fit'} /></div>
          <aside aria-label={`${READOUT_LABELS[name]} bench`} tabIndex={0} className="w-[22rem] shrink-0 overflow-auto border-l border-line bg-sheet max-md:w-full xl:w-96">
            <Bench document={document} source={source} backdropId={backdropId} projectId={record.project.id} />
          </aside>
        </div>
        <section aria-label={`${READOUT_LABELS[name]} deck`} className={`shrink-0 border-t border-line bg-paper-deep ${name === 'timing' ? 'h-56' : 'h-52'}`}>
          <Deck document={document} source={source} />
        </section>
      </main>
      {theirs && <ConflictDialog theirs={theirs} />}
    </Shell>
  )
}

/** Undo and redo by the platform's usual keys, outside of text fields, which have their own. */
function useUndoKeys(): void {
  useEffect(() => {
    const press = (event: KeyboardEvent): void => {
      if (!(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== 'z') return
      const { target } = event
      if (target instanceof HTMLInputElement && target.type !== 'range' && target.type !== 'color') return
      event.preventDefault()
      const { undo, redo } = useBackdrop.getState()
      if (event.shiftKey) redo()
      else undo()
    }
    addEventListener('keydown', press)
    return () => removeEventListener('keydown', press)
  }, [])
}
