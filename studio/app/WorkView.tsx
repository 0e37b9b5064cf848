import { useQuery } from '@tanstack/react-query'
import { useEffect } from 'react'
import type { SeenWorker, WorkOverview } from '../../core/api/work'
import { api } from '../api/client'
import { keys } from '../api/queries'
import { openWorkEvents } from '../api/workEvents'
import { Loading, Problem, Shell } from '../shell/Shell'
import { formatTime } from '../ui/format'
import { Table } from '../ui/Table'
import { Tokens } from './Tokens'
import { Empty, Panel } from './Panel'
import { reloadWork, WorkFiles } from './WorkFiles'

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
        void reloadWork()
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
        <h1 tabIndex={-1} className="mb-4 w-fit text-2xl figure-face">
          Work
        </h1>
        {work.isPending && <Loading />}
        {work.error && <Problem message={work.error.message} onRetry={() => void work.refetch()} />}
        {work.data && (
          <div className="flex max-w-6xl flex-col gap-5">
            <WorkFiles overview={work.data} />
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
