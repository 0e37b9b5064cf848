import { useState } from 'react'
import type { BackdropSummary, Page, Spot } from '../../core/api/wire'
import { api } from '../api/client'
import { AskDialog, TextLine } from '../ui/AskDialog'
import { Choice, NumberField } from '../ui/controls'

/** What a designer is asked about a project's pages, spots and backdrops. */
export type ProjectQuestion =
  | { readonly kind: 'page' }
  | { readonly kind: 'rename-page' | 'delete-page' | 'spot'; readonly page: Page }
  | { readonly kind: 'edit-spot' | 'delete-spot'; readonly spot: Spot }
  | { readonly kind: 'rename-backdrop' | 'delete-backdrop'; readonly backdrop: BackdropSummary }

interface Answer {
  readonly onClose: () => void
  /** Called after the server has acknowledged the change. */
  readonly onChanged: () => Promise<void>
}

type SpotDraft = Pick<Spot, 'name' | 'scope' | 'height'>

const NEW_SPOT: SpotDraft = { name: 'Hero', scope: 'region', height: { unit: 'svh', value: 100 } }

/** The dialog of one question; acts on the server and closes. */
export function ProjectDialog({
  projectId,
  question,
  ...answer
}: Answer & { projectId: string; question: ProjectQuestion }) {
  switch (question.kind) {
    case 'page':
      return (
        <NameDialog
          title="Add a page"
          action="Add page"
          {...answer}
          onName={(name) => api.createPage(projectId, name)}
        />
      )
    case 'rename-page':
      return (
        <NameDialog
          title="Rename page"
          action="Rename"
          start={question.page.name}
          {...answer}
          onName={(name) => api.renamePage(question.page.id, name)}
        />
      )
    case 'rename-backdrop':
      return (
        <NameDialog
          title="Rename backdrop"
          action="Rename"
          start={question.backdrop.name}
          {...answer}
          onName={(name) => api.renameBackdrop(question.backdrop.id, name)}
        />
      )
    case 'spot':
      return (
        <SpotDialog
          title={`Add a spot to ${question.page.name}`}
          action="Add spot"
          start={NEW_SPOT}
          {...answer}
          onSpot={(spot) => api.createSpot(question.page.id, spot)}
        />
      )
    case 'edit-spot': {
      const { name, scope, height } = question.spot
      return (
        <SpotDialog
          title={`Change ${name}`}
          action="Save"
          start={{ name, scope, height }}
          {...answer}
          onSpot={(spot) => api.changeSpot(question.spot.id, spot)}
        />
      )
    }
    case 'delete-page': {
      const { id, name, spots } = question.page
      const backdrops = spots.flatMap((spot) => spot.backdrops).length
      return (
        <DeleteDialog
          title={`Delete page ${name}?`}
          {...answer}
          onDelete={() => api.deletePage(id)}
        >
          {`Its ${counted(spots.length, 'spot')} and ${counted(backdrops, 'backdrop')} are deleted with it. Clips stay on the shelf.`}
        </DeleteDialog>
      )
    }
    case 'delete-spot': {
      const { id, name, backdrops } = question.spot
      return (
        <DeleteDialog
          title={`Delete spot ${name}?`}
          {...answer}
          onDelete={() => api.deleteSpot(id)}
        >
          {`Its ${counted(backdrops.length, 'backdrop')} and all their revisions are deleted with it. Clips stay on the shelf.`}
        </DeleteDialog>
      )
    }
    case 'delete-backdrop':
      return (
        <DeleteDialog
          title={`Delete ${question.backdrop.name}?`}
          {...answer}
          onDelete={() => api.deleteBackdrop(question.backdrop.id)}
        >
          All its revisions are deleted. The clip stays on the shelf, and folders you have
          downloaded do not change.
        </DeleteDialog>
      )
  }
}

const counted = (count: number, noun: string): string => `${count} ${noun}${count === 1 ? '' : 's'}`

/** Asks for a name. */
function NameDialog({
  title,
  action,
  start = '',
  onName,
  onClose,
  onChanged,
}: Answer & {
  title: string
  action: string
  start?: string
  onName: (name: string) => Promise<unknown>
}) {
  const [name, setName] = useState(start)
  return (
    <AskDialog
      title={title}
      action={action}
      onClose={onClose}
      onAct={() => onName(name).then(onChanged)}
    >
      <TextLine label="Name" value={name} onChange={setName} />
    </AskDialog>
  )
}

/** Asks whether to delete for good; the text says what is deleted too. */
function DeleteDialog({
  title,
  onDelete,
  onClose,
  onChanged,
  children,
}: Answer & { title: string; onDelete: () => Promise<unknown>; children: string }) {
  return (
    <AskDialog
      title={title}
      action="Delete for good"
      danger
      onClose={onClose}
      onAct={() => onDelete().then(onChanged)}
    >
      <p>{children}</p>
    </AskDialog>
  )
}

/** Asks for a spot's name, position and height. */
function SpotDialog({
  title,
  action,
  start,
  onSpot,
  onClose,
  onChanged,
}: Answer & {
  title: string
  action: string
  start: SpotDraft
  onSpot: (spot: SpotDraft) => Promise<unknown>
}) {
  const [spotDraft, setSpotDraft] = useState(start)
  return (
    <AskDialog
      title={title}
      action={action}
      onClose={onClose}
      onAct={() => onSpot(spotDraft).then(onChanged)}
    >
      <TextLine
        label="Name"
        value={spotDraft.name}
        onChange={(next) => setSpotDraft({ ...spotDraft, name: next })}
      />
      <Choice
        label="Position"
        value={spotDraft.scope}
        onChange={(scope) => setSpotDraft({ ...spotDraft, scope })}
        options={[
          { value: 'region', label: 'A region', note: 'hero, band' },
          { value: 'page', label: 'The whole page', note: 'fixed while the page scrolls' },
        ]}
      />
      <Choice
        label="Height of new backdrops"
        value={spotDraft.height.unit}
        onChange={(unit) =>
          setSpotDraft({
            ...spotDraft,
            height: unit === 'svh' ? { unit, value: 100 } : { unit, value: 480 },
          })
        }
        options={[
          { value: 'svh', label: 'Of the window' },
          { value: 'px', label: 'Fixed' },
        ]}
      />
      <NumberField
        label={spotDraft.height.unit === 'svh' ? 'Percent of the window’s height' : 'Pixels'}
        value={spotDraft.height.value}
        low={10}
        high={spotDraft.height.unit === 'svh' ? 200 : 4000}
        suffix={spotDraft.height.unit}
        onChange={(next) =>
          setSpotDraft({ ...spotDraft, height: { ...spotDraft.height, value: next } })
        }
      />
    </AskDialog>
  )
}
