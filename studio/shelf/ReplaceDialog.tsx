import { useState } from 'react'
import { isClip, type SourceCard } from '../../core/api/wire'
import { api } from '../api/client'
import { useClips, useImages } from '../api/queries'
import { useNotices } from '../state/noticeStore'
import { AskDialog } from '../ui/AskDialog'
import { SourceChoice } from './SourceChoice'

/** Chooses the clip or image that takes another's place in every backdrop. */
export function ReplaceDialog({
  source,
  onClose,
  onDone,
}: {
  source: Pick<SourceCard, 'id' | 'name' | 'projectId' | 'usedBy' | 'facts'>
  onClose: () => void
  onDone: () => Promise<void>
}) {
  const { data: clips = [] } = useClips(source.projectId)
  const [chosen, setChosen] = useState<string | null>(null)
  const tell = useNotices((state) => state.tell)
  const { data: images = [] } = useImages(source.projectId)
  const kind = isClip(source) ? 'clip' : 'image'
  const others = (isClip(source) ? clips : images).filter((each) => each.id !== source.id)
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
          `${other.name} now replaces ${source.name} in ${backdrops.join(', ')}. Undo in each backdrop restores the old ${kind}.`,
        )
        await onDone()
      }}
    >
      {unused ? (
        <p>No backdrop uses it, so there is nothing to replace.</p>
      ) : (
        <p className="text-muted">
          It is used by {source.usedBy.join(', ')}. Copy, scrim
          {kind === 'clip' && ' and, where the new clip is long enough, the cut'} stay. Which {kind}{' '}
          takes its place?
        </p>
      )}
      {!unused && (
        <SourceChoice
          label={kind === 'clip' ? 'Clip' : 'Image'}
          sources={others}
          chosen={chosen}
          onChoose={setChosen}
        />
      )}
    </AskDialog>
  )
}
