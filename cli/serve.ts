import { readFile } from 'node:fs/promises'
import { createServer as createHttpServer, type Server } from 'node:http'
import { createServer as createHttpsServer } from 'node:https'
import { pino, type Logger } from 'pino'
import { seedDemo } from '../demo/seedDemo'
import { trySlowMachines } from '../headless/slowMachines'
import { readDeliveredScripts } from '../node/deliveredScripts'
import { inProject } from '../node/projectRoot'
import { createApp, KEEP_ALIVE_MS, type App } from '../server/app'
import { readConfig, type Config } from '../server/config'
import { migrate, openDatabase, type Database } from '../server/store/database'

/** Requests under way get so long to end before the server stops. */
const STOP_AFTER_MS = 10_000
/** A slow line may take this long for one request: a part of an upload. */
const REQUEST_TIMEOUT_MS = 30 * 60_000
const KEEP_SPACE_EVERY_MS = 24 * 3600_000
/** Uploads whose last step failed because the database was away, and whose client has left. */
const FINISH_UPLOADS_EVERY_MS = 60_000
/** Jobs of render workers that have gone silent. */
const RETURN_SILENT_EVERY_MS = 5000
/** Exit code for settings that are wrong: starting again would not help. */
const EXIT_UNUSABLE = 2

/**
 * Migrates, seeds the demonstration on an empty database, and serves. Prints the address on one
 * line.
 */
async function main(): Promise<void> {
  const config = readSettings()
  const log = pino({ level: config.logLevel })
  const database = await openDatabase(config.databaseUrl)
  await migrate(database)
  const dist = inProject('dist')
  const app = await createApp({
    database,
    config,
    log,
    dist,
    trySlow: async (order, signal) =>
      trySlowMachines(order, await readDeliveredScripts(dist), signal),
  })
  await seedDemo(database, app.stores)
  const server = await listen(app, config)
  const endBackground = startBackground(app, log)
  stopOnSignals({ server, app, database, endBackground, log })
}

function readSettings(): Config {
  try {
    return readConfig(process.env)
  } catch (error) {
    console.error((error as Error).message)
    process.exit(EXIT_UNUSABLE)
  }
}

async function listen({ koa }: App, config: Config): Promise<Server> {
  const { tls } = config
  const server = tls ? await openHttps(koa, tls) : createHttpServer(koa.callback())
  server.requestTimeout = REQUEST_TIMEOUT_MS
  server.keepAliveTimeout = KEEP_ALIVE_MS
  await new Promise<void>((resolve) => {
    server.once('error', (error: NodeJS.ErrnoException) => {
      const inUse = error.code === 'EADDRINUSE'
      const advice = `Port ${config.port} is in use. Stop the other program, or choose a port: PORT=4610 npm start`
      console.error(inUse ? advice : error.message)
      process.exit(EXIT_UNUSABLE)
    })
    server.listen(config.port, config.host, resolve)
  })
  const address = server.address()
  const port = typeof address === 'object' && address ? address.port : config.port
  const host =
    config.host === '127.0.0.1'
      ? 'localhost'
      : config.host.includes(':')
        ? `[${config.host}]`
        : config.host
  console.log(`Telon is at ${tls ? 'https' : 'http'}://${host}:${port}`)
  return server
}

async function openHttps(
  koa: App['koa'],
  { certFile, keyFile }: NonNullable<Config['tls']>,
): Promise<Server> {
  try {
    return createHttpsServer(
      { cert: await readFile(certFile), key: await readFile(keyFile) },
      koa.callback(),
    )
  } catch (error) {
    const reason = (error as Error).message
    console.error(
      `TELON_TLS_CERT (${certFile}) and TELON_TLS_KEY (${keyFile}) cannot be used: ${reason}`,
    )
    process.exit(EXIT_UNUSABLE)
  }
}

/**
 * Continues unfinished uploads and frees unused space, at the start and at intervals. Returns a
 * function that stops it.
 */
function startBackground({ stores, work }: App, log: Logger): () => void {
  const failed = (what: string) => (error: unknown) => log.error({ err: error }, `${what} failed`)
  const finishUploads = (): void =>
    void stores.finisher.resume(log).catch(failed('finishing uploads'))
  const keepSpace = (): void => {
    stores.space.keep(new Date()).catch(failed('freeing space'))
    work.tidy().catch(failed('tidying render jobs'))
  }
  const returnSilent = (): void =>
    void work.returnSilent().catch(failed('returning jobs of silent workers'))
  finishUploads()
  keepSpace()
  const timers = [
    setInterval(finishUploads, FINISH_UPLOADS_EVERY_MS),
    setInterval(keepSpace, KEEP_SPACE_EVERY_MS),
    setInterval(returnSilent, RETURN_SILENT_EVERY_MS),
  ]
  return () => timers.forEach(clearInterval)
}

interface Running {
  readonly server: Server
  readonly app: App
  readonly database: Database
  readonly endBackground: () => void
  readonly log: Logger
}

/** Takes no more requests, lets those under way end, then closes the database. */
function stopOnSignals({ server, app, database, endBackground, log }: Running): void {
  let stopping = false
  const stop = async (): Promise<void> => {
    if (stopping) return
    stopping = true
    endBackground()
    const closed = new Promise((resolve) => server.close(resolve))
    app.endWaits()
    server.closeIdleConnections()
    const late = setTimeout(() => server.closeAllConnections(), STOP_AFTER_MS)
    await closed
    clearTimeout(late)
    await app.close()
    await database.close()
    process.exit(0)
  }
  for (const signal of ['SIGINT', 'SIGTERM'] as const) {
    process.on(
      signal,
      () => void stop().catch((error: unknown) => log.error({ err: error }, 'stopping failed')),
    )
  }
}

main().catch((error: unknown) => {
  console.error(error instanceof Error ? error.message : error)
  process.exit(1)
})
