import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import type { FreeingState, SpaceReport } from '../../core/api/space'
import { api, messageOf } from '../api/client'
import { keys, queries } from '../api/queries'
import { Loading, Problem, Shell } from '../shell/Shell'
import { useNotices } from '../state/noticeStore'
import { AskDialog } from '../ui/AskDialog'
import { Button, Progress } from '../ui/controls'
import { formatBytes, formatDate } from '../ui/format'
import { Panel } from './Panel'

const isRunning = (freeing: FreeingState | null): boolean =>
  freeing?.stage === 'marking' || freeing?.stage === 'freeing'

const countFiles = (files: number): string => `${files} ${files === 1 ? 'file' : 'files'}`

/** What takes space on the server, per project, and what can be freed. */
export function SpaceView() {
  const space = useQuery({
    queryKey: keys.space,
    queryFn: api.readSpace,
    staleTime: 0,
    refetchInterval: (query) => (isRunning(query.state.data?.freeing ?? null) ? 400 : false),
  })
  return (
    <Shell crumbs={[{ label: 'Projects', to: '/' }, { label: 'Space' }]}>
      <main className="min-h-0 flex-1 overflow-auto px-6 py-5">
        <h1 className="mb-4 text-2xl figure-face">Space</h1>
        {space.isPending && <Loading />}
        {space.error && (
          <Problem message={space.error.message} onRetry={() => void space.refetch()} />
        )}
        {space.data && (
          <div className="flex max-w-5xl flex-col gap-5">
            <Totals report={space.data} />
            <Freeing report={space.data} />
            <ProjectTable report={space.data} />
          </div>
        )}
      </main>
    </Shell>
  )
}

function Totals({ report: { stored, onDisk } }: { report: SpaceReport }) {
  return (
    <dl className="flex flex-wrap gap-x-10 gap-y-3">
      <Figure
        name="Stored files"
        value={formatBytes(stored.bytes)}
        note={`${countFiles(stored.files)}; equal content is stored once`}
      />
      <Figure
        name="Database on disk"
        value={formatBytes(onDisk)}
        note="including indexes and free pages"
      />
    </dl>
  )
}

function Figure({ name, value, note }: { name: string; value: string; note: string }) {
  return (
    <div>
      <dt className="text-xs text-muted">{name}</dt>
      <dd>
        <span className="block text-3xl figure-face">{value}</span>
        <span className="text-xs text-muted">{note}</span>
      </dd>
    </div>
  )
}

/** Unused space, and the run that frees it. */
function Freeing({ report: { freeable, freeing } }: { report: SpaceReport }) {
  const { now, later, nextAt } = freeable
  const [asking, setAsking] = useState(false)
  const tell = useNotices((state) => state.tell)
  const reload = (): Promise<void> => queries.invalidateQueries({ queryKey: keys.space })
  const start = async (withoutGrace: boolean): Promise<void> => {
    await api.startFreeing(withoutGrace)
    await reload()
  }
  const cancel = (): void =>
    void api.cancelFreeing().then(reload, (error: unknown) => tell(messageOf(error)))
  const running = isRunning(freeing)
  return (
    <Panel id="freeing" title="Unused files">
      <p className="mb-3 max-w-3xl text-muted">
        Files that no backdrop, undo step, kept revision or shelf uses are kept for 30 days and then
        freed automatically. Files in use are never freed.
      </p>
      <dl className="mb-3 flex flex-wrap gap-x-10 gap-y-3">
        <Figure
          name="Can be freed now"
          value={formatBytes(now.bytes)}
          note={`${countFiles(now.files)}, unused for 30 days or longer`}
        />
        <Figure
          name="Kept for now"
          value={formatBytes(later.bytes)}
          note={
            later.files === 0
              ? 'nothing became unused lately'
              : `${countFiles(later.files)}; the first can go on ${nextAt ? formatDate(nextAt) : ''}`
          }
        />
      </dl>
      {running && freeing ? (
        <div className="flex items-center gap-3">
          <Progress
            value={freeing.done}
            label={freeing.stage === 'marking' ? 'Finding unused files' : 'Freeing unused files'}
          />
          <span className="shrink-0 text-xs text-muted" role="status">
            {freeing.stage === 'marking'
              ? 'Finding unused files …'
              : `${formatBytes(freeing.freedBytes)} freed …`}
          </span>
          <Button tone="quiet" onClick={cancel}>
            Cancel
          </Button>
        </div>
      ) : (
        <div className="flex flex-wrap items-center gap-2">
          <Button
            disabled={now.files === 0}
            onClick={() => void start(false).catch((error: unknown) => tell(messageOf(error)))}
          >
            {now.files === 0 ? 'Nothing to free yet' : `Free ${formatBytes(now.bytes)}`}
          </Button>
          <Button
            tone="quiet"
            disabled={now.files + later.files === 0}
            onClick={() => setAsking(true)}
          >
            Free all unused files …
          </Button>
          {freeing && (
            <span role="status" className="text-xs text-muted">
              {lastRun(freeing)}
            </span>
          )}
        </div>
      )}
      {asking && (
        <AskDialog
          title={`Free ${formatBytes(now.bytes + later.bytes)} now?`}
          action="Free all unused files"
          danger
          onClose={() => setAsking(false)}
          onAct={() => start(true)}
        >
          <p>
            This also frees {countFiles(later.files)} that became unused in the last 30 days, such
            as those of deleted projects and sources, and files from before a repair. They cannot be
            brought back.
          </p>
        </AskDialog>
      )}
    </Panel>
  )
}

function lastRun({ stage, freedBytes, freedFiles, message }: FreeingState): string {
  const freed = `${formatBytes(freedBytes)} in ${countFiles(freedFiles)} freed`
  if (stage === 'failed') return `${message ?? 'Freeing failed.'} ${freed}.`
  return stage === 'cancelled' ? `Cancelled: ${freed}.` : `Last run: ${freed}.`
}

function ProjectTable({ report: { projects } }: { report: SpaceReport }) {
  const total = ({ sources, renditions, uploads }: SpaceReport['projects'][number]): number =>
    sources.bytes + renditions.bytes + uploads.bytes
  const max = Math.max(1, ...projects.map(total))
  return (
    <Panel id="projects" title="Projects">
      {projects.length === 0 && <p className="text-muted">No projects.</p>}
      {projects.length > 0 && (
        <div className="overflow-x-auto">
          <table className="w-full text-left">
            <thead className="text-xs text-muted">
              <tr>
                <th className="py-1 font-normal">Project</th>
                <th className="w-1/4 font-normal">Total</th>
                <th className="text-right font-normal">Shelf</th>
                <th className="text-right font-normal">Rendered files</th>
                <th className="text-right font-normal">Uploads under way</th>
                <th className="text-right font-normal">Revisions</th>
              </tr>
            </thead>
            <tbody className="tabular-nums">
              {[...projects]
                .sort((a, b) => total(b) - total(a))
                .map((project) => (
                  <tr key={project.id} className="border-t border-line">
                    <td className="py-1.5 pr-3 font-medium wrap-anywhere">{project.name}</td>
                    <td className="pr-4">
                      <span className="block">{formatBytes(total(project))}</span>
                      <span
                        aria-hidden
                        className="block h-1.5 rounded bg-curtain/70"
                        style={{ width: `${(total(project) / max) * 100}%` }}
                      />
                    </td>
                    <td className="text-right">
                      {formatBytes(project.sources.bytes)}{' '}
                      <span className="text-muted">({project.sources.files})</span>
                    </td>
                    <td className="text-right">
                      {formatBytes(project.renditions.bytes)}{' '}
                      <span className="text-muted">({project.renditions.files})</span>
                    </td>
                    <td className="text-right">
                      {project.uploads.files === 0 ? '–' : formatBytes(project.uploads.bytes)}
                    </td>
                    <td className="text-right">{project.revisions}</td>
                  </tr>
                ))}
            </tbody>
          </table>
        </div>
      )}
    </Panel>
  )
}
