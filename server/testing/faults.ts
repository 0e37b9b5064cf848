import pg from 'pg'

/*
 * Faults of a real database, at a chosen statement. Statements of one database are counted as pg
 * sends them; the one that is aimed at is answered by PostgreSQL's own error, loses its connection
 * before it runs, or runs and loses the connection before its answer comes.
 */

export type Fault =
  /** PostgreSQL raises this SQLSTATE instead of running the statement. */
  | { readonly kind: 'raise'; readonly sqlState: string }
  /** The connection ends before the statement reaches the database. */
  | { readonly kind: 'cut' }
  /** The statement runs, and its answer is lost. */
  | { readonly kind: 'lose-answer' }

type Callback = (error: Error | null, result?: unknown) => void

/** Controls the statements of one database. */
export class FaultyDatabase {
  private readonly name: string
  private readonly original = pg.Client.prototype.query as (...args: unknown[]) => unknown
  private armed: { readonly fault: Fault; left: number } | null = null
  /** Statements since the last `arm` or `reset`. */
  count = 0
  /** What the fault met; null until it has happened. */
  met: string | null = null

  constructor(url: string) {
    this.name = new URL(url).pathname.slice(1)
    const { original } = this
    const take = this.take.bind(this)
    pg.Client.prototype.query = function (this: pg.Client, ...args: unknown[]) {
      return take(this, args) ?? (Reflect.apply(original, this, args) as unknown)
    } as typeof pg.Client.prototype.query
  }

  /** The statement with this number from now on, counted from 1, meets the fault. */
  arm(number: number, fault: Fault): void {
    this.reset()
    this.armed = { fault, left: number }
  }

  reset(): void {
    this.armed = null
    this.count = 0
    this.met = null
  }

  restore(): void {
    pg.Client.prototype.query = this.original as typeof pg.Client.prototype.query
  }

  /** Undefined where the statement is to run as it is. */
  private take(client: pg.Client, args: readonly unknown[]): unknown {
    if (
      (client as unknown as { database?: string }).database !== this.name ||
      typeof args[0] !== 'string'
    )
      return undefined
    this.count += 1
    if (!this.armed || --this.armed.left > 0) return undefined
    const { fault } = this.armed
    this.armed = null
    this.met = args[0].trim().slice(0, 60)
    const callback = args.find((arg) => typeof arg === 'function') as Callback | undefined
    const settle: Callback = callback ?? (() => undefined)
    const run = (...statement: unknown[]): Promise<unknown> =>
      Reflect.apply(this.original, client, statement) as Promise<unknown>
    // A connection that is gone is told by its socket before a statement, and by pg after one.
    const lost = (): Error =>
      fault.kind === 'cut'
        ? Object.assign(new Error('write EPIPE'), { code: 'EPIPE', syscall: 'write' })
        : new Error('Connection terminated unexpectedly')
    const cut = (): void =>
      void (
        client as unknown as { connection: { stream: { destroy(): void } } }
      ).connection.stream.destroy()
    const happen = async (): Promise<unknown> => {
      if (fault.kind === 'raise')
        return run(
          `DO $$ BEGIN RAISE EXCEPTION 'injected' USING ERRCODE = '${fault.sqlState}'; END $$`,
        )
      if (fault.kind === 'lose-answer')
        await run(...args.filter((arg) => typeof arg !== 'function'))
      cut()
      throw lost()
    }
    const outcome = happen()
    outcome.then(
      (result) => settle(null, result),
      (error: Error) => settle(error),
    )
    return callback ? client : outcome
  }
}
