import Router from '@koa/router'
import Koa, { type Middleware } from 'koa'
import helmet from 'koa-helmet'
import { join } from 'node:path'
import type { Logger } from 'pino'
import type { TrySlowMachines } from '../core/api/slowMachines'
import { assembleScript, SCRIPT_PARTS } from '../core/handoff/scripts'
import { readDeliveredScripts } from '../node/deliveredScripts'
import { Access } from './access/Access'
import { allowedHosts, guardedWrites, signedIn } from './access/gate'
import type { Config } from './config'
import { errorExit, isDropped, readableAddresses, requestLog } from './http/errors'
import { handoffRoutes } from './http/handoff'
import { mediaRoutes } from './http/media'
import { openApiDocument } from './http/openapi'
import { mount } from './http/route'
import { backdropRoutes } from './http/routes/backdropRoutes'
import { particleRoutes } from './http/routes/particleRoutes'
import { projectRoutes } from './http/routes/projectRoutes'
import { serverRoutes } from './http/routes/serverRoutes'
import { shelfRoutes } from './http/routes/shelfRoutes'
import { jobRoutes } from './http/routes/jobRoutes'
import { renditionUploads } from './http/renditionUploads'
import { studioFiles } from './http/studioFiles'
import { uploadRoutes } from './http/uploads'
import { UploadLocks } from './uploads/UploadLocks'
import { workEventRoute } from './http/workEvents'
import type { Database } from './store/database'
import { createStores, type Stores } from './store/stores'
import { versionOf } from '../node/version'
import { JobWaits } from './jobs/JobWaits'
import { openQueue, type JobQueue } from './jobs/openQueue'
import { RenderWork } from './jobs/RenderWork'
import { WorkEvents } from './jobs/WorkEvents'

/**
 * A connection without requests stays open for so long: longer than the minute after which common
 * proxies let go of theirs, so that none sends a request into a connection that is closing.
 */
export const KEEP_ALIVE_MS = 75_000

/** What the application needs to run. */
export interface AppParts {
  readonly database: Database
  readonly config: AppConfig
  readonly log: Logger
  /** The folder of built files: `studio/` and `runtime/`. */
  readonly dist: string
  /** Tries particles on slowed machines; left out where there is no browser. */
  readonly trySlow?: TrySlowMachines
}

export type AppConfig = Pick<
  Config,
  'maxUploadBytes' | 'hosts' | 'password' | 'behindProxy' | 'uploadOrigins' | 'workerToken'
>

/** The application and the stores it works on. */
export interface App {
  readonly koa: Koa
  readonly stores: Stores
  readonly work: RenderWork
  /** Answers requests that wait for something to happen: the server stops. */
  endWaits(): void
  /** Ends what runs in the background. */
  close(): Promise<void>
}

const POLICY = {
  defaultSrc: ["'self'"],
  // Blob addresses: files chosen on this machine, played before they are uploaded.
  mediaSrc: ["'self'", 'blob:'],
  imgSrc: ["'self'", 'blob:', 'data:'],
  workerSrc: ["'self'", 'blob:'],
  // Components that place themselves set style attributes; no style comes from elsewhere.
  styleSrc: ["'self'", "'unsafe-inline'"],
  objectSrc: ["'none'"],
  baseUri: ["'none'"],
  frameAncestors: ["'self'"],
}

/** The application's middleware, in order. Opens no port. */
export async function createApp(parts: AppParts): Promise<App> {
  const { database, config, log, dist } = parts
  const stores = createStores(database, log)
  const access = await Access.open(database, config.password, config.workerToken)
  const { blobs, uploads, finisher } = stores

  const koa = new Koa({ proxy: config.behindProxy })
  // A visitor's player drops a range as soon as it has enough: that is no error of ours.
  koa.on('error', (error: unknown) => (isDropped(error) ? log.debug(error) : log.error(error)))
  koa.use(errorExit(log))
  koa.use(requestLog(log))
  koa.use(readableAddresses())
  koa.use(allowedHosts(config))
  koa.use(
    helmet({
      contentSecurityPolicy: { useDefaults: false, directives: POLICY },
      strictTransportSecurity: false,
    }),
  )
  const version = await versionOf(dist)
  const work = workOf(database, stores, version, log)
  koa.use(versionHeader(version))
  koa.use(guardedWrites(access, config))
  koa.use(signedIn(access))
  const locks = new UploadLocks(database)
  koa.use(uploadRoutes(uploads, blobs, finisher, locks, config, log))
  koa.use(renditionUploads(stores.renditions, blobs, locks, log))
  const { middleware, endEvents } = routesOf(stores, access, work, parts)
  koa.use(middleware)
  koa.use(studioFiles(join(dist, 'studio')))
  return {
    koa,
    stores,
    work: work.work,
    endWaits() {
      work.waits.close()
      endEvents()
    },
    async close() {
      locks.close()
      stores.space.cancel()
      await stores.prober.close()
      await work.events.close()
      await work.closeQueue()
    },
  }
}

/** What render workers do, and who waits for it. */
interface Work {
  readonly work: RenderWork
  readonly events: WorkEvents
  readonly waits: JobWaits
  readonly closeQueue: () => Promise<void>
}

function workOf(database: Database, { renditions }: Stores, version: string, log: Logger): Work {
  let queue: Promise<JobQueue> | null = null
  // Opened by the first request that needs it, and again where that failed.
  const open = (): Promise<JobQueue> => {
    queue ??= openQueue(database, (error) => log.error({ err: error }, 'the queue failed'))
    queue.catch(() => (queue = null))
    return queue
  }
  const work = new RenderWork(database, renditions, version, open)
  const events = new WorkEvents(database, (keys) => work.changes(keys))
  return {
    work,
    events,
    waits: new JobWaits(work, events),
    async closeQueue() {
      await (await queue?.catch(() => null))?.close()
    },
  }
}

function routesOf(
  stores: Stores,
  access: Access,
  { work, events, waits }: Work,
  { database, config, dist, trySlow }: AppParts,
): { middleware: Middleware; endEvents: () => void } {
  const { space, projects, backdrops, renditions, reader } = stores
  const routes = [
    ...serverRoutes({ database, config, access, space }),
    ...projectRoutes(projects),
    ...shelfRoutes(stores),
    ...backdropRoutes(backdrops, renditions, work),
    ...particleRoutes(trySlow ?? null, stores.triedParticles),
    ...jobRoutes(work, waits),
  ]
  const router = new Router()
  mount(router, routes)
  router.get('/api/openapi.json', (ctx) => {
    ctx.body = openApiDocument(routes)
  })
  router.get('/runtime/backdrop.js', async (ctx) => {
    ctx.type = 'text/javascript'
    ctx.set('Cache-Control', 'no-cache')
    ctx.body = assembleScript(await readDeliveredScripts(dist), 'classic', SCRIPT_PARTS)
  })
  mediaRoutes(router, reader, renditions)
  handoffRoutes(router, stores, () => readDeliveredScripts(dist))
  const endEvents = workEventRoute(router, events)
  return { middleware: router.routes() as Middleware, endEvents }
}

/** Names the version that answers, so that tabs of another version can ask for a reload. */
function versionHeader(version: string): Middleware {
  return async (ctx, next) => {
    ctx.set('Telon-Version', version)
    await next()
  }
}
