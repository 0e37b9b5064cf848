import { useState } from 'react'
import type { SourceCard } from '../../core/api/wire'
import { api } from '../api/client'
import { useClips } from '../api/queries'
import { useNotices } from '../state/noticeStore'
import { AskDialog } from '../ui/AskDialog'
import { factLines } from './describe'
import { SourceThumb } from './SourceThumb'

/** Chooses the clip that takes another's place in every backdrop. */
export function ReplaceDialog({
  source,
  onClose,
  onDone,
}: {
  source: Pick<SourceCard, 'id' | 'name' | 'projectId' | 'usedBy'>
  onClose: () => void
  onDone: () => Promise<void>
}) {
  const { data: clips = [] } = useClips(source.projectId)
  const [chosen, setChosen] = useState<string | null>(null)
  const tell = useNotices((state) => state.tell)
  const others = clips.filter((each) => each.id !== source.id)
  const unused = source.usedBy.length === 0
  return (
    <AskDialog
      title={`Replace ${source.name}`}
      action={unused ? 'Close' : 'Replace everywhere'}
      onClose={onClose}
      onAct={async () => {
        if (unused || chosen === null) {
          if (!unused) throw new Error('Choose the replacement.')
          return
        }
        const { backdrops } = await api.replaceSource(source.id, chosen)
        const other = others.find((each) => each.id === chosen)!
        tell(
          `${other.name} now replaces it in ${backdrops.join(', ')}. Undo in each backdrop restores the old clip.`,
        )
        await onDone()
      }}
    >
      {unused ? (
        <p>No backdrop uses it, so there is nothing to replace.</p>
      ) : (
        <p className="text-muted">
          It is used by {source.usedBy.join(', ')}. Copy, scrim and, where the new clip is long
          enough, the cut stay. Which clip takes its place?
        </p>
      )}
      {!unused && (
        <div
          role="group"
          aria-label="Clip"
          className="flex max-h-80 flex-col gap-1.5 overflow-auto p-0.5"
        >
          {others.map((each) => (
            <button
              key={each.id}
              type="button"
              aria-pressed={each.id === chosen}
              onClick={() => setChosen(each.id)}
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
        </div>
      )}
    </AskDialog>
  )
}
