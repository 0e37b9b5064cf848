import type { Transaction } from 'sequelize'
import { renderedRecipeSchema } from '../../core/api/recipes'
import type {
  FailedWork,
  ListedJob,
  SeenWorker,
  TakenJob,
  WorkerFacts,
  WorkJob,
  WorkOverview,
  WorkProgress,
  WorkStates,
} from '../../core/api/work'
import { recipeKey, type ProbeRecipe, type Recipe } from '../../core/backdrop/recipe'
import { ApiError } from '../ApiError'
import type { Database } from '../store/database'
import type { Renditions } from '../store/Renditions'
import type { JobQueue } from './openQueue'

/** The channel on which keys of jobs are notified that have changed; those that wait say so. */
export const WORK_CHANNEL = 'telon_work'
export const WAITING = 'waiting'
/** The advisory lock of whoever changes the queue: any number that nothing else takes. */
const QUEUE_LOCK = 7_023_418
/** A worker that has said nothing for so long is gone: its job goes to another one. */
const SILENT_SECONDS = 20
/** Workers not heard of for so long are dropped, and failures that nobody tried again. */
const KEEP_DAYS = 7

/** A queue for each encoder: a worker takes from those of the encoders it has. */
const queueOf = (encoder: string | null): string =>
  `render_${(encoder ?? 'browser').replaceAll(/[^a-z0-9]+/g, '_')}`

type RenderedRecipe = Recipe | ProbeRecipe

interface WantedFile {
  readonly key: string
  readonly recipe: RenderedRecipe
  /** Of its queue. */
  readonly name: string
  readonly priority: number
}
interface PlacedFile extends WantedFile {
  readonly jobId: string
}

interface JobRow {
  readonly key: string
  readonly state: 'waiting' | 'running' | 'failed'
  readonly step: WorkJob['step']
  readonly pass: number
  readonly done: number
  readonly seconds_left: number | null
  readonly worker: string | null
  readonly reason: string | null
}

/** Jobs of each state that are listed. */
const MAX_LISTED = 100

interface ListedRow extends JobRow {
  readonly recipe: RenderedRecipe
  readonly count: number
}

interface SourceRow {
  readonly sha256: string
  readonly name: string
  readonly project_id: string
}

function listedJob(row: ListedRow, known: ReadonlyMap<string, SourceRow>): ListedJob {
  const { key, state, step, pass, done, seconds_left: secondsLeft, worker, reason, recipe } = row
  const used = recipe.sequence.inputs.flatMap((sha256) => known.get(sha256) ?? [])
  const { kind, width, height, encoder } = recipe
  return {
    ...{ key, state, step, pass, done, secondsLeft, worker, reason },
    sources: used.map(({ name }) => name),
    projectId: used[0]?.project_id ?? null,
    file: {
      ...{ kind, width, height, encoder },
      format: recipe.kind === 'poster' ? recipe.format : recipe.family,
    },
  }
}

/**
 * Files that render workers make. One job for each file, whoever asks for it; what is made already
 * is not made again. The only client of the queue.
 */
export class RenderWork {
  /** The latest change of the queue by this server; the next one waits for it. */
  private changing: Promise<unknown> = Promise.resolve()

  constructor(
    private readonly database: Database,
    private readonly renditions: Renditions,
    private readonly version: string,
    /** Opened when it is first needed. */
    private readonly queue: () => Promise<JobQueue>,
  ) {}

  /** Asks for files; answers the jobs of those that are not made yet. */
  async request(recipes: readonly RenderedRecipe[], priority: number): Promise<WorkJob[]> {
    const wanted = new Map(recipes.map((recipe) => [recipeKey(recipe), recipe]))
    const made = new Set((await this.renditions.find([...wanted.keys()])).map(({ key }) => key))
    const queue = await this.queue()
    const files = [...wanted].flatMap(([key, recipe]) =>
      made.has(key) ? [] : [{ key, recipe, name: queueOf(recipe.encoder), priority }],
    )
    for (const name of new Set(files.map((file) => file.name))) await queue.prepare(name)
    // The queue takes what came at one time in the order of ids.
    const ids = files.map(() => crypto.randomUUID()).sort()
    // Together: workers are told of all of them at once.
    if (files.length > 0)
      await this.change(async (transaction) => {
        const placed = files.map((file, index) => ({ ...file, jobId: ids[index]! }))
        await this.requestAll(queue, placed, transaction)
      })
    return this.look([...wanted.keys()])
  }

  /**
   * Jobs that wait or run already stay what they are, unless they are wanted sooner; those that
   * failed are tried again.
   */
  private async requestAll(
    queue: JobQueue,
    files: readonly PlacedFile[],
    transaction: Transaction,
  ): Promise<void> {
    const rows = await this.database.query<{
      key: string
      job_id: string
      state: string
      priority: number
    }>(
      `INSERT INTO render_jobs (key, job_id, queue, recipe, state, priority)
      SELECT key, job_id, queue, recipe, 'waiting', $5
      FROM unnest($1::text[], $2::uuid[], $3::text[], $4::jsonb[])
        AS wanted (key, job_id, queue, recipe)
      ON CONFLICT (key) DO UPDATE SET key = EXCLUDED.key
      RETURNING key, job_id, state, priority`,
      [
        files.map(({ key }) => key),
        files.map(({ jobId }) => jobId),
        files.map(({ name }) => name),
        files.map(({ recipe }) => JSON.stringify(recipe)),
        files[0]!.priority,
      ],
      transaction,
    )
    const before = new Map(rows.map((row) => [row.key, row]))
    const added: PlacedFile[] = []
    for (const file of files) {
      const row = before.get(file.key)!
      const isSooner = row.state === 'waiting' && row.priority < file.priority
      if (row.job_id === file.jobId) added.push(file)
      else if (isSooner || row.state === 'failed') {
        await this.replace(queue, row.job_id, file, transaction)
        added.push(file)
      }
    }
    if (added.length === 0) return
    await queue.add(
      added.map(({ name, jobId, priority }) => ({ queue: name, jobId, priority })),
      transaction,
    )
    const keys = added.map(({ key }) => key)
    await this.tell(keys, { isWaiting: true, transaction })
  }

  /** Another job in place of one that waits or failed. */
  private async replace(
    queue: JobQueue,
    before: string,
    { key, name, jobId, priority }: PlacedFile,
    transaction: Transaction,
  ): Promise<void> {
    await queue.remove(name, [before], transaction)
    await this.database.query(
      `UPDATE render_jobs SET job_id = $2, state = 'waiting', priority = $3, reason = NULL,
        created_at = now(), changed_at = now()
      WHERE key = $1`,
      [key, jobId, priority],
      transaction,
    )
  }

  /** The jobs of files that are asked for and not made. */
  async look(keys: readonly string[]): Promise<WorkJob[]> {
    const rows = await this.database.query<JobRow>(
      `SELECT key, state, step, pass, done, seconds_left, render_workers.name AS worker, reason
      FROM render_jobs LEFT JOIN render_workers ON render_workers.id = worker_id
      WHERE key = ANY($1::text[])`,
      [[...keys]],
    )
    return rows.map(({ seconds_left: secondsLeft, ...row }) => ({ ...row, secondsLeft }))
  }

  /** What became of jobs that have changed: also those that are done or cancelled. */
  async changes(keys: readonly string[]): Promise<WorkJob[]> {
    const jobs = await this.look(keys)
    const gone = keys.filter((key) => !jobs.some((job) => job.key === key))
    const made = new Set((await this.renditions.find(gone)).map(({ key }) => key))
    const ended = gone.map((key): WorkJob => {
      const state = made.has(key) ? 'done' : 'cancelled'
      return { ...NOTHING, key, state, done: made.has(key) ? 1 : 0 }
    })
    return [...jobs, ...ended]
  }

  /** Files that are no longer wanted; a worker that renders one of them stops. */
  async cancel(keys: readonly string[]): Promise<void> {
    await this.cancelWhere('key = ANY($1::text[])', keys)
  }

  /** The same of all files of some states; how many there were. */
  async cancelAll(states: WorkStates): Promise<number> {
    return this.cancelWhere('state = ANY($1::text[])', states)
  }

  private async cancelWhere(condition: string, values: readonly string[]): Promise<number> {
    const queue = await this.queue()
    return this.change(async (transaction) => {
      const rows = await this.database.query<{ key: string; queue: string; job_id: string }>(
        `DELETE FROM render_jobs WHERE ${condition} RETURNING key, queue, job_id`,
        [[...values]],
        transaction,
      )
      for (const name of new Set(rows.map((row) => row.queue))) {
        const ids = rows.filter((row) => row.queue === name).map((row) => row.job_id)
        await queue.remove(name, ids, transaction)
      }
      const gone = rows.map(({ key }) => key)
      await this.tell(gone, { transaction })
      return rows.length
    })
  }

  /** Failed files once more, as they were asked for. */
  async retry(keys: readonly string[]): Promise<WorkJob[]> {
    await this.retryWhere('key = ANY($1::text[])', [[...keys]])
    return this.look(keys)
  }

  /** The same of all that failed; how many there were. */
  retryAll(): Promise<number> {
    return this.retryWhere('true', [])
  }

  private async retryWhere(condition: string, values: readonly unknown[]): Promise<number> {
    const rows = await this.database.query<{ recipe: unknown; priority: number }>(
      `SELECT recipe, priority FROM render_jobs WHERE state = 'failed' AND ${condition}
      ORDER BY created_at, job_id`,
      [...values],
    )
    for (const priority of new Set(rows.map((row) => row.priority))) {
      const failed = rows.filter((row) => row.priority === priority)
      const recipes = failed.map(({ recipe }) => renderedRecipeSchema.parse(recipe))
      await this.request(recipes, priority)
    }
    return rows.length
  }

  /** What runs where, what waits in which order, what failed: the first of each. */
  async overview(): Promise<WorkOverview> {
    const rows = await this.database.query<ListedRow>(
      `SELECT * FROM (
        SELECT render_jobs.key, state, step, pass, done, seconds_left, reason, recipe,
          render_workers.name AS worker, count(*) OVER (PARTITION BY state)::integer AS count,
          row_number() OVER (PARTITION BY state
            ORDER BY priority DESC, created_at, job_id) AS place
        FROM render_jobs LEFT JOIN render_workers ON render_workers.id = worker_id
      ) AS listed WHERE place <= $1
      ORDER BY array_position(ARRAY['running', 'failed', 'waiting'], state), place`,
      [MAX_LISTED],
    )
    const inputs = rows.flatMap(({ recipe }) => recipe.sequence.inputs)
    const sources = await this.database.query<SourceRow>(
      `SELECT DISTINCT ON (sha256) sha256, name, project_id FROM sources
      WHERE sha256 = ANY($1::text[]) ORDER BY sha256, created_at DESC`,
      [[...new Set(inputs)]],
    )
    const known = new Map(sources.map((source) => [source.sha256, source]))
    const counts = { waiting: 0, running: 0, failed: 0 }
    for (const { state, count } of rows) counts[state] = count
    return {
      counts,
      jobs: rows.map((row) => listedJob(row, known)),
      workers: await this.workers(),
    }
  }

  /** The workers that have lately been heard of. */
  async workers(): Promise<SeenWorker[]> {
    const rows = await this.database.query<Omit<SeenWorker, 'seenAt'> & { seen_at: Date }>(
      `SELECT id, name, version, encoders, machine, speeds, seen_at,
        EXISTS (SELECT 1 FROM render_jobs WHERE worker_id = render_workers.id
          AND state = 'running') AS renders
      FROM render_workers
      WHERE seen_at > now() - make_interval(secs => $1) ORDER BY name, id`,
      [SILENT_SECONDS],
    )
    return rows.map(({ seen_at, ...worker }) => ({ ...worker, seenAt: seen_at.toISOString() }))
  }

  /** A worker presents itself, and says every few seconds that it is there. */
  async hello({ id, name, version, encoders, machine, speeds }: WorkerFacts): Promise<void> {
    if (version !== this.version) throw new ApiError('work/version')
    await this.database.query(
      `INSERT INTO render_workers (id, name, version, encoders, machine, speeds)
      VALUES ($1, $2, $3, $4, $5, $6)
      ON CONFLICT (id) DO UPDATE SET name = EXCLUDED.name, version = EXCLUDED.version,
        encoders = EXCLUDED.encoders, machine = EXCLUDED.machine, speeds = EXCLUDED.speeds,
        seen_at = now()`,
      [id, name, version, JSON.stringify(encoders), machine, JSON.stringify(speeds)],
    )
  }

  /** A worker stops. What it has goes to others, and it is not listed any more. */
  async goodbye(workerId: string): Promise<void> {
    const jobs = await this.database.query<{ job_id: string }>(
      `SELECT job_id FROM render_jobs WHERE worker_id = $1 AND state = 'running'`,
      [workerId],
    )
    for (const { job_id: jobId } of jobs)
      await this.fail({ workerId, jobId, reason: 'It stopped.', again: true })
    await this.database.query('DELETE FROM render_workers WHERE id = $1', [workerId])
  }

  /**
   * The next job that a worker can do; null where none waits. It does one at a time: one that it
   * was given before is given back, since the answer has not reached it. Errors:
   * `work/unknown-worker`, `work/version`.
   */
  async take(workerId: string): Promise<TakenJob | null> {
    const [worker] = await this.database.query<{
      encoders: string[]
      version: string
      lost: string[]
    }>(
      `UPDATE render_workers SET seen_at = now() WHERE id = $1
      RETURNING encoders, version, ARRAY(SELECT job_id::text FROM render_jobs
        WHERE worker_id = $1 AND state = 'running') AS lost`,
      [workerId],
    )
    if (!worker) throw new ApiError('work/unknown-worker')
    // The server may have been updated since it said hello.
    if (worker.version !== this.version) throw new ApiError('work/version')
    for (const jobId of worker.lost)
      await this.fail({ workerId, jobId, reason: 'It was not received.', again: true })
    const names = [null, ...worker.encoders].map(queueOf)
    const waiting = await this.database.query<{ queue: string }>(
      `SELECT queue FROM render_jobs WHERE state = 'waiting' AND queue = ANY($1::text[])
      GROUP BY queue ORDER BY max(priority) DESC, min(created_at)`,
      [names],
    )
    for (const { queue } of waiting) {
      const taken = await this.takeFrom(queue, workerId)
      if (taken) return taken
    }
    return null
  }

  private async takeFrom(name: string, workerId: string): Promise<TakenJob | null> {
    const queue = await this.queue()
    return this.change(async (transaction) => {
      const jobId = await queue.take(name, transaction)
      if (jobId === null) return null
      const [row] = await this.database.query<{ key: string; recipe: unknown; is_made: boolean }>(
        `UPDATE render_jobs SET state = 'running', worker_id = $2, step = NULL, pass = 0, done = 0,
          seconds_left = NULL, changed_at = now()
        WHERE job_id = $1 RETURNING key, recipe,
          EXISTS (SELECT 1 FROM renditions WHERE key = render_jobs.key) AS is_made`,
        [jobId, workerId],
        transaction,
      )
      // Nobody wants it any more; or it was stored, and its worker went before it said so.
      if (!row || row.is_made) {
        await queue.remove(name, [jobId], transaction)
        if (row) await this.forget(row.key, transaction)
      }
      if (row) await this.tell([row.key], { transaction })
      if (!row || row.is_made) return null
      return { jobId, recipe: renderedRecipeSchema.parse(row.recipe) }
    })
  }

  /** Jobs that wait, up to `most`. */
  async countWaiting(most: number): Promise<number> {
    const [row] = await this.database.query<{ count: number }>(
      `SELECT count(*)::integer AS count
      FROM (SELECT 1 FROM render_jobs WHERE state = 'waiting' LIMIT $1) AS waiting`,
      [most],
    )
    return row!.count
  }

  /** How far a worker is. Whether the job is still its own. */
  async progress(told: WorkProgress): Promise<boolean> {
    const rows = await this.database.query<{ key: string }>(
      `WITH seen AS (UPDATE render_workers SET seen_at = now() WHERE id = $2),
      moved AS (
        UPDATE render_jobs
        SET step = $3, pass = $4, done = $5, seconds_left = $6, changed_at = now()
        WHERE job_id = $1 AND worker_id = $2 AND state = 'running' RETURNING key
      )
      SELECT key, pg_notify($7, key) FROM moved`,
      [
        ...[told.jobId, told.workerId, told.step, told.pass, told.done, told.secondsLeft],
        WORK_CHANNEL,
      ],
    )
    return rows.length > 0
  }

  /**
   * A file is stored. Told twice it is done once; told of a job that is another's by now, nothing
   * happens. Errors: `work/not-stored`.
   */
  async finish(workerId: string, jobId: string): Promise<void> {
    await this.withJob(workerId, jobId, async ({ key, queue }, transaction) => {
      const [made] = await this.renditions.find([key], transaction)
      if (!made) throw new ApiError('work/not-stored')
      await (await this.queue()).remove(queue, [jobId], transaction)
      await this.forget(key, transaction)
      return { isWaiting: false }
    })
  }

  /** A file cannot be made, or not by this worker. */
  async fail({ workerId, jobId, reason, again }: FailedWork): Promise<void> {
    await this.withJob(workerId, jobId, async ({ key, queue: name, priority }, transaction) => {
      const queue = await this.queue()
      await queue.remove(name, [jobId], transaction)
      const next = crypto.randomUUID()
      await this.database.query(
        `UPDATE render_jobs SET job_id = $2, state = $3, reason = $4, worker_id = NULL, step = NULL,
          done = 0, seconds_left = NULL, created_at = now(), changed_at = now()
        WHERE key = $1`,
        [key, next, again ? 'waiting' : 'failed', again ? null : reason],
        transaction,
      )
      if (again) await queue.add([{ queue: name, jobId: next, priority }], transaction)
      return { isWaiting: again }
    })
  }

  /**
   * Gives the jobs of workers that have gone silent to others; to be called every few seconds. One
   * that has ended several workers fails.
   */
  async returnSilent(): Promise<void> {
    const silent = await this.database.query<{ key: string }>(
      `SELECT key FROM render_jobs LEFT JOIN render_workers ON render_workers.id = worker_id
      WHERE state = 'running' AND (seen_at IS NULL OR seen_at < now() - make_interval(secs => $1))`,
      [SILENT_SECONDS],
    )
    for (const { key } of silent) await this.giveBack(key)
  }

  private async giveBack(key: string): Promise<void> {
    const queue = await this.queue()
    await this.change(async (transaction) => {
      const [row] = await this.database.query<{ queue: string; job_id: string }>(
        `SELECT queue, job_id FROM render_jobs LEFT JOIN render_workers ON render_workers.id = worker_id
        WHERE key = $1 AND state = 'running'
          AND (seen_at IS NULL OR seen_at < now() - make_interval(secs => $2))
        FOR UPDATE OF render_jobs SKIP LOCKED`,
        [key, SILENT_SECONDS],
        transaction,
      )
      if (!row) return
      const waits = await queue.giveBack(row.queue, row.job_id, transaction)
      await this.database.query(
        `UPDATE render_jobs SET state = $2, reason = $3, worker_id = NULL, step = NULL, done = 0,
          seconds_left = NULL, changed_at = now()
        WHERE key = $1`,
        [key, waits ? 'waiting' : 'failed', waits ? null : LOST],
        transaction,
      )
      await this.tell([key], { isWaiting: waits, transaction })
    })
  }

  /** Drops workers and failures that are long past. */
  async tidy(): Promise<void> {
    await this.database.query(
      `WITH old AS (DELETE FROM render_jobs WHERE state = 'failed' AND changed_at < now() - make_interval(days => $1))
      DELETE FROM render_workers WHERE seen_at < now() - make_interval(days => $1)
        AND NOT EXISTS (SELECT 1 FROM render_jobs WHERE worker_id = render_workers.id)`,
      [KEEP_DAYS],
    )
  }

  /** Works on the row of a job that is a worker's own, and tells of it; else does nothing. */
  private async withJob(
    workerId: string,
    jobId: string,
    work: (
      row: { key: string; queue: string; priority: number },
      transaction: Transaction,
    ) => Promise<{ readonly isWaiting: boolean }>,
  ): Promise<void> {
    await this.change(async (transaction) => {
      const [row] = await this.database.query<{ key: string; queue: string; priority: number }>(
        `SELECT key, queue, priority FROM render_jobs
        WHERE job_id = $1 AND worker_id = $2 AND state = 'running' FOR UPDATE`,
        [jobId, workerId],
        transaction,
      )
      if (!row) return
      const { isWaiting } = await work(row, transaction)
      await this.tell([row.key], { isWaiting, transaction })
    })
  }

  /**
   * Changes the queue, one after another on all servers: a job is in two tables, which some changes
   * come to from the one side and some from the other. Each takes milliseconds.
   */
  private change<T>(work: (transaction: Transaction) => Promise<T>): Promise<T> {
    // Who waits for the lock holds a connection: of this server one does, or many workers that ask
    // at once would leave none for those that say that they are there.
    const change = this.changing.then(() =>
      this.database.transaction(async (transaction) => {
        await this.database.query('SELECT pg_advisory_xact_lock($1)', [QUEUE_LOCK], transaction)
        return work(transaction)
      }),
    )
    this.changing = change.catch(() => undefined)
    return change
  }

  private async forget(key: string, transaction: Transaction): Promise<void> {
    await this.database.query('DELETE FROM render_jobs WHERE key = $1', [key], transaction)
  }

  /** Notifies, on all servers, that jobs have changed; when the transaction ends well. */
  private async tell(
    keys: readonly string[],
    { isWaiting = false, transaction }: { isWaiting?: boolean; transaction: Transaction },
  ): Promise<void> {
    if (keys.length === 0) return
    await this.database.query(
      'SELECT pg_notify($1, key) FROM unnest($2::text[]) AS changed (key)',
      [WORK_CHANNEL, keys.map((key) => (isWaiting ? `${key} ${WAITING}` : key))],
      transaction,
    )
  }
}

const NOTHING = {
  step: null,
  pass: 0,
  done: 0,
  secondsLeft: null,
  worker: null,
  reason: null,
} as const

const LOST =
  'Several render workers stopped while they rendered this file. It may need more memory than they have: try a smaller size, or render it with the encoder of the browser.'
