import { Pencil, Plus, Trash2 } from 'lucide-react'
import { useState } from 'react'
import { Link, useNavigate } from 'react-router'
import type { ProjectSummary } from '../../core/api/wire'
import { api } from '../api/client'
import { keys, queries, useProjects } from '../api/queries'
import { Loading, Problem, Shell } from '../shell/Shell'
import { Hero } from '../stage/Hero'
import { AskDialog, TextLine } from '../ui/AskDialog'
import { Button } from '../ui/controls'

type Asking =
  | { readonly kind: 'add' }
  | { readonly kind: 'rename' | 'delete'; readonly project: ProjectSummary }
  | null

/** All projects, each with the backdrop worked on last, moving. */
export function ProjectsView() {
  const { data: projects, error, refetch } = useProjects()
  const [asking, setAsking] = useState<Asking>(null)
  return (
    <Shell
      crumbs={[{ label: 'Projects' }]}
      actions={
        <>
          <Link to="/work" className="px-2 text-muted hover:text-ink hover:underline">
            Work
          </Link>
          <Link to="/space" className="px-2 text-muted hover:text-ink hover:underline">
            Space
          </Link>
          <Link to="/access" className="px-2 text-muted hover:text-ink hover:underline">
            Access
          </Link>
          <Button tone="accent" onClick={() => setAsking({ kind: 'add' })}>
            <Plus className="size-4" aria-hidden />
            New project
          </Button>
        </>
      }
    >
      <main className="min-h-0 flex-1 overflow-auto px-6 py-6">
        <h1 className="mb-1 text-2xl figure-face">Moving backgrounds, measured and rendered</h1>
        <p className="mb-5 max-w-2xl text-muted">
          Add a clip, cut it, preview the loop behind your copy, and download a folder that works on
          any site. A project holds one site’s pages, clips and backdrops.
        </p>
        {error && !projects && <Problem message={error.message} onRetry={() => void refetch()} />}
        {!projects && !error && <Loading />}
        {projects?.length === 0 && (
          <div className="rounded-lg border border-dashed border-line-strong p-10 text-center">
            <p className="mb-4">
              No project yet. The first one comes with a page and a hero spot, ready for a clip.
            </p>
            <Button tone="accent" onClick={() => setAsking({ kind: 'add' })}>
              New project
            </Button>
          </div>
        )}
        <ul className="grid grid-cols-[repeat(auto-fill,minmax(min(100%,34rem),1fr))] gap-5">
          {projects?.map((project) => (
            <ProjectCard key={project.id} project={project} onAsk={setAsking} />
          ))}
          {projects && projects.length < 3 && (
            <li className="rounded-lg border border-dashed border-line-strong p-6">
              <Way />
            </li>
          )}
        </ul>
      </main>
      {asking && <ProjectDialogs asking={asking} onClose={() => setAsking(null)} />}
    </Shell>
  )
}

function ProjectCard({
  project,
  onAsk,
}: {
  project: ProjectSummary
  onAsk: (next: Asking) => void
}) {
  return (
    <li className="overflow-hidden rounded-lg border border-line bg-sheet">
      {project.latestBackdropId ? (
        <Hero backdropId={project.latestBackdropId} />
      ) : (
        <div className="grid aspect-video place-items-center bg-[#55544f] text-white">
          No backdrop yet
        </div>
      )}
      <div className="flex flex-wrap items-center justify-between gap-2 px-4 py-3">
        <div>
          <h2 className="text-lg font-semibold">
            <Link to={`/projects/${project.id}`} className="hover:underline">
              {project.name}
            </Link>
          </h2>
          <p className="text-xs text-muted">
            {count(project.pages, 'page')}, {count(project.sources, 'clip')},{' '}
            {count(project.backdrops, 'backdrop')}
          </p>
        </div>
        <div className="flex items-center gap-1">
          <Button
            tone="quiet"
            aria-label={`Rename ${project.name}`}
            title="Rename"
            onClick={() => onAsk({ kind: 'rename', project })}
          >
            <Pencil className="size-4" aria-hidden />
          </Button>
          <Button
            tone="quiet"
            aria-label={`Delete ${project.name}`}
            title="Delete"
            onClick={() => onAsk({ kind: 'delete', project })}
          >
            <Trash2 className="size-4" aria-hidden />
          </Button>
          {project.latestBackdropId && (
            <Link
              to={`/backdrops/${project.latestBackdropId}`}
              className="inline-flex min-h-8 items-center rounded border border-line-strong/60 px-3 font-medium hover:bg-white"
            >
              Continue
            </Link>
          )}
        </div>
      </div>
    </li>
  )
}

/** The dialog that adds, renames or deletes a project. */
function ProjectDialogs({ asking, onClose }: { asking: NonNullable<Asking>; onClose: () => void }) {
  const reload = (): Promise<void> => queries.invalidateQueries({ queryKey: keys.projects })
  const [name, setName] = useState(asking.kind === 'rename' ? asking.project.name : '')
  const navigate = useNavigate()
  return (
    <>
      {asking.kind === 'add' && (
        <AskDialog
          title="New project"
          action="Add project"
          onClose={onClose}
          onAct={async () => {
            const { id } = await api.createProject(name)
            await reload()
            await navigate(`/projects/${id}`)
          }}
        >
          <TextLine label="Name, usually the site’s" value={name} onChange={setName} />
        </AskDialog>
      )}
      {asking.kind === 'rename' && (
        <AskDialog
          title="Rename project"
          action="Rename"
          onClose={onClose}
          onAct={() => api.renameProject(asking.project.id, name).then(reload)}
        >
          <TextLine label="Name" value={name} onChange={setName} />
        </AskDialog>
      )}
      {asking.kind === 'delete' && (
        <AskDialog
          title={`Delete ${asking.project.name}?`}
          action="Delete for good"
          danger
          onClose={onClose}
          onAct={() => api.deleteProject(asking.project.id).then(reload)}
        >
          <p>
            This deletes {count(asking.project.pages, 'page')},{' '}
            {count(asking.project.sources, 'clip')} on the shelf and{' '}
            {count(asking.project.backdrops, 'backdrop')} with all their revisions. It cannot be
            undone. Folders you have downloaded stay as they are.
          </p>
        </AskDialog>
      )}
    </>
  )
}

/** The way through, for a first visit. */
function Way() {
  const steps = [
    [
      'Add your clip',
      'Open a project, then its shelf. Drop files there: each is read before it is sent.',
    ],
    ['Place it', 'On a page’s spot, make a backdrop from the clip. The workbench opens.'],
    [
      'Follow the balance bar',
      'Cut the loop, write the copy on the stage, increase the scrim until the heading is readable.',
    ],
    [
      'Render files',
      'Under Weight: up to three formats and a width for each screen, inside your byte budget.',
    ],
    [
      'Hand off',
      'Download the folder. It works on any site, shows its poster first and can be paused.',
    ],
  ] as const
  return (
    <>
      <h2 className="mb-3 text-lg font-semibold">From your clip to a folder, in five steps</h2>
      <ol className="flex flex-col gap-3">
        {steps.map(([title, text], index) => (
          <li key={title} className="flex gap-3">
            <span className="w-6 shrink-0 text-2xl leading-7 figure-face text-curtain" aria-hidden>
              {index + 1}
            </span>
            <span>
              <b className="font-semibold">{title}.</b> <span className="text-muted">{text}</span>
            </span>
          </li>
        ))}
      </ol>
    </>
  )
}

function count(number: number, noun: string): string {
  return `${number} ${noun}${number === 1 ? '' : 's'}`
}
