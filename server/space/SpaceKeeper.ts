import type { Logger } from 'pino'
import type { FreeingState, SpaceReport } from '../../core/api/space'
import { keptRevisions } from '../../core/backdrop/keptRevisions'
import { ApiError } from '../ApiError'
import type { Database } from '../store/database'
import { strikeReachedKeys } from './reachedKeys'
import { reportSpace } from './reportSpace'

const DAY_MS = 24 * 3600 * 1000
/** How long something unused is kept. */
const GRACE_MS = 30 * DAY_MS
/** Bytes of an interrupted copy or rendition: nothing continues them. */
const BROKEN_OFF_MS = DAY_MS
/** How long it is remembered how a finished upload ended. */
const FINISHED_UPLOAD_MS = 7 * DAY_MS
/** Renditions that are deleted in one statement. */
const BATCH = 500

/** Two servers on one database do not free at the same time. */
const FREEING_LOCK = 7_266_001

/**
 * The files that something uses. A source taken off the shelf counts as long as a backdrop can
 * reach it; a rendition counts unless it was marked. Grace is counted from the mark, for the file
 * and for what refers to it together.
 */
const USED_BLOBS = `
  SELECT sha256 FROM sources WHERE deleted_at IS NULL OR EXISTS (SELECT FROM used_sources WHERE source_id = sources.id)
  UNION SELECT strip_sha256 FROM sources
    WHERE deleted_at IS NULL OR EXISTS (SELECT FROM used_sources WHERE source_id = sources.id)
  UNION SELECT sha256 FROM renditions WHERE unused_since IS NULL
  UNION SELECT sha256 FROM used_sources
  UNION SELECT blobs.sha256 FROM uploads JOIN blobs ON blobs.id = uploads.blob_id WHERE uploads.state = 'sealed'`

/** Whether any row refers to a file at all: the last look before it goes. */
const REFERRED = `
  EXISTS (SELECT FROM sources WHERE sources.sha256 = blobs.sha256 OR sources.strip_sha256 = blobs.sha256)
  OR EXISTS (SELECT FROM renditions WHERE renditions.sha256 = blobs.sha256)
  OR EXISTS (SELECT FROM used_sources WHERE used_sources.sha256 = blobs.sha256)
  OR EXISTS (SELECT FROM uploads WHERE uploads.blob_id = blobs.id AND uploads.state = 'sealed')`

/** How long marks count as fresh when someone looks at the figures. */
const FRESH_MS = 3_000
/**
 * What was stored so lately may be about to be referred to: it stays even where no grace is wanted.
 */
const SETTLING_MS = 60_000

const IDLE: FreeingState = {
  stage: 'marking',
  done: 0,
  freedBytes: 0,
  freedFiles: 0,
  message: null,
}

interface Run {
  readonly abort: AbortController
  state: FreeingState
}

/**
 * Frees what is unused: marks files, renditions and sources that no document, undo step or kept
 * revision reaches, and deletes those that have been marked for thirty days. Also thins revisions
 * and removes abandoned uploads.
 */
export class SpaceKeeper {
  private readonly database: Database
  private readonly log: Logger
  private running: Run | null = null
  private last: FreeingState | null = null
  private markedAtMs = 0

  constructor(database: Database, log: Logger) {
    this.database = database
    this.log = log
  }

  /** What takes space, per project, and what can be freed. */
  async report(): Promise<SpaceReport> {
    if (!this.running && Date.now() - this.markedAtMs > FRESH_MS) await this.look()
    return reportSpace(
      this.database,
      this.running?.state ?? this.last,
      new Date(Date.now() - GRACE_MS),
    )
  }

  /**
   * Begins to free in the background. `withoutGrace` also frees what became unused lately. Errors:
   * `space/busy`.
   */
  start(options: { withoutGrace: boolean }): FreeingState {
    if (this.running) throw new ApiError('space/busy')
    const abort = new AbortController()
    const run: Run = { abort, state: IDLE }
    this.running = run
    void this.free(new Date(), options.withoutGrace ? 0 : GRACE_MS, run)
      .then(() => this.set(run, { stage: 'finished', done: 1 }))
      .catch((error: unknown) => {
        if (abort.signal.aborted) return this.set(run, { stage: 'cancelled' })
        this.log.error({ err: error }, 'freeing space failed')
        const known =
          error instanceof ApiError
            ? error.message
            : 'Freeing stopped. What was freed stays freed; try again.'
        this.set(run, { stage: 'failed', message: known })
      })
      .finally(() => {
        this.last = run.state
        this.running = null
      })
    return run.state
  }

  /** Stops freeing; what was freed stays freed. */
  cancel(): void {
    this.running?.abort.abort()
  }

  /** Marks and sweeps as of `now`; resolves when done. What runs daily, and what tests call. */
  async keep(
    now: Date,
    graceMs: number = GRACE_MS,
  ): Promise<{ freedBytes: number; freedFiles: number }> {
    const run: Run = { abort: new AbortController(), state: IDLE }
    await this.free(now, graceMs, run)
    return { freedBytes: run.state.freedBytes, freedFiles: run.state.freedFiles }
  }

  /**
   * Marks without freeing, so that the figures are true. Another run that is under way does it,
   * too.
   */
  private async look(): Promise<void> {
    const run: Run = { abort: new AbortController(), state: IDLE }
    await this.alone(() => this.mark(new Date(), run)).catch((error: unknown) => {
      if (!(error instanceof ApiError && error.code === 'space/busy')) throw error
    })
  }

  private set(run: Run, fields: Partial<FreeingState>): void {
    run.state = { ...run.state, ...fields }
  }

  private async free(now: Date, graceMs: number, run: Run): Promise<void> {
    const { signal } = run.abort
    await this.alone(async () => {
      await this.mark(now, run)
      this.set(run, { stage: 'freeing', done: 0 })
      await this.forgetUploads(now)
      await this.thinRevisions(now, signal)
      await this.sweepSources(now, graceMs)
      await this.sweepRenditions(now, graceMs, signal)
      await this.sweepBlobs(now, graceMs, run)
    })
    // Returns free pages at the end of the table to the disk; the others are filled again by what
    // comes next.
    if (run.state.freedFiles > 0) await this.database.sequelize.query('VACUUM chunks')
  }

  /**
   * Errors: `space/busy` while another run, here or on another server of this database, is under
   * way.
   */
  private async alone(work: () => Promise<void>): Promise<void> {
    // The lock is held by a separate transaction for as long as the work takes.
    await this.database.transaction(async (holder) => {
      const [lock] = await this.database.query<{ held: boolean }>(
        'SELECT pg_try_advisory_xact_lock($1) AS held',
        [FREEING_LOCK],
        holder,
      )
      if (!lock?.held) throw new ApiError('space/busy')
      await work()
    })
  }

  /** Marks what is unused, and unmarks what is used again. */
  private async mark(now: Date, run: Run): Promise<void> {
    const rows = await this.database.query<{ key: string }>('SELECT key FROM renditions')
    const all = rows.map(({ key }) => key)
    const unreached = new Set(all)
    await strikeReachedKeys(this.database, unreached, {
      signal: run.abort.signal,
      onProgress: (done) => this.set(run, { done }),
    })
    for (let at = 0; at < all.length; at += BATCH) {
      const batch = all.slice(at, at + BATCH)
      await this.database.query(
        `UPDATE renditions SET unused_since = CASE WHEN key = ANY($1::text[]) THEN coalesce(unused_since, $3) END
        WHERE key = ANY($2::text[]) AND (unused_since IS NULL) = (key = ANY($1::text[])) RETURNING key`,
        [batch.filter((key) => unreached.has(key)), batch, now],
      )
    }
    await this.database.query(
      `WITH used AS (SELECT sha256 FROM (${USED_BLOBS}) AS any_use WHERE sha256 IS NOT NULL)
      UPDATE blobs SET unused_since = CASE WHEN sha256 IN (SELECT sha256 FROM used) THEN NULL ELSE coalesce(unused_since, $1) END
      WHERE sha256 IS NOT NULL AND (unused_since IS NULL) <> (sha256 IN (SELECT sha256 FROM used))
      RETURNING id`,
      [now],
    )
    this.markedAtMs = Date.now()
  }

  /** Abandoned uploads, interrupted copies, and records of finished uploads. */
  private async forgetUploads(now: Date): Promise<void> {
    const before = (ms: number): Date => new Date(now.getTime() - ms)
    await this.database.query(
      `DELETE FROM uploads USING blobs WHERE blobs.id = uploads.blob_id AND state = 'receiving'
      AND blobs.received < uploads.size AND blobs.touched_at < $1 RETURNING uploads.id`,
      [before(GRACE_MS)],
    )
    await this.database.query(
      `DELETE FROM uploads WHERE state IN ('shelved', 'refused') AND updated_at < $1 RETURNING id`,
      [before(FINISHED_UPLOAD_MS)],
    )
    await this.database.query(
      `DELETE FROM blobs WHERE sha256 IS NULL AND touched_at < $1
      AND NOT EXISTS (SELECT FROM uploads WHERE uploads.blob_id = blobs.id) RETURNING id`,
      [before(BROKEN_OFF_MS)],
    )
  }

  private async thinRevisions(now: Date, signal: AbortSignal): Promise<void> {
    const backdrops = await this.database.query<{ id: string }>('SELECT id FROM backdrops')
    for (const { id } of backdrops) {
      signal.throwIfAborted()
      const rows = await this.database.query<{ revision: number; atMs: string }>(
        `SELECT revision, (extract(epoch FROM created_at) * 1000)::bigint AS "atMs" FROM revisions WHERE backdrop_id = $1`,
        [id],
      )
      const revisions = rows.map(({ revision, atMs }) => ({ revision, atMs: Number(atMs) }))
      const kept = keptRevisions(revisions, now.getTime())
      const gone = revisions
        .map(({ revision }) => revision)
        .filter((revision) => !kept.has(revision))
      if (gone.length === 0) continue
      await this.database.transaction(async (transaction) => {
        const bind = [id, gone]
        await this.database.query(
          `DELETE FROM used_sources WHERE backdrop_id = $1 AND reach = 'revision' AND revision = ANY($2::int[]) RETURNING revision`,
          bind,
          transaction,
        )
        await this.database.query(
          'DELETE FROM revisions WHERE backdrop_id = $1 AND revision = ANY($2::int[]) RETURNING revision',
          bind,
          transaction,
        )
      })
    }
  }

  private async sweepSources(now: Date, graceMs: number): Promise<void> {
    await this.database.query(
      `DELETE FROM sources WHERE deleted_at <= $1
      AND NOT EXISTS (SELECT FROM used_sources WHERE source_id = sources.id) RETURNING id`,
      [new Date(now.getTime() - graceMs)],
    )
  }

  private async sweepRenditions(now: Date, graceMs: number, signal: AbortSignal): Promise<void> {
    for (;;) {
      signal.throwIfAborted()
      const gone = await this.database.query(
        `DELETE FROM renditions WHERE key IN (
          SELECT key FROM renditions WHERE unused_since <= $1 AND created_at <= $3 LIMIT $2 FOR UPDATE SKIP LOCKED
        ) RETURNING key`,
        [new Date(now.getTime() - graceMs), BATCH, new Date(now.getTime() - SETTLING_MS)],
      )
      if (gone.length < BATCH) return
    }
  }

  /**
   * One file per statement, so that it can be cancelled and a large file blocks nothing for long.
   */
  private async sweepBlobs(now: Date, graceMs: number, run: Run): Promise<void> {
    const cutoff = new Date(now.getTime() - graceMs)
    const settled = new Date(now.getTime() - SETTLING_MS)
    const rows = await this.database.query<{ id: string; size: string }>(
      `SELECT id, size FROM blobs WHERE sha256 IS NOT NULL AND unused_since <= $1 AND touched_at <= $2 AND NOT (${REFERRED})
      ORDER BY size DESC`,
      [cutoff, settled],
    )
    for (const [index, { id, size }] of rows.entries()) {
      run.abort.signal.throwIfAborted()
      const gone = await this.database.query(
        `DELETE FROM blobs WHERE id = $1 AND unused_since <= $2 AND touched_at <= $3 AND NOT (${REFERRED}) RETURNING id`,
        [id, cutoff, settled],
      )
      const { freedBytes, freedFiles } = run.state
      this.set(run, {
        done: (index + 1) / rows.length,
        freedBytes: freedBytes + (gone.length > 0 ? Number(size) : 0),
        freedFiles: freedFiles + gone.length,
      })
    }
  }
}
