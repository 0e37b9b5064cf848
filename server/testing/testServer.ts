import type { Server } from 'node:http'
import { fileURLToPath } from 'node:url'
import { pino } from 'pino'
import { Sequelize } from 'sequelize'
import type { TrySlowMachines } from '../../core/api/slowMachines'
import { createApp, KEEP_ALIVE_MS, type AppConfig } from '../app'
import { migrate, openDatabase, type Database } from '../store/database'
import type { Stores } from '../store/stores'
import type { RenderWork } from '../jobs/RenderWork'

/** A running server on a database of its own, in the real PostgreSQL. */
export interface TestServer {
  readonly url: string
  readonly database: Database
  readonly databaseUrl: string
  readonly stores: Stores
  readonly work: RenderWork
  stop(): Promise<void>
}

/** Makes an empty database beside the one `DATABASE_URL` names. */
export async function makeDatabase(): Promise<{ url: string; drop: () => Promise<void> }> {
  const base = process.env['DATABASE_URL']
  if (!base) throw new Error('DATABASE_URL is not set: run the tests by npm test')
  const name = `telon_test_${crypto.randomUUID().replaceAll('-', '').slice(0, 12)}`
  const admin = async (statement: string): Promise<void> => {
    const connection = new Sequelize(base, { logging: false })
    await connection.query(statement).finally(() => connection.close())
  }
  await admin(`CREATE DATABASE ${name}`)
  const url = new URL(base)
  url.pathname = `/${name}`
  return { url: url.href, drop: () => admin(`DROP DATABASE ${name} WITH (FORCE)`) }
}

const CONFIG: AppConfig = {
  maxUploadBytes: 50_000_000,
  hosts: [],
  password: null,
  behindProxy: false,
  uploadOrigins: [],
  workerToken: null,
}

interface Options extends Partial<AppConfig> {
  /** Fills the database before the first request. */
  readonly prepare?: (database: Database, stores: Stores) => Promise<unknown>
  /** A database that is there already; it stays when the server stops. */
  readonly databaseUrl?: string
  readonly trySlow?: TrySlowMachines
}

/** Starts the application on a free port of loopback. */
export async function startTestServer({
  prepare,
  databaseUrl,
  trySlow,
  ...config
}: Options = {}): Promise<TestServer> {
  const made =
    databaseUrl === undefined
      ? await makeDatabase()
      : { url: databaseUrl, drop: async () => undefined }
  const database = await openDatabase(made.url)
  await migrate(database)
  const dist = fileURLToPath(new URL('../../dist', import.meta.url))
  const log = pino({ level: process.env['LOG_LEVEL'] ?? 'error' })
  const app = await createApp({
    database,
    config: { ...CONFIG, ...config },
    log,
    dist,
    ...(trySlow && { trySlow }),
  })
  await prepare?.(database, app.stores)
  const server = await new Promise<Server>((resolve) => {
    const listening = app.koa.listen(0, '127.0.0.1', () => resolve(listening))
  })
  server.keepAliveTimeout = KEEP_ALIVE_MS
  const address = server.address()
  return {
    url: `http://127.0.0.1:${typeof address === 'object' && address ? address.port : 0}`,
    database,
    databaseUrl: made.url,
    stores: app.stores,
    work: app.work,
    async stop() {
      app.endWaits()
      server.closeAllConnections()
      await new Promise((resolve) => server.close(resolve))
      await app.close()
      await database.close()
      await made.drop()
    },
  }
}
