import { useState } from 'react'
import type { Project, Source } from '../../core/api/wire'
import { api } from '../api/client'
import { nameFromFile } from './describe'
import { AskDialog, TextLine } from '../ui/AskDialog'
import { Choice } from '../ui/controls'

/**
 * Makes a backdrop of a clip or an image in a spot; a clip begins with the part that is free of
 * cards, black and cuts.
 */
export function UseDialog({
  project,
  source,
  onClose,
  onMade,
}: {
  project: Project
  source: Source
  onClose: () => void
  onMade: (id: string) => void
}) {
  const spots = project.pages.flatMap((page) =>
    page.spots.map((spot) => ({ value: spot.id, label: spot.name, note: page.name })),
  )
  const [spot, setSpot] = useState(spots[0]?.value ?? '')
  const [name, setName] = useState(nameFromFile(source.name))
  const usable = source.analysis?.usable
  if (spots.length === 0) {
    return (
      <AskDialog
        title="There is no spot yet"
        action="Go to the project"
        onClose={onClose}
        onAct={async () => {
          location.href = `/projects/${project.id}`
        }}
      >
        <p>
          A backdrop is made for a spot: a page or a region of one. Add a spot in the project first.
        </p>
      </AskDialog>
    )
  }
  return (
    <AskDialog
      title={`Make a backdrop of ${source.name}`}
      action="Open the workbench"
      onClose={onClose}
      onAct={async () => onMade((await api.createBackdrop(spot, name, source.id)).id)}
    >
      <div className="max-h-60 overflow-auto p-0.5">
        <Choice label="Spot" value={spot} onChange={setSpot} options={spots} />
      </div>
      <TextLine label="Name" value={name} onChange={setName} />
      {usable && (
        <p className="text-muted">
          It starts with {(usable.startMs / 1000).toFixed(2)} to {(usable.endMs / 1000).toFixed(2)}{' '}
          s, at most ten seconds: the part without title cards, black and cuts.
        </p>
      )}
    </AskDialog>
  )
}
