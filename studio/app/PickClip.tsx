import { useState } from 'react'
import type { ClipCard, Spot } from '../../core/api/wire'
import { api } from '../api/client'
import { SourceThumb } from '../shelf/SourceThumb'
import { AskDialog } from '../ui/AskDialog'

/** Asks which clip a new backdrop is made from, and makes it. */
export function PickClip({
  projectId,
  spot,
  sources,
  onClose,
  onMade,
}: {
  projectId: string
  spot: Spot
  sources: readonly ClipCard[]
  onClose: () => void
  onMade: (id: string) => void
}) {
  const [chosen, setChosen] = useState(sources[0]?.id ?? '')
  const source = sources.find((each) => each.id === chosen)
  const name = source?.name.replace(/\.[^.]*$/, '').replaceAll(/[-_]+/g, ' ') ?? ''
  const title = name.charAt(0).toUpperCase() + name.slice(1)
  if (sources.length === 0) {
    return (
      <AskDialog
        title="The shelf is empty"
        action="Go to the shelf"
        onClose={onClose}
        onAct={async () => {
          location.href = `/projects/${projectId}/shelf`
        }}
      >
        <p>A backdrop is made from a clip. Add one on the shelf first.</p>
      </AskDialog>
    )
  }
  return (
    <AskDialog
      title={`Make a backdrop for ${spot.name}`}
      action="Open the workbench"
      onClose={onClose}
      onAct={async () => onMade((await api.createBackdrop(spot.id, title, chosen)).id)}
    >
      <p className="text-muted">Which clip?</p>
      <div
        role="group"
        aria-label="Clip"
        className="flex max-h-80 flex-col gap-1.5 overflow-auto p-0.5"
      >
        {sources.map((each) => (
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
            <span>
              <span className="block font-medium">{each.name}</span>
              <span className="text-xs text-muted">
                {each.facts.video.displayWidth} × {each.facts.video.displayHeight},{' '}
                {(each.facts.durationMs / 1000).toFixed(1)} s
              </span>
            </span>
          </button>
        ))}
      </div>
    </AskDialog>
  )
}
