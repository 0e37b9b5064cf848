import { fileURLToPath } from 'node:url'
import { pino } from 'pino'
import { seedDemo } from '../demo/seedDemo'
import { createApp } from '../server/app'
import { readConfig } from '../server/config'
import { Shelf } from '../server/store/Shelf'
import { migrator, openDatabase } from '../server/store/database'

/** Migrates, seeds the demonstration on an empty database, and serves. Prints the address on one line. */
async function main(): Promise<void> {
  const config = readConfig(process.env)
  const log = pino({ level: config.logLevel })
  const database = await openDatabase(config.databaseUrl)
  await migrator(database).up()
  await seedDemo(database)
  await new Shelf(database).forgetOld(new Date())
  const dist = fileURLToPath(new URL('../dist', import.meta.url))
  const app = createApp({ database, config, log, dist })
  const server = app.listen(config.port, config.host, () => {
    const address = server.address()
    const port = typeof address === 'object' && address ? address.port : config.port
    console.log(`Telon is at http://${config.host === '127.0.0.1' ? 'localhost' : config.host}:${port}`)
  })
  server.once('error', (error: NodeJS.ErrnoException) => {
    const inUse = error.code === 'EADDRINUSE'
    console.error(inUse ? `Port ${config.port} is in use. Stop the other program, or choose a port: PORT=4610 npm start` : error.message)
    process.exit(1)
  })
  const stop = (): void => {
    server.close(() => void database.close().then(() => process.exit(0)))
    server.closeAllConnections()
  }
  process.once('SIGINT', stop)
  process.once('SIGTERM', stop)
}

main().catch((error: unknown) => {
  console.error(error instanceof Error ? error.message : error)
  process.exit(1)
})
