import { useQuery } from '@tanstack/react-query'
import { useEffect, useState, type ReactNode } from 'react'
import { Link } from 'react-router'
import type { ListedJob, SeenWorker, WorkOverview } from '../../core/api/work'
import { api, messageOf } from '../api/client'
import { keys, queries } from '../api/queries'
import { openWorkEvents } from '../api/workEvents'
import { Loading, Problem, Shell } from '../shell/Shell'
import { useNotices } from '../state/noticeStore'
import { Button, Progress } from '../ui/controls'
import { FORMAT_NAMES, formatLeft, formatTime, PICTURE_NAMES, STEP_NAMES } from '../ui/format'
import { Table } from '../ui/Table'
import { Tokens } from './Tokens'

/** Files that wait are listed so far, until all are asked for. */
const FIRST_WAITING = 8
/** Events come many a second: the list is read again at most so often. */
const SOON_MS = 500
/** Workers come and go without an event. */
const ASK_EVERY_MS = 5000

/** What runs where, what waits, what failed and why, and the machines that render. */
export function WorkView() {
  const work = useQuery({
    queryKey: keys.work,
    queryFn: api.readWork,
    staleTime: 0,
    refetchInterval: ASK_EVERY_MS,
  })
  useEffect(() => {
    let timer: ReturnType<typeof setTimeout> | undefined
    const soon = (): void => {
      timer ??= setTimeout(() => {
        timer = undefined
        void reload()
      }, SOON_MS)
    }
    const close = openWorkEvents(soon, soon)
    return () => {
      clearTimeout(timer)
      close()
    }
  }, [])
  return (
    <Shell crumbs={[{ label: 'Projects', to: '/' }, { label: 'Work' }]}>
      <main className="min-h-0 flex-1 overflow-auto px-6 py-5">
        <h1 className="mb-4 text-2xl figure-face">Work</h1>
        {work.isPending && <Loading />}
        {work.error && <Problem message={work.error.message} onRetry={() => void work.refetch()} />}
        {work.data && (
          <div className="flex max-w-6xl flex-col gap-5">
            <Jobs overview={work.data} />
            <Workers workers={work.data.workers} />
            <Tokens use="worker" title="Machines that render" action="Add a machine">
              Any machine that reaches this server can render for it: it needs Telon of the same
              version, and a token, which renders and can do no more. Revoke those of machines that
              are gone.
            </Tokens>
          </div>
        )}
      </main>
    </Shell>
  )
}

const reload = (): Promise<void> => queries.invalidateQueries({ queryKey: keys.work })

function Panel({ id, title, children }: { id: string; title: ReactNode; children: ReactNode }) {
  return (
    <section aria-labelledby={id} className="rounded-lg border border-line bg-sheet p-4">
      <h2 id={id} className="mb-2 text-base font-semibold">
        {title}
      </h2>
      {children}
    </section>
  )
}

const Empty = ({ children }: { children: ReactNode }) => (
  <p className="rounded border border-dashed border-line-strong p-4 text-center text-muted">
    {children}
  </p>
)

function Jobs({ overview: { counts, jobs } }: { overview: WorkOverview }) {
  const all = counts.running + counts.waiting + counts.failed
  const [showsAll, setShowsAll] = useState(false)
  const waiting = jobs.filter(({ state }) => state === 'waiting')
  const shown = showsAll
    ? jobs
    : [...jobs.filter(({ state }) => state !== 'waiting'), ...waiting.slice(0, FIRST_WAITING)]
  const tell = useNotices((state) => state.tell)
  const act = (done: Promise<unknown>): void =>
    void done.then(reload, (error: unknown) => tell(messageOf(error)))
  return (
    <Panel
      id="files"
      title={
        <>
          Files
          <span role="status" className="ml-3 font-normal text-muted tabular-nums">
            {counts.running} rendering, {counts.waiting} waiting, {counts.failed} failed
          </span>
        </>
      }
    >
      {all === 0 ? (
        <Empty>
          Nothing is rendered now. Choose <em>Smallest</em> under <em>Weight</em> of a backdrop, and
          press <em>Render</em>: its files are made here, also when the page is closed.
        </Empty>
      ) : (
        <table className="w-full text-left text-[0.82rem]" aria-label="Files" role="table">
          <thead className="text-xs text-muted max-md:sr-only" role="rowgroup">
            <tr role="row">
              {['Source', 'File', 'Encoder', 'State'].map((name) => (
                <th key={name} scope="col" role="columnheader" className="py-1 pr-4 font-normal">
                  {name}
                </th>
              ))}
              <th />
            </tr>
          </thead>
          <tbody role="rowgroup">
            {shown.map((job) => (
              <JobRow key={job.key} job={job} act={act} />
            ))}
          </tbody>
        </table>
      )}
      {shown.length < all && (
        <p className="mt-2 flex items-center gap-2 text-xs text-muted">
          {shown.length} of {all}: those that come first.
          {shown.length < jobs.length && (
            <Button tone="quiet" onClick={() => setShowsAll(true)}>
              Show {jobs.length === all ? 'all' : jobs.length}
            </Button>
          )}
        </p>
      )}
    </Panel>
  )
}

/** On narrow screens what a row holds stands below each other. */
function JobRow({ job, act }: { job: ListedJob; act: (done: Promise<unknown>) => void }) {
  const isFailed = job.state === 'failed'
  const cell = 'py-1 pr-4 max-md:p-0'
  return (
    <tr
      role="row"
      className="border-t border-line max-md:flex max-md:flex-wrap max-md:items-baseline max-md:gap-x-3 max-md:py-2"
    >
      <td role="cell" className={`${cell} max-md:w-full`}>
        <SourceNames job={job} />
      </td>
      <td role="cell" className={`${cell} whitespace-nowrap tabular-nums`}>
        {fileWords(job)}
      </td>
      <td role="cell" className={`${cell} whitespace-nowrap text-muted`}>
        {job.file.encoder ?? 'the browser’s'}
      </td>
      <td role="cell" className={`${cell} max-md:flex-1 max-md:basis-40 md:w-2/5`}>
        <State job={job} />
      </td>
      <td role="cell" className="py-1 max-md:p-0">
        <div className="flex justify-end gap-1">
          {isFailed && (
            <Button tone="quiet" onClick={() => act(api.retryWork([job.key]))}>
              Try again
            </Button>
          )}
          <Button
            tone="quiet"
            aria-label={`${isFailed ? 'Dismiss' : 'Cancel'} ${fileWords(job)}`}
            onClick={() => act(api.cancelWork([job.key]))}
          >
            {isFailed ? 'Dismiss' : 'Cancel'}
          </Button>
        </div>
      </td>
    </tr>
  )
}

function SourceNames({ job: { sources, projectId } }: { job: ListedJob }) {
  const [first, ...others] = sources
  if (first === undefined) return <span className="text-muted">not on a shelf any more</span>
  const words = others.length > 0 ? `${first} and ${others.length} more` : first
  return projectId ? (
    <Link to={`/projects/${projectId}`} className="font-medium wrap-anywhere hover:underline">
      {words}
    </Link>
  ) : (
    <span className="font-medium">{words}</span>
  )
}

const KINDS = { clip: '', proof: 'proof ', poster: 'poster ', probe: 'short encodes ' } as const

/** What is made, in words: "AV1 1920 × 1080". */
function fileWords({ file: { kind, format, width, height } }: ListedJob): string {
  const name = { ...FORMAT_NAMES, ...PICTURE_NAMES }[format]
  return `${KINDS[kind]}${name} ${width} × ${height}`
}

function State({ job }: { job: ListedJob }) {
  if (job.state === 'waiting') return <span className="text-muted">waiting</span>
  if (job.state === 'failed')
    return <span className="text-fix">{job.reason ?? 'It failed, and did not say why.'}</span>
  const step =
    job.step === null
      ? 'starting'
      : job.step === 'pass'
        ? job.file.kind === 'poster'
          ? 'encoding'
          : `pass ${job.pass + 1}`
        : STEP_NAMES[job.step]
  const left = job.secondsLeft === null ? '' : `, ${formatLeft(job.secondsLeft)}`
  return (
    <div className="min-w-40">
      <Progress value={job.done} label={`Rendering ${fileWords(job)}`} />
      <span className="text-xs text-muted">
        {job.worker ?? 'a worker'}: {step}
        {left}
      </span>
    </div>
  )
}

function Workers({ workers }: Pick<WorkOverview, 'workers'>) {
  return (
    <Panel
      id="workers"
      title={
        <>
          Render workers
          <span className="ml-3 font-normal text-muted tabular-nums">{workers.length}</span>
        </>
      }
    >
      {workers.length === 0 ? (
        <Empty>
          None is running, so that nothing is rendered here. <code>npm start</code> starts one
          beside the server; others join from other machines.
        </Empty>
      ) : (
        <div className="overflow-x-auto">
          <Table
            label="Render workers"
            head={['Machine', 'Processors', 'Encoders', 'Speed at 1080p', 'Does', 'Last heard of']}
            rows={workers.map((worker) => [
              <span key="name" className="font-medium whitespace-nowrap">
                {worker.name}
              </span>,
              <span key="machine" className="whitespace-nowrap">
                {worker.machine || 'not told'}
              </span>,
              worker.encoders.join(', ') || 'the browser’s alone',
              speedWords(worker),
              worker.renders ? 'renders' : 'waits for files',
              formatTime(worker.seenAt),
            ])}
          />
        </div>
      )}
    </Panel>
  )
}

const MEGAPIXELS_OF_1080P = (1920 * 1080) / 1e6

/** Frames a second of each encoder that has made a pass. */
function speedWords({ speeds }: SeenWorker): string {
  if (speeds.length === 0) return 'no file made yet'
  return speeds
    .map(({ encoder, megapixels }) => {
      const frames = megapixels / MEGAPIXELS_OF_1080P
      return `${encoder?.split(' ')[0] ?? 'browser'} ${frames < 10 ? frames.toFixed(1) : frames.toFixed(0)}`
    })
    .join(', ')
    .concat(' frames/s')
}
