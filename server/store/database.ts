import pg, { type Client } from 'pg'
import { Sequelize, type QueryInterface, type Transaction } from 'sequelize'
import { SequelizeStorage, Umzug } from 'umzug'
import { first } from './migrations/0001-first'
import { material } from './migrations/0002-material'
import { settings } from './migrations/0003-settings'
import { exactStorage } from './migrations/0004-exact-storage'
import { references } from './migrations/0005-references'
import { access } from './migrations/0006-access'
import { plainNames } from './migrations/0007-plain-names'
import { kinds } from './migrations/0008-kinds'
import { triedParticles } from './migrations/0009-tried-particles'
import { renderWork } from './migrations/0010-render-work'
import { workerSpeeds } from './migrations/0011-worker-speeds'
import { uploadLocks } from './migrations/0012-upload-locks'
import { defineModels, type Models } from './models'

/** Every migration, in order. */
export const MIGRATIONS = [
  first,
  material,
  settings,
  exactStorage,
  references,
  access,
  plainNames,
  kinds,
  triedParticles,
  renderWork,
  workerSpeeds,
  uploadLocks,
] as const

/** A connection with its models. */
export interface Database {
  readonly sequelize: Sequelize
  readonly models: Models
  /**
   * One SQL statement with bound parameters (`$1` …), which returns its rows, on a connection of
   * Sequelize's pool. Buffers travel as bytes; models would write them into the statement as text,
   * which takes several times as long.
   */
  query<Row extends object>(
    sql: string,
    bind?: readonly unknown[],
    transaction?: Transaction | null,
  ): Promise<Row[]>
  /** Runs `work` in a transaction, or in the one that is under way. */
  transaction<T>(
    work: (transaction: Transaction) => Promise<T>,
    within?: Transaction | null,
  ): Promise<T>
  /** Hears what is notified on a channel, on a connection of its own, until it is ended. */
  listen(channel: string, listener: Listener): Promise<Listening>
  close(): Promise<void>
}

/** Who hears notifications. */
export interface Listener {
  readonly hear: (payload: string) => void
  /** The connection was lost and is back: what was notified meanwhile was missed. */
  readonly missed: () => void
}
/** A channel that is listened to. */
export interface Listening {
  end(): Promise<void>
}

const POOL = { max: 8, idle: 10_000, acquire: 10_000 } as const
/** A database that accepts a statement and never answers must not block a request forever. */
const DIALECT = { keepAlive: true, connectionTimeoutMillis: 5_000, query_timeout: 60_000 } as const

/** Connects to PostgreSQL. Throws where it cannot be reached. */
export async function openDatabase(url: string): Promise<Database> {
  const sequelize = new Sequelize(url, {
    dialect: 'postgres',
    logging: false,
    pool: POOL,
    dialectOptions: DIALECT,
  })
  await sequelize.authenticate()
  return {
    sequelize,
    models: defineModels(sequelize),
    async query<Row extends object>(
      sql: string,
      bind: readonly unknown[] = [],
      transaction: Transaction | null = null,
    ) {
      return onConnection(sequelize, transaction, async (connection) => {
        const { rows } = await connection.query<Row>(sql, [...bind])
        return rows
      })
    },
    transaction: (work, within = null) => (within ? work(within) : sequelize.transaction(work)),
    listen: (channel, listener) => listen(url, channel, listener),
    close: () => sequelize.close(),
  }
}

/** A connection that is lost is opened again after so long. */
const LISTEN_AGAIN_MS = 1000

async function listen(url: string, channel: string, listener: Listener): Promise<Listening> {
  let client: Client | null = null
  let isEnded = false
  let timer: NodeJS.Timeout | undefined
  const connect = async (): Promise<void> => {
    const opened = new pg.Client({ connectionString: url, ...DIALECT })
    const again = (): void => {
      if (isEnded || client !== opened) return
      client = null
      timer = setTimeout(reconnect, LISTEN_AGAIN_MS)
    }
    client = opened
    opened.on('error', again)
    opened.on('end', again)
    opened.on('notification', ({ payload }) => listener.hear(payload ?? ''))
    try {
      await opened.connect()
      await opened.query(`LISTEN ${channel}`)
    } catch (error) {
      again()
      await opened.end().catch(() => undefined)
      throw error
    }
  }
  const reconnect = (): void => {
    connect().then(
      () => listener.missed(),
      // It is tried again.
      () => undefined,
    )
  }
  await connect().catch(() => undefined)
  return {
    async end() {
      isEnded = true
      clearTimeout(timer)
      await client?.end().catch(() => undefined)
    },
  }
}

/** A connection as Sequelize keeps it: one that is marked is not used again. */
type Pooled = Client & { _invalid?: boolean }

/** The connection to the database ended under a statement, which may have run or not. */
class ConnectionLostError extends Error {
  override readonly name = 'ConnectionLostError'
}

/**
 * Failures after which a connection is no use: its socket is gone, or it is in the middle of an
 * answer that came too late.
 */
const LOST_CODES = new Set(['ECONNRESET', 'EPIPE', 'ETIMEDOUT'])
const LOST_MESSAGES =
  /^(Query read timeout|Connection terminated|Client has encountered a connection error|Client was closed)/

function isLost(error: unknown): error is Error {
  if (!(error instanceof Error)) return false
  return (
    LOST_CODES.has((error as NodeJS.ErrnoException).code ?? '') || LOST_MESSAGES.test(error.message)
  )
}

/**
 * Runs `work` on the connection of a transaction, or on one of the pool, which goes back there
 * afterwards.
 */
async function onConnection<T>(
  sequelize: Sequelize,
  transaction: Transaction | null,
  work: (connection: Client) => Promise<T>,
): Promise<T> {
  const manager = sequelize.connectionManager
  const own = (transaction as (Transaction & { connection?: Pooled }) | null)?.connection
  const connection =
    own ?? ((await manager.getConnection({ type: 'write', useMaster: true })) as Pooled)
  try {
    return await work(connection)
  } catch (error) {
    if (!isLost(error)) throw error
    connection._invalid = true
    throw new ConnectionLostError('The connection to the database was lost.', { cause: error })
  } finally {
    if (!own) manager.releaseConnection(connection)
  }
}

/**
 * The migrator of a database: `up()` brings it to the newest shape, `down({ to: 0 })` back to
 * nothing.
 */
export function migrator(database: Database) {
  return new Umzug({
    migrations: MIGRATIONS.map(({ name, up, down }) => ({
      name,
      up: ({ context }: { context: QueryInterface }) => up(context),
      down: ({ context }: { context: QueryInterface }) => down(context),
    })),
    context: database.sequelize.getQueryInterface(),
    storage: new SequelizeStorage({ sequelize: database.sequelize, tableName: 'migrations' }),
    logger: undefined,
  })
}

/** The advisory lock of who migrates: any number that nothing else takes. */
const MIGRATION_LOCK = 7_023_419

/** Brings a database to the newest shape; of two servers that start at once, the second waits. */
export function migrate(database: Database): Promise<void> {
  return database.transaction(async (holder) => {
    await database.query('SELECT pg_advisory_xact_lock($1)', [MIGRATION_LOCK], holder)
    await migrator(database).up()
  })
}
