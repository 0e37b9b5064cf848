import { join } from 'node:path'
import { ServerRequests } from '../../node/ServerRequests'
import { UsageError } from '../DeliverOptions'
import { findProject, sendFile } from '../upload'
import { Batch, pause, type Outcome } from './Batch'
import { droppedDelivery, readList, type ReadList } from './BatchList'
import { BatchState } from './BatchState'
import { WatchedFolder } from './watchFolder'

/** How `telon batch` was called; paths are absolute. */
export interface BatchOptions {
  readonly server: string
  readonly token: string
  readonly project?: string
  readonly encoders: 'best' | 'browser'
  /** Whether it waits for the folders, or returns when all is queued. */
  readonly wait: boolean
  /** A folder of which everything is delivered that is dropped there. */
  readonly watch?: string
  /** Where that is delivered. */
  readonly out?: string
}

const WATCH_MS = 2000

/**
 * Queues the deliveries of a list, and what is dropped into a folder, at a server; writes their
 * folders. Gives whether none has failed. Errors: UsageError; Refusal.
 * Called again, it goes on.
 */
export async function runBatch(
  list: string | null,
  options: BatchOptions,
  signal: AbortSignal,
  say: (line: string) => void,
  tell: (outcome: Outcome) => void,
): Promise<boolean> {
  const { server, token, watch } = options
  if (list === null && watch === undefined)
    throw new UsageError('Name a list of deliveries, or a folder with --watch.')
  const read = list === null ? EMPTY : await readList(list)
  if (watch === undefined && read.deliveries.length === 0)
    throw new UsageError(`${list}: there are no deliveries in it.`)
  const project = options.project ?? read.project
  if (project === null)
    throw new UsageError('Name the project for the sources: --project, or "project" in the list.')
  const place = { server, token, project }
  const projectId = await findProject(place)
  const requests = new ServerRequests(server, token)
  let isWell = true
  const batch = new Batch({
    requests,
    state: await BatchState.open(list === null ? join(watch!, STATE) : `${list}.state`),
    sendFile: (file) => sendFile(file, projectId, place),
    encoders: options.encoders,
    signal,
    say,
    onOutcome(outcome) {
      isWell &&= outcome.state !== 'failed'
      tell(outcome)
    },
  })
  try {
    for (const delivery of read.deliveries) {
      if (signal.aborted) break
      await batch.queue(delivery)
      await batch.collect()
    }
    if (watch !== undefined) await watchOn(batch, watch, read, options, signal, say)
    else if (options.wait) await batch.wait()
  } catch (error) {
    // Whoever ends it does not wait for an answer.
    if (!signal.aborted) throw error
  } finally {
    await batch.end()
  }
  return isWell
}

const EMPTY: ReadList = { project: null, options: {}, folder: '.', deliveries: [] }
const STATE = '.telon-batch.state'

async function watchOn(
  batch: Batch,
  folder: string,
  list: ReadList,
  { out = join(folder, 'delivered') }: BatchOptions,
  signal: AbortSignal,
  say: (line: string) => void,
): Promise<void> {
  const watched = new WatchedFolder(folder)
  say(`Watching ${folder}. Delivered folders are written to ${out}.`)
  while (!signal.aborted) {
    for (const file of await watched.look())
      await batch.queue(await droppedDelivery(file, out, list))
    await batch.collect()
    await pause(WATCH_MS, signal)
  }
}
