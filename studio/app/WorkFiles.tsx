import { useRef, useState } from 'react'
import { Link } from 'react-router'
import type { ListedJob, WorkOverview, WorkStates } from '../../core/api/work'
import { api, messageOf } from '../api/client'
import { keys, queries } from '../api/queries'
import { useNotices } from '../state/noticeStore'
import { AskDialog } from '../ui/AskDialog'
import { Button, Progress } from '../ui/controls'
import { FORMAT_NAMES, formatLeft, PICTURE_NAMES, STEP_NAMES } from '../ui/format'
import { useKeptFocus } from '../ui/useKeptFocus'
import { Empty, Panel } from './Panel'

/** Files that wait are listed so far, until all are asked for. */
const FIRST_WAITING = 8

export const reloadWork = (): Promise<void> => queries.invalidateQueries({ queryKey: keys.work })

type Act = (done: Promise<unknown>) => void

/** What runs, what failed and why, what waits; one of it, or all, can be ended or tried again. */
export function WorkFiles({ overview: { counts, jobs } }: { overview: WorkOverview }) {
  const all = counts.running + counts.waiting + counts.failed
  const [showsAll, setShowsAll] = useState(false)
  const waiting = jobs.filter(({ state }) => state === 'waiting')
  const shown = showsAll
    ? jobs
    : [...jobs.filter(({ state }) => state !== 'waiting'), ...waiting.slice(0, FIRST_WAITING)]
  const tell = useNotices((state) => state.tell)
  const act = (done: Promise<unknown>): void =>
    void done.then(reloadWork, (error: unknown) => tell(messageOf(error)))
  const table = useRef<HTMLTableElement>(null)
  useKeptFocus(table)
  return (
    <Panel
      id="files"
      aside={<ForAll counts={counts} act={act} />}
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
        <table
          ref={table}
          className="w-full text-left text-[0.82rem]"
          aria-label="Files"
          role="table"
        >
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

/** What can be done with many files at once. */
function ForAll({ counts, act }: Pick<WorkOverview, 'counts'> & { act: Act }) {
  const [asks, setAsks] = useState(false)
  const tell = useNotices((state) => state.tell)
  const unfinished = counts.running + counts.waiting
  const end = async (states: WorkStates, word: string): Promise<void> => {
    const { files } = await api.cancelAllWork(states)
    tell(`${files} ${files === 1 ? 'file' : 'files'} ${word}.`)
  }
  return (
    <>
      {counts.failed > 1 && (
        <>
          <Button tone="quiet" onClick={() => act(api.retryAllWork())}>
            Try all failed again
          </Button>
          <Button tone="quiet" onClick={() => act(end(['failed'], 'dismissed'))}>
            Dismiss all failed
          </Button>
        </>
      )}
      {unfinished > 1 && (
        <Button tone="quiet" onClick={() => setAsks(true)}>
          Cancel all
        </Button>
      )}
      {asks && (
        <AskDialog
          title={`Cancel ${unfinished} files?`}
          action="Cancel files"
          leave="Keep them"
          danger
          onAct={async () => {
            await end(['running', 'waiting'], 'cancelled')
            await reloadWork()
          }}
          onClose={() => setAsks(false)}
        >
          <p>
            They are files of all projects, also those that others have asked for. What is made
            already stays; the rest can be rendered again from its backdrops.
          </p>
        </AskDialog>
      )}
    </>
  )
}

/** On narrow screens what a row holds stands below each other. */
function JobRow({ job, act }: { job: ListedJob; act: Act }) {
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
