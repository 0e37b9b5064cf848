import { createReadStream, existsSync } from 'node:fs'
import { readFile } from 'node:fs/promises'
import { extname, join, normalize } from 'node:path'
import Router from '@koa/router'
import Koa, { type Middleware } from 'koa'
import helmet from 'koa-helmet'
import type { Logger } from 'pino'
import { BlobStore } from './blobs/BlobStore'
import type { Config } from './config'
import { errorExit, requestLog, sameOriginWrites } from './http/errors'
import { handoffRoutes } from './http/handoff'
import { mediaRoutes } from './http/media'
import { openApiDocument } from './http/openapi'
import { mount } from './http/route'
import { apiRoutes } from './http/routes'
import { uploadServer, UPLOAD_PATH } from './http/uploads'
import type { Database } from './store/database'
import { Shelf } from './store/Shelf'
import { Workshop } from './store/Workshop'

/** What the application stands on. */
export interface AppParts {
  readonly database: Database
  readonly config: Pick<Config, 'maxUploadBytes'>
  readonly log: Logger
  /** The folder of built files: `studio/` and `runtime/`. */
  readonly dist: string
}

/** The application's middleware, in order. Opens no port. */
export function createApp({ database, config, log, dist }: AppParts): Koa {
  const shelf = new Shelf(database)
  const workshop = new Workshop(database, shelf)
  const blobs = new BlobStore(database)
  const routes = apiRoutes(workshop, shelf, blobs, config)
  const router = new Router()
  mount(router, routes)
  router.get('/api/openapi.json', (ctx) => {
    ctx.body = openApiDocument(routes)
  })
  router.get('/runtime/backdrop.js', async (ctx) => {
    ctx.type = 'text/javascript'
    ctx.set('Cache-Control', 'no-cache')
    ctx.body = await readFile(join(dist, 'runtime/backdrop.js'), 'utf8')
  })
  mediaRoutes(router, workshop, blobs)
  handoffRoutes(router, workshop, shelf, blobs, () => readFile(join(dist, 'runtime/backdrop.js'), 'utf8'))

  const app = new Koa()
  // A visitor's player drops a range as soon as it has enough: that is no error of ours.
  app.on('error', (error: NodeJS.ErrnoException) => (DROPPED.has(error.code ?? '') ? log.debug(error) : log.error(error)))
  app.use(errorExit(log))
  app.use(requestLog(log))
  app.use(
    helmet({
      contentSecurityPolicy: {
        useDefaults: false,
        directives: {
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
        },
      },
      strictTransportSecurity: false,
    }),
  )
  app.use(sameOriginWrites())
  app.use(uploads(shelf, blobs, config))
  app.use(router.routes())
  app.use(studioFiles(join(dist, 'studio')))
  return app
}

const DROPPED = new Set(['ECONNRESET', 'EPIPE', 'ECANCELED', 'ERR_STREAM_PREMATURE_CLOSE'])

function uploads(shelf: Shelf, blobs: BlobStore, config: Pick<Config, 'maxUploadBytes'>): Middleware {
  const tus = uploadServer(shelf, blobs, config)
  return async (ctx, next) => {
    if (!ctx.path.startsWith(UPLOAD_PATH)) return next()
    ctx.respond = false
    await tus.handle(ctx.req, ctx.res)
  }
}

const FILE_TYPES: Readonly<Record<string, string>> = { '.js': 'text/javascript', '.css': 'text/css', '.html': 'text/html', '.woff2': 'font/woff2', '.svg': 'image/svg+xml', '.png': 'image/png' }

/** The built studio; addresses that are no file are views of the one page. */
function studioFiles(root: string): Middleware {
  return async (ctx, next) => {
    if (ctx.method !== 'GET' || /^\/(api|media|handoff)\//.test(ctx.path)) return next()
    const wanted = normalize(decodeURIComponent(ctx.path))
    const file = join(root, wanted)
    const type = FILE_TYPES[extname(wanted)]
    const found = type !== undefined && file.startsWith(root) && existsSync(file)
    if (type !== undefined && type !== 'text/html' && !found) return next()
    ctx.type = found ? type : 'text/html'
    // File names carry a digest, except the pages themselves.
    ctx.set('Cache-Control', wanted.startsWith('/assets/') ? 'public, max-age=31536000, immutable' : 'no-cache')
    ctx.body = createReadStream(found ? file : join(root, 'index.html'))
  }
}
