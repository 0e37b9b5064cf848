import PgBoss from 'pg-boss'
import type { Transaction } from 'sequelize'
import type { Database } from '../store/database'

const SCHEMA = 'telon_queue'
/**
 * A job whose worker went silent is given to another one so often: one that ends each worker must
 * not go round for ever.
 */
const MAX_RETURNS = 3
/** The longest that the queue lets a job take; silent workers are found in seconds. */
const EXPIRE_HOURS = 20

/** The advisory lock of who makes a queue: any number that nothing else takes. */
const CREATING_LOCK = 7_023_420

/**
 * Its scripts begin and end transactions by themselves; one that fails would leave its connection
 * in the middle of it.
 */
const SCRIPT = /^\s*BEGIN;([\s\S]*)COMMIT;\s*$/

/** A job, and the queue that it is for. */
export interface QueuedJob {
  readonly queue: string
  readonly jobId: string
  readonly priority: number
}

/** The queue of jobs, as the rest of the server sees it. Jobs are in it by id alone. */
export interface JobQueue {
  /** Makes sure that a queue is there, before a transaction adds to it. */
  prepare(queue: string): Promise<void>
  /** Adds jobs within a transaction, under ids that nothing has. */
  add(jobs: readonly QueuedJob[], transaction: Transaction): Promise<void>
  /** Takes the next job of a queue; null where none waits. */
  take(queue: string, transaction: Transaction): Promise<string | null>
  /** Jobs that ended, or are no longer wanted. */
  remove(queue: string, jobIds: readonly string[], transaction: Transaction): Promise<void>
  /**
   * Gives a job back that nobody finished. Whether it waits again: after `MAX_RETURNS` it does not.
   */
  giveBack(queue: string, jobId: string, transaction: Transaction): Promise<boolean>
  close(): Promise<void>
}

/**
 * Opens the queue in the same PostgreSQL: a schema of its own, on Sequelize's connections, so that
 * a job and the row that tells of it are changed in one transaction.
 */
export async function openQueue(
  database: Database,
  onError: (error: Error) => void,
): Promise<JobQueue> {
  const on = (transaction: Transaction | null) => ({
    executeSql: async (sql: string, values: unknown[] = []) => {
      const run = async (text: string, within: Transaction | null) => ({
        rows: await database.query<object>(text, values, within),
      })
      const [, inner] = SCRIPT.exec(sql) ?? []
      return inner === undefined
        ? run(sql, transaction)
        : database.transaction((own) => run(inner, own))
    },
  })
  const boss = new PgBoss({ db: on(null), schema: SCHEMA, schedule: false })
  boss.on('error', onError)
  await boss.start()
  const known = new Map<string, Promise<void>>()
  // Two servers that make one at the same time would wait for each other.
  const create = (queue: string): Promise<void> =>
    database.transaction(async (holder) => {
      await database.query('SELECT pg_advisory_xact_lock($1)', [CREATING_LOCK], holder)
      await boss.createQueue(queue)
    })
  return {
    prepare(queue) {
      const prepared = known.get(queue) ?? create(queue)
      known.set(queue, prepared)
      prepared.catch(() => known.delete(queue))
      return prepared
    },
    async add(jobs, transaction) {
      const limits = { retryLimit: MAX_RETURNS, expireInSeconds: EXPIRE_HOURS * 3600 }
      const added = jobs.map(({ queue, jobId, priority }) => ({
        ...{ id: jobId, name: queue, priority, data: { jobId }, ...limits },
      }))
      await boss.insert(added, { db: on(transaction) })
    },
    async take(queue, transaction) {
      const [job] = await boss.fetch(queue, { db: on(transaction) })
      return job?.id ?? null
    },
    async remove(queue, jobIds, transaction) {
      await boss.deleteJob(queue, [...jobIds], { db: on(transaction) })
    },
    async giveBack(queue, jobId, transaction) {
      const db = on(transaction)
      await boss.fail(queue, jobId, {}, { db })
      const job = await boss.getJobById(queue, jobId, { db, includeArchive: false })
      if (job?.state === 'retry') return true
      await boss.deleteJob(queue, jobId, { db })
      return false
    },
    close: () => boss.stop({ graceful: false, close: false }),
  }
}
