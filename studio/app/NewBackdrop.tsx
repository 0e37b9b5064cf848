import { useState } from 'react'
import type { Spot } from '../../core/api/wire'
import { api } from '../api/client'
import { useClips } from '../api/queries'
import { BaseChoice, isComplete, type ChosenBase } from '../kinds/BaseChoice'
import { KIND_WORDS } from '../kinds/kindWords'
import { NO_SLIDES } from '../kinds/slideshow/SlidePicker'
import { nameFromFile } from '../shelf/describe'
import { AskDialog } from '../ui/AskDialog'

/** Asks for the base of a new backdrop and its material, and makes it. */
export function NewBackdrop({
  projectId,
  spot,
  onClose,
  onMade,
}: {
  projectId: string
  spot: Spot
  onClose: () => void
  onMade: (id: string) => void
}) {
  const { data: clips = [] } = useClips(projectId)
  const [picked, setPicked] = useState<ChosenBase | null>(null)
  // A clip is what most begin with; on an empty shelf there is always paint.
  const chosen = picked ?? {
    kind: 'footage',
    source: clips[0] ?? null,
    slides: NO_SLIDES,
  }
  const { kind, source, slides } = chosen
  const name = source ? nameFromFile(source.name) : KIND_WORDS[kind].label
  return (
    <AskDialog
      title={`Make a backdrop for ${spot.name}`}
      action="Open the workbench"
      wide
      disabled={!isComplete(chosen)}
      onClose={onClose}
      onAct={async () => {
        const order = {
          name,
          sourceId: source?.id ?? null,
          slides: kind === 'slideshow' ? slides : null,
        }
        onMade((await api.createBackdrop(spot.id, order)).id)
      }}
    >
      <BaseChoice projectId={projectId} chosen={chosen} onChoose={setPicked} />
    </AskDialog>
  )
}
