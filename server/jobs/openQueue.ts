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

/**
 * Its scripts begin and end transactions by themselves; one that fails would leave its connection
 * in the middle of it.
 */
const SCRIPT = /^\s*BEGIN;([\s\S]*)COMMIT;\s*$/

/** The queue of jobs, as the rest of the server sees it. Jobs are in it by id alone. */
export interface JobQueue {
  /** Makes sure that a queue is there, before a transaction adds to it. */
  prepare(queue: string): Promise<void>
  /** Adds a job within a transaction. */
  add(queue: string, jobId: string, priority: number, transaction: Transaction): Promise<void>
  /** Takes the next job of a queue; null where none waits. */
  take(queue: string, transaction: Transaction): Promise<string | null>
  /** A job that ended, or is no longer wanted. */
  remove(queue: string, jobId: string, transaction: Transaction): Promise<void>
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
  const known = new Set<string>()
  return {
    async prepare(queue) {
      if (!known.has(queue)) await boss.createQueue(queue)
      known.add(queue)
    },
    async add(queue, jobId, priority, transaction) {
      const limits = { retryLimit: MAX_RETURNS, expireInHours: EXPIRE_HOURS }
      const db = on(transaction)
      const id = await boss.send(queue, { jobId }, { id: jobId, priority, ...limits, db })
      if (id === null) throw new Error(`the queue ${queue} has a job ${jobId} already`)
    },
    async take(queue, transaction) {
      const [job] = await boss.fetch(queue, { db: on(transaction) })
      return job?.id ?? null
    },
    async remove(queue, jobId, transaction) {
      await boss.deleteJob(queue, jobId, { db: on(transaction) })
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
