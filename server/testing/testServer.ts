import type { Server } from 'node:http'
import { fileURLToPath } from 'node:url'
import { pino } from 'pino'
import { Sequelize } from 'sequelize'
import { createApp } from '../app'
import { migrator, openDatabase, type Database } from '../store/database'

/** A running server on a database of its own, in the real PostgreSQL. */
export interface TestServer {
  readonly url: string
  readonly database: Database
  readonly databaseUrl: string
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

/** Starts the application on a free port of loopback; `prepare` fills the database first. */
export async function startTestServer(options: { maxUploadBytes?: number; prepare?: (database: Database) => Promise<unknown> } = {}): Promise<TestServer> {
  const made = await makeDatabase()
  const database = await openDatabase(made.url)
  await migrator(database).up()
  await options.prepare?.(database)
  const dist = fileURLToPath(new URL('../../dist', import.meta.url))
  const app = createApp({ database, config: { maxUploadBytes: options.maxUploadBytes ?? 50_000_000 }, log: pino({ level: 'error' }), dist })
  const server = await new Promise<Server>((resolve) => {
    const listening = app.listen(0, '127.0.0.1', () => resolve(listening))
  })
  const address = server.address()
  return {
    url: `http://127.0.0.1:${typeof address === 'object' && address ? address.port : 0}`,
    database,
    databaseUrl: made.url,
    async stop() {
      server.closeAllConnections()
      await new Promise((resolve) => server.close(resolve))
      await database.close()
      await made.drop()
    },
  }
}
