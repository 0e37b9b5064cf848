import { useState, type ReactNode } from 'react'
import type { Project } from '../../core/api/wire'
import { AskDialog, TextLine } from '../ui/AskDialog'
import { Choice } from '../ui/controls'

/** Asks where a new backdrop goes, and what it is called. */
export function SpotDialog({
  project,
  title,
  firstName,
  note = null,
  onClose,
  onMake,
}: {
  project: Project
  title: string
  firstName: string
  note?: ReactNode
  onClose: () => void
  onMake: (spotId: string, name: string) => Promise<void>
}) {
  const spots = project.pages.flatMap((page) =>
    page.spots.map((spot) => ({ value: spot.id, label: spot.name, note: page.name })),
  )
  const [spot, setSpot] = useState(spots[0]?.value ?? '')
  const [name, setName] = useState(firstName)
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
      title={title}
      action="Open the workbench"
      onClose={onClose}
      onAct={() => onMake(spot, name)}
    >
      <div className="max-h-60 overflow-auto p-0.5">
        <Choice label="Spot" value={spot} onChange={setSpot} options={spots} />
      </div>
      <TextLine label="Name" value={name} onChange={setName} />
      {note}
    </AskDialog>
  )
}
