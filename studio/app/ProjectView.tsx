import { Film, Palette, Pencil, Plus, Trash2, Weight } from 'lucide-react'
import { useState } from 'react'
import { Link, useNavigate, useParams } from 'react-router'
import type { BackdropSummary, Page, SourceCard, Spot } from '../../core/api/wire'
import { paintBackground } from '../../core/handoff/layers/paintCss'
import { projectChanged, useClips, useImages, useProject, useShelfTotal } from '../api/queries'
import { BrandDialog } from '../color/BrandDialog'
import { SourceThumb } from '../clip/SourceThumb'
import { Loading, Problem, Shell } from '../shell/Shell'
import { Button } from '../ui/controls'
import { NewBackdrop } from './NewBackdrop'
import { ProjectDialog, type ProjectQuestion } from './ProjectDialog'
import { SettingsDialog } from './SettingsDialog'

type Ask = (question: ProjectQuestion) => void

/** A project's pages, their spots, and the backdrops made for each spot. */
export function ProjectView() {
  const { projectId = '' } = useParams()
  const { data: project, error, refetch } = useProject(projectId)
  const { data: clips = [] } = useClips(projectId)
  const { data: images = [] } = useImages(projectId)
  const { data: total = 0 } = useShelfTotal(projectId)
  const [question, setQuestion] = useState<ProjectQuestion | null>(null)
  const [spotToFill, setSpotToFill] = useState<Spot | null>(null)
  const [shows, setShows] = useState<'settings' | 'brand' | null>(null)
  const navigate = useNavigate()
  if (!project)
    return (
      <Shell crumbs={[{ label: 'Project' }]}>
        {error ? <Problem message={error.message} onRetry={() => void refetch()} /> : <Loading />}
      </Shell>
    )
  const reload = (): Promise<void> => projectChanged(projectId)
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
              Pages and the spots on them. A spot is the whole page or one region of it; each
              backdrop is made for a spot.
            </p>
          </div>
          <div className="flex gap-2">
            <Button onClick={() => setShows('settings')}>
              <Weight className="size-4" aria-hidden />
              Budgets and browsers
            </Button>
            <Button onClick={() => setShows('brand')}>
              <Palette className="size-4" aria-hidden />
              Brand
            </Button>
            <Button onClick={() => setQuestion({ kind: 'page' })}>
              <Plus className="size-4" aria-hidden />
              Add a page
            </Button>
          </div>
        </div>
        {project.pages.length === 0 && (
          <p className="rounded-lg border border-dashed border-line-strong p-8 text-center">
            No page yet. Add the page whose background you are preparing.
          </p>
        )}
        <div className="flex flex-col gap-4">
          {project.pages.map((page) => (
            <PageSection
              key={page.id}
              page={page}
              sources={[...clips, ...images]}
              onAsk={setQuestion}
              onFill={setSpotToFill}
            />
          ))}
        </div>
      </main>
      {shows === 'settings' && (
        <SettingsDialog projectId={project.id} onClose={() => setShows(null)} />
      )}
      {shows === 'brand' && (
        <BrandDialog projectId={project.id} name={project.name} onClose={() => setShows(null)} />
      )}
      {question && (
        <ProjectDialog
          projectId={project.id}
          question={question}
          onClose={() => setQuestion(null)}
          onChanged={reload}
        />
      )}
      {spotToFill && (
        <NewBackdrop
          projectId={project.id}
          spot={spotToFill}
          onClose={() => setSpotToFill(null)}
          onMade={(id) => void reload().then(() => navigate(`/backdrops/${id}`))}
        />
      )}
    </Shell>
  )
}

/** A page with its spots. */
function PageSection({
  page,
  sources,
  onAsk,
  onFill,
}: {
  page: Page
  sources: readonly SourceCard[]
  onAsk: Ask
  onFill: (spot: Spot) => void
}) {
  return (
    <section className="rounded-lg border border-line bg-sheet" aria-labelledby={`page-${page.id}`}>
      <div className="flex items-center justify-between border-b border-line px-4 py-2">
        <h2 id={`page-${page.id}`} className="text-base font-semibold">
          {page.name}
        </h2>
        <div className="flex shrink-0 gap-1">
          <Button tone="quiet" onClick={() => onAsk({ kind: 'spot', page })}>
            <Plus className="size-4" aria-hidden />
            Add a spot
          </Button>
          <Button
            tone="quiet"
            aria-label={`Rename page ${page.name}`}
            title="Rename"
            onClick={() => onAsk({ kind: 'rename-page', page })}
          >
            <Pencil className="size-4" aria-hidden />
          </Button>
          <Button
            tone="quiet"
            aria-label={`Delete page ${page.name}`}
            title="Delete"
            onClick={() => onAsk({ kind: 'delete-page', page })}
          >
            <Trash2 className="size-4" aria-hidden />
          </Button>
        </div>
      </div>
      {page.spots.length === 0 && (
        <p className="px-4 py-3 text-muted">
          No spot yet. A spot is a place for a backdrop: its position and its height.
        </p>
      )}
      <ul>
        {page.spots.map((spot) => (
          <SpotRow key={spot.id} spot={spot} sources={sources} onAsk={onAsk} onFill={onFill} />
        ))}
      </ul>
    </section>
  )
}

/** A spot and the backdrops made for it. */
function SpotRow({
  spot,
  sources,
  onAsk,
  onFill,
}: {
  spot: Spot
  sources: readonly SourceCard[]
  onAsk: Ask
  onFill: (spot: Spot) => void
}) {
  return (
    <li className="flex flex-wrap items-center gap-x-6 gap-y-2 border-b border-line px-4 py-2.5 last:border-0">
      <div className="w-52">
        <div className="font-medium wrap-anywhere">{spot.name}</div>
        <div className="text-xs text-muted">
          {spot.scope === 'page' ? 'behind the whole page' : 'a region'}, new backdrops{' '}
          {spot.height.value} {spot.height.unit} tall
        </div>
      </div>
      <ul className="flex flex-1 flex-wrap gap-2">
        {spot.backdrops.map((backdrop) => (
          <BackdropChip key={backdrop.id} backdrop={backdrop} sources={sources} onAsk={onAsk} />
        ))}
      </ul>
      <div className="flex gap-1">
        <Button onClick={() => onFill(spot)}>
          <Plus className="size-4" aria-hidden />
          Make a backdrop
        </Button>
        <Button
          tone="quiet"
          aria-label={`Change spot ${spot.name}`}
          title="Change"
          onClick={() => onAsk({ kind: 'edit-spot', spot })}
        >
          <Pencil className="size-4" aria-hidden />
        </Button>
        <Button
          tone="quiet"
          aria-label={`Delete spot ${spot.name}`}
          title="Delete"
          onClick={() => onAsk({ kind: 'delete-spot', spot })}
        >
          <Trash2 className="size-4" aria-hidden />
        </Button>
      </div>
    </li>
  )
}

/** A backdrop with its picture; opens the workbench. */
function BackdropChip({
  backdrop,
  sources,
  onAsk,
}: {
  backdrop: BackdropSummary
  sources: readonly SourceCard[]
  onAsk: Ask
}) {
  return (
    <li className="flex min-w-0 items-center gap-1 rounded border border-line bg-white pr-1">
      <Link
        to={`/backdrops/${backdrop.id}`}
        className="flex min-w-0 items-center gap-2 rounded p-1 hover:underline"
      >
        <Thumb sources={sources} backdrop={backdrop} />
        <span className="font-medium wrap-anywhere">{backdrop.name}</span>
      </Link>
      <Button
        tone="quiet"
        className="px-1.5!"
        aria-label={`Rename backdrop ${backdrop.name}`}
        title="Rename"
        onClick={() => onAsk({ kind: 'rename-backdrop', backdrop })}
      >
        <Pencil className="size-3.5" aria-hidden />
      </Button>
      <Button
        tone="quiet"
        className="px-1.5!"
        aria-label={`Delete backdrop ${backdrop.name}`}
        title="Delete"
        onClick={() => onAsk({ kind: 'delete-backdrop', backdrop })}
      >
        <Trash2 className="size-3.5" aria-hidden />
      </Button>
    </li>
  )
}

function Thumb({
  sources,
  backdrop: { sourceId, paint },
}: {
  sources: readonly SourceCard[]
  backdrop: BackdropSummary
}) {
  const source = sources.find((each) => each.id === sourceId)
  return (
    <span className="[container-type:size] block h-9 w-16 shrink-0">
      {source ? (
        <SourceThumb source={source} className="size-full" />
      ) : (
        <span
          aria-hidden
          className="block size-full bg-paper-deep"
          style={paint ? { background: paintBackground(paint) } : undefined}
        />
      )}
    </span>
  )
}
