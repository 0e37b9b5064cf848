import { Film, Pencil, Plus, Trash2, Weight } from 'lucide-react'
import { useState } from 'react'
import { Link, useNavigate, useParams } from 'react-router'
import type { BackdropSummary, ClipCard, Page, Spot } from '../../core/api/wire'
import { api } from '../api/client'
import { projectChanged, useClips, useProject, useShelfTotal } from '../api/queries'
import { SourceThumb } from '../shelf/SourceThumb'
import { AskDialog, TextLine } from '../ui/AskDialog'
import { Button, Choice, NumberField } from '../ui/controls'
import { SettingsDialog } from './SettingsDialog'
import { Loading, Problem, Shell } from './Shell'

type Asking =
  | { readonly kind: 'page' }
  | { readonly kind: 'rename-page' | 'delete-page' | 'spot'; readonly page: Page }
  | { readonly kind: 'edit-spot' | 'delete-spot' | 'backdrop'; readonly spot: Spot }
  | { readonly kind: 'rename-backdrop' | 'delete-backdrop'; readonly backdrop: BackdropSummary }
  | null

const NEW_SPOT: Pick<Spot, 'name' | 'scope' | 'height'> = {
  name: 'Hero',
  scope: 'region',
  height: { unit: 'svh', value: 100 },
}

/** A project's pages and spots: what hangs where. */
export function ProjectView() {
  const { projectId = '' } = useParams()
  const { data: project, error, refetch } = useProject(projectId)
  const { data: sources = [] } = useClips(projectId)
  const { data: total = 0 } = useShelfTotal(projectId)
  const reload = (): Promise<void> => projectChanged(projectId)
  const [asking, setAsking] = useState<Asking>(null)
  const [settings, setSettings] = useState(false)
  const [name, setName] = useState('')
  const [spotDraft, setSpotDraft] = useState(NEW_SPOT)
  const navigate = useNavigate()
  if (error && !project)
    return (
      <Shell crumbs={[{ label: 'Project' }]}>
        <Problem message={error.message} onRetry={() => void refetch()} />
      </Shell>
    )
  if (!project)
    return (
      <Shell crumbs={[{ label: 'Project' }]}>
        <Loading />
      </Shell>
    )
  const ask = (next: Asking, startName = ''): void => {
    setName(startName)
    setSpotDraft(next?.kind === 'edit-spot' ? next.spot : NEW_SPOT)
    setAsking(next)
  }
  const close = (): void => setAsking(null)
  return (
    <Shell
      crumbs={[{ label: 'Projects', to: '/' }, { label: project.name }]}
      actions={
        <Link
          to={`/projects/${project.id}/shelf`}
          className="inline-flex min-h-8 items-center gap-1.5 rounded border border-curtain bg-curtain px-3 font-medium text-white hover:bg-curtain-deep"
        >
          <Film className="size-4" aria-hidden />
          Shelf, {total} {total === 1 ? 'source' : 'sources'}
        </Link>
      }
    >
      <main className="min-h-0 flex-1 overflow-auto px-6 py-5">
        <div className="mb-4 flex flex-wrap items-end justify-between gap-3">
          <div>
            <h1 className="text-2xl figure-face">{project.name}</h1>
            <p className="text-muted">
              Its pages, and the spots on them where a backdrop hangs: a whole page, or one region
              of it.
            </p>
          </div>
          <div className="flex gap-2">
            <Button onClick={() => setSettings(true)}>
              <Weight className="size-4" aria-hidden />
              Budgets and engines
            </Button>
            <Button onClick={() => ask({ kind: 'page' })}>
              <Plus className="size-4" aria-hidden />
              Add a page
            </Button>
          </div>
        </div>
        {settings && <SettingsDialog projectId={project.id} onClose={() => setSettings(false)} />}
        {project.pages.length === 0 && (
          <p className="rounded-lg border border-dashed border-line-strong p-8 text-center">
            No page yet. Add the page whose background you are preparing.
          </p>
        )}
        <div className="flex flex-col gap-4">
          {project.pages.map((page) => (
            <section
              key={page.id}
              className="rounded-lg border border-line bg-sheet"
              aria-labelledby={`page-${page.id}`}
            >
              <div className="flex items-center justify-between border-b border-line px-4 py-2">
                <h2 id={`page-${page.id}`} className="text-base font-semibold">
                  {page.name}
                </h2>
                <div className="flex gap-1">
                  <Button tone="quiet" onClick={() => ask({ kind: 'spot', page })}>
                    <Plus className="size-4" aria-hidden />
                    Add a spot
                  </Button>
                  <Button
                    tone="quiet"
                    aria-label={`Rename page ${page.name}`}
                    title="Rename"
                    onClick={() => ask({ kind: 'rename-page', page }, page.name)}
                  >
                    <Pencil className="size-4" aria-hidden />
                  </Button>
                  <Button
                    tone="quiet"
                    aria-label={`Delete page ${page.name}`}
                    title="Delete"
                    onClick={() => ask({ kind: 'delete-page', page })}
                  >
                    <Trash2 className="size-4" aria-hidden />
                  </Button>
                </div>
              </div>
              {page.spots.length === 0 && (
                <p className="px-4 py-3 text-muted">
                  No spot yet. A spot says where a backdrop hangs and how tall it is.
                </p>
              )}
              <ul>
                {page.spots.map((spot) => (
                  <li
                    key={spot.id}
                    className="flex flex-wrap items-center gap-x-6 gap-y-2 border-b border-line px-4 py-2.5 last:border-0"
                  >
                    <div className="w-52">
                      <div className="font-medium">{spot.name}</div>
                      <div className="text-xs text-muted">
                        {spot.scope === 'page' ? 'behind the whole page' : 'a region'}, new
                        backdrops {spot.height.value} {spot.height.unit} tall
                      </div>
                    </div>
                    <ul className="flex flex-1 flex-wrap gap-2">
                      {spot.backdrops.map((backdrop) => (
                        <li
                          key={backdrop.id}
                          className="flex items-center gap-1 rounded border border-line bg-white pr-1"
                        >
                          <Link
                            to={`/backdrops/${backdrop.id}`}
                            className="flex items-center gap-2 rounded p-1 hover:underline"
                          >
                            <Thumb sources={sources} sourceId={backdrop.sourceId} />
                            <span className="font-medium">{backdrop.name}</span>
                          </Link>
                          <Button
                            tone="quiet"
                            className="px-1.5!"
                            aria-label={`Rename backdrop ${backdrop.name}`}
                            title="Rename"
                            onClick={() =>
                              ask({ kind: 'rename-backdrop', backdrop }, backdrop.name)
                            }
                          >
                            <Pencil className="size-3.5" aria-hidden />
                          </Button>
                          <Button
                            tone="quiet"
                            className="px-1.5!"
                            aria-label={`Delete backdrop ${backdrop.name}`}
                            title="Delete"
                            onClick={() => ask({ kind: 'delete-backdrop', backdrop })}
                          >
                            <Trash2 className="size-3.5" aria-hidden />
                          </Button>
                        </li>
                      ))}
                    </ul>
                    <div className="flex gap-1">
                      <Button onClick={() => ask({ kind: 'backdrop', spot })}>
                        <Plus className="size-4" aria-hidden />
                        Make a backdrop
                      </Button>
                      <Button
                        tone="quiet"
                        aria-label={`Change spot ${spot.name}`}
                        title="Change"
                        onClick={() => ask({ kind: 'edit-spot', spot })}
                      >
                        <Pencil className="size-4" aria-hidden />
                      </Button>
                      <Button
                        tone="quiet"
                        aria-label={`Delete spot ${spot.name}`}
                        title="Delete"
                        onClick={() => ask({ kind: 'delete-spot', spot })}
                      >
                        <Trash2 className="size-4" aria-hidden />
                      </Button>
                    </div>
                  </li>
                ))}
              </ul>
            </section>
          ))}
        </div>
      </main>
      {asking?.kind === 'page' && (
        <AskDialog
          title="Add a page"
          action="Add page"
          onClose={close}
          onAct={() => api.createPage(project.id, name).then(reload)}
        >
          <TextLine label="Name" value={name} onChange={setName} />
        </AskDialog>
      )}
      {asking?.kind === 'rename-page' && (
        <AskDialog
          title="Rename page"
          action="Rename"
          onClose={close}
          onAct={() => api.renamePage(asking.page.id, name).then(reload)}
        >
          <TextLine label="Name" value={name} onChange={setName} />
        </AskDialog>
      )}
      {asking?.kind === 'delete-page' && (
        <AskDialog
          title={`Delete page ${asking.page.name}?`}
          action="Delete for good"
          danger
          onClose={close}
          onAct={() => api.deletePage(asking.page.id).then(reload)}
        >
          <p>
            Its {asking.page.spots.length} spots and{' '}
            {asking.page.spots.flatMap((spot) => spot.backdrops).length} backdrops go with it. Clips
            stay on the shelf.
          </p>
        </AskDialog>
      )}
      {(asking?.kind === 'spot' || asking?.kind === 'edit-spot') && (
        <AskDialog
          title={
            'page' in asking ? `Add a spot to ${asking.page.name}` : `Change ${asking.spot.name}`
          }
          action={'page' in asking ? 'Add spot' : 'Change'}
          onClose={close}
          onAct={() =>
            ('page' in asking
              ? api.createSpot(asking.page.id, spotDraft)
              : api.changeSpot(asking.spot.id, {
                  name: spotDraft.name,
                  scope: spotDraft.scope,
                  height: spotDraft.height,
                })
            ).then(reload)
          }
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
              { value: 'page', label: 'The whole page', note: 'stays while it scrolls' },
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
            label={spotDraft.height.unit === 'svh' ? 'Hundredths of the window’s height' : 'Pixels'}
            value={spotDraft.height.value}
            low={10}
            high={spotDraft.height.unit === 'svh' ? 200 : 4000}
            suffix={spotDraft.height.unit}
            onChange={(next) =>
              setSpotDraft({ ...spotDraft, height: { ...spotDraft.height, value: next } })
            }
          />
        </AskDialog>
      )}
      {asking?.kind === 'delete-spot' && (
        <AskDialog
          title={`Delete spot ${asking.spot.name}?`}
          action="Delete for good"
          danger
          onClose={close}
          onAct={() => api.deleteSpot(asking.spot.id).then(reload)}
        >
          <p>
            Its {asking.spot.backdrops.length} backdrops go with it, with all their revisions. Clips
            stay on the shelf.
          </p>
        </AskDialog>
      )}
      {asking?.kind === 'rename-backdrop' && (
        <AskDialog
          title="Rename backdrop"
          action="Rename"
          onClose={close}
          onAct={() => api.renameBackdrop(asking.backdrop.id, name).then(reload)}
        >
          <TextLine label="Name" value={name} onChange={setName} />
        </AskDialog>
      )}
      {asking?.kind === 'delete-backdrop' && (
        <AskDialog
          title={`Delete ${asking.backdrop.name}?`}
          action="Delete for good"
          danger
          onClose={close}
          onAct={() => api.deleteBackdrop(asking.backdrop.id).then(reload)}
        >
          <p>
            All its revisions go. The clip stays on the shelf, and folders you have downloaded stay
            as they are.
          </p>
        </AskDialog>
      )}
      {asking?.kind === 'backdrop' && (
        <PickClip
          projectId={project.id}
          spot={asking.spot}
          sources={sources}
          onClose={close}
          onMade={(id) => void reload().then(() => navigate(`/backdrops/${id}`))}
        />
      )}
    </Shell>
  )
}

function Thumb({ sources, sourceId }: { sources: readonly ClipCard[]; sourceId: string }) {
  const source = sources.find((each) => each.id === sourceId)
  return source ? (
    <span className="[container-type:size] block h-9 w-16">
      <SourceThumb source={source} className="size-full" />
    </span>
  ) : null
}

function PickClip({
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
