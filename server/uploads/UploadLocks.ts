import { setTimeout as pause } from 'node:timers/promises'
import { ERRORS, type Lock, type Locker, type RequestRelease } from '@tus/server'
import type { Database } from '../store/database'

/** A server that has not said for so long that it goes on has lost its locks. */
const LEASE_SECONDS = 15
/** It says so, and hears who waits, this often. */
const RENEW_MS = 1000
/** A request waits for a lock so long: the present holder is asked to let it go meanwhile. */
const WAIT_MS = 30_000
const TRY_EVERY_MS = 100

/** What is written of a lock that this server holds. */
interface Held {
  readonly holder: string
  readonly requestRelease: RequestRelease
}

/**
 * Locks of uploads, for all servers of a database: one request at a time writes an upload, and one
 * whose line is dead lets it go when its client comes back, whichever server that comes to. They
 * spare clients a refusal; what is stored is right without them, since a chunk is only stored where
 * the ones before it end.
 */
export class UploadLocks implements Locker {
  private readonly held = new Map<string, Held>()
  private timer: NodeJS.Timeout | null = null

  constructor(private readonly database: Pick<Database, 'query'>) {}

  newLock(id: string): Lock {
    const holder = crypto.randomUUID()
    return {
      lock: (signal, requestRelease) => this.lock(id, { holder, requestRelease }, signal),
      unlock: () => this.unlock(id, holder),
    }
  }

  /** Locks that this server holds are left to their leases. */
  close(): void {
    if (this.timer) clearInterval(this.timer)
    this.timer = null
  }

  private async lock(id: string, held: Held, signal: AbortSignal): Promise<void> {
    const until = performance.now() + WAIT_MS
    while (!(await this.take(id, held.holder))) {
      await this.askBack(id)
      if (signal.aborted || performance.now() > until) throw ERRORS.ERR_LOCK_TIMEOUT
      await pause(TRY_EVERY_MS)
    }
    this.held.set(id, held)
    this.timer ??= setInterval(() => void this.renew().catch(() => undefined), RENEW_MS).unref()
    // Whoever has gone meanwhile does not hold it.
    if (!signal.aborted) return
    await this.unlock(id, held.holder)
    throw ERRORS.ERR_LOCK_TIMEOUT
  }

  private async take(id: string, holder: string): Promise<boolean> {
    const rows = await this.database.query(
      `INSERT INTO upload_locks (upload_id, holder, ends_at)
      VALUES ($1, $2, now() + make_interval(secs => $3))
      ON CONFLICT (upload_id) DO UPDATE
        SET holder = EXCLUDED.holder, wanted = false, ends_at = EXCLUDED.ends_at
        WHERE upload_locks.ends_at < now()
      RETURNING holder`,
      [id, holder, LEASE_SECONDS],
    )
    return rows.length > 0
  }

  /** Asks the holder to let it go: at once where it is here, else when its server renews. */
  private async askBack(id: string): Promise<void> {
    const here = this.held.get(id)
    if (here) return here.requestRelease()
    await this.database.query(
      'UPDATE upload_locks SET wanted = true WHERE upload_id = $1 AND NOT wanted',
      [id],
    )
  }

  private async renew(): Promise<void> {
    const holders = [...this.held.values()].map(({ holder }) => holder)
    const rows = await this.database.query<{ upload_id: string; wanted: boolean }>(
      `UPDATE upload_locks SET ends_at = now() + make_interval(secs => $2)
      WHERE holder = ANY($1::uuid[]) RETURNING upload_id, wanted`,
      [holders, LEASE_SECONDS],
    )
    for (const { upload_id: id, wanted } of rows)
      if (wanted) await this.held.get(id)?.requestRelease()
  }

  private async unlock(id: string, holder: string): Promise<void> {
    if (this.held.get(id)?.holder === holder) this.held.delete(id)
    if (this.held.size === 0) this.close()
    // Where the database is away, the lease ends.
    await this.database
      .query('DELETE FROM upload_locks WHERE upload_id = $1 AND holder = $2', [id, holder])
      .catch(() => undefined)
  }
}
