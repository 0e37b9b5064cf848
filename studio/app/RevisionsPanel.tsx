import { Dialog, DialogPanel, DialogTitle } from '@headlessui/react'
import { X } from 'lucide-react'
import { useState } from 'react'
import type { Revision } from '../../core/api/wire'
import { messageOf } from '../api/client'
import { useRevisions } from '../api/queries'
import { Loading, Problem } from '../shell/Shell'
import { useBackdrop } from '../state/backdropStore'
import { Button } from '../ui/controls'
import { formatDate, formatTime } from '../ui/format'

/** Every kept revision with its time and what was changed; one can be looked at on the stage. */
export function RevisionsPanel({
  backdropId,
  current,
  onClose,
}: {
  backdropId: string
  current: number
  onClose: () => void
}) {
  const revisions = useRevisions(backdropId, true)
  const view = useBackdrop((state) => state.view)
  const [problem, setProblem] = useState<string | null>(null)
  const open = (revision: number): void =>
    void view(revision).then(onClose, (error: unknown) => setProblem(messageOf(error)))
  return (
    <Dialog open onClose={onClose} className="relative z-50">
      <div className="fixed inset-0 bg-ink/25" aria-hidden />
      <div className="fixed inset-y-0 right-0 flex w-full max-w-sm">
        <DialogPanel className="flex w-full flex-col border-l border-line bg-sheet shadow-xl">
          <div className="flex items-center justify-between border-b border-line px-4 py-2.5">
            <DialogTitle className="text-base font-semibold">Revisions</DialogTitle>
            <Button tone="quiet" aria-label="Close revisions" className="px-1.5!" onClick={onClose}>
              <X className="size-4" aria-hidden />
            </Button>
          </div>
          <p className="border-b border-line px-4 py-2 text-xs text-muted">
            Kept: all of the last 24 hours, then one an hour for 30 days, then one a day. Viewing
            one changes nothing.
          </p>
          <div className="min-h-0 flex-1 overflow-auto">
            {revisions.isPending && <Loading />}
            {revisions.error && (
              <Problem message={revisions.error.message} onRetry={() => void revisions.refetch()} />
            )}
            {problem && (
              <p role="alert" className="px-4 py-2 text-fix">
                {problem}
              </p>
            )}
            {revisions.data && (
              <RevisionList revisions={revisions.data} current={current} onOpen={open} />
            )}
          </div>
        </DialogPanel>
      </div>
    </Dialog>
  )
}

interface ListProps {
  readonly revisions: readonly Revision[]
  readonly current: number
  readonly onOpen: (revision: number) => void
}

function RevisionList({ revisions, current, onOpen }: ListProps) {
  const days = new Map<string, Revision[]>()
  for (const revision of revisions) {
    const day = formatDate(revision.createdAt)
    days.set(day, [...(days.get(day) ?? []), revision])
  }
  return [...days].map(([day, ofDay]) => (
    <section key={day} aria-label={day}>
      <h3 className="sticky top-0 bg-paper px-4 py-1 text-xs font-medium text-muted">{day}</h3>
      <ul>
        {ofDay.map(({ revision, label, createdAt }) => (
          <li key={revision} className="border-b border-line last:border-0">
            <button
              type="button"
              className="flex w-full items-baseline gap-3 px-4 py-1.5 text-left hover:bg-white disabled:cursor-default disabled:hover:bg-transparent"
              disabled={revision === current}
              onClick={() => onOpen(revision)}
            >
              <span className="w-24 shrink-0 font-mono text-xs whitespace-nowrap text-muted">
                {formatTime(createdAt)}
              </span>
              <span className="min-w-0 flex-1 truncate">{label}</span>
              <span className="shrink-0 text-xs text-muted">
                {revision === current ? 'current' : `revision ${revision}`}
              </span>
            </button>
          </li>
        ))}
      </ul>
    </section>
  ))
}

/** Shown above the workbench while an earlier revision is viewed. */
export function ViewedBar() {
  const viewed = useBackdrop((state) => state.viewed)
  const { closeView, restoreViewed } = useBackdrop.getState()
  if (!viewed) return null
  return (
    <div
      role="status"
      className="flex flex-wrap items-center justify-between gap-2 bg-ink px-4 py-1.5 text-white"
    >
      <span>
        You are viewing revision {viewed.revision}, {formatDate(viewed.createdAt)}{' '}
        {formatTime(viewed.createdAt)} ({viewed.label}).
      </span>
      <span className="flex gap-2">
        <Button className="min-h-7! border-white/60 bg-transparent! text-white" onClick={closeView}>
          Back to the current one
        </Button>
        <Button tone="accent" className="min-h-7!" onClick={restoreViewed}>
          Restore this revision
        </Button>
      </span>
    </div>
  )
}
