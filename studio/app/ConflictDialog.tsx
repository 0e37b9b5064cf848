import { Dialog, DialogBackdrop, DialogPanel, DialogTitle } from '@headlessui/react'
import { useState } from 'react'
import { useNavigate } from 'react-router'
import type { BackdropRecord } from '../../core/api/wire'
import { differences } from '../../core/backdrop/history'
import { messageOf } from '../api/client'
import { useBackdrop } from '../state/backdropStore'
import { Button } from '../ui/controls'

/**
 * Two tabs changed the same backdrop: shows what differs and lets the designer choose; nothing is
 * overwritten silently.
 */
export function ConflictDialog({ theirs }: { theirs: BackdropRecord }) {
  const [problem, setProblem] = useState<string | null>(null)
  const { document, keepMine, takeTheirs, saveAsCopy } = useBackdrop()
  const navigate = useNavigate()
  const sections = [
    ...new Set(differences(theirs.document, document).map((change) => change.path[0])),
  ]
  const when = new Date(theirs.updatedAt).toLocaleTimeString([], {
    hour: '2-digit',
    minute: '2-digit',
    second: '2-digit',
  })
  return (
    <Dialog open onClose={() => undefined} className="relative z-50">
      <DialogBackdrop className="fixed inset-0 bg-ink/45" />
      <div className="fixed inset-0 flex items-center justify-center p-4">
        <DialogPanel className="flex w-full max-w-lg flex-col gap-3 rounded-lg border border-line bg-sheet p-5 shadow-xl">
          <DialogTitle className="text-lg font-semibold">
            This backdrop was changed in another tab
          </DialogTitle>
          <p>
            The other tab saved at {when}. Both versions are here; they differ in{' '}
            {sections.length === 0 ? 'nothing that shows' : sections.join(', ')}. Nothing is lost
            whichever you choose: both stay among the revisions.
          </p>
          <div className="flex flex-col gap-2">
            <Button tone="accent" onClick={() => void keepMine()}>
              Keep this tab’s version
            </Button>
            <Button onClick={takeTheirs}>Use the other tab’s version (can be undone)</Button>
            <Button
              onClick={() =>
                void saveAsCopy().then(
                  (id) => navigate(`/backdrops/${id}`),
                  (error: unknown) => setProblem(messageOf(error)),
                )
              }
            >
              Keep both (save this one as a copy)
            </Button>
            {problem && (
              <p role="alert" className="text-fix">
                {problem}
              </p>
            )}
          </div>
        </DialogPanel>
      </div>
    </Dialog>
  )
}
