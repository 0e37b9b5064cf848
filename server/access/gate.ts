import type { Context, Middleware } from 'koa'
import { ApiError } from '../ApiError'
import { isLoopback, type Config } from '../config'
import { WORKER, type Access } from './Access'

/*
 * The front door. A server on loopback is reached by every page that the user's browser shows, so
 * names and origins decide who may come in: a page of another site can send requests here, and by
 * DNS rebinding even under its own name.
 */

type GateConfig = Pick<Config, 'hosts' | 'uploadOrigins'>

/** Refuses requests under names that are not this server's. Errors: `request/host`. */
export function allowedHosts({ hosts }: GateConfig): Middleware {
  const allowed = new Set(hosts.map((host) => host.toLowerCase()))
  return async (ctx, next) => {
    const name = hostNameOf(ctx.get('Host'))
    if (name === null || !(isLoopback(name) || allowed.has(name)))
      throw new ApiError('request/host')
    await next()
  }
}

/** The name in a Host field, without its port; null where there is none. */
export function hostNameOf(field: string): string | null {
  if (field === '' || !URL.canParse(`http://${field}`)) return null
  const { hostname, pathname, username, search } = new URL(`http://${field}`)
  return pathname === '/' && username === '' && search === '' && hostname !== ''
    ? hostname.toLowerCase()
    : null
}

/** What a render worker needs: its jobs, the sources of them, and storing what it has made. */
const WORKER_ROUTES =
  /^\/(media\/|api\/jobs\/(hello|goodbye|take|progress|finished|failed)$|api\/renditions(\/|$))/

const READS = new Set(['GET', 'HEAD', 'OPTIONS'])

/**
 * Who may write. Browsers say where a write comes from: it must be this host. Programs do not; they
 * need an API token. Errors: `request/origin`, `access/token`, `access/worker`.
 */
export function guardedWrites(access: Access, { uploadOrigins }: GateConfig): Middleware {
  return async (ctx, next) => {
    const token = ctx.get('Authorization')
    if (token !== '') ctx.state['principal'] = await access.principalOfToken(token)
    if (ctx.state['principal'] === WORKER && !WORKER_ROUTES.test(ctx.path))
      throw new ApiError('access/worker')
    if (!READS.has(ctx.method) && !(await mayWrite(ctx, uploadOrigins)))
      throw new ApiError('request/origin')
    await next()
  }
}

async function mayWrite(ctx: Context, uploadOrigins: readonly string[]): Promise<boolean> {
  const origin = ctx.get('Origin')
  const byToken = ctx.state['principal'] !== undefined
  if (origin === '') return byToken
  if (hostOfOrigin(origin) === ctx.get('Host').toLowerCase()) return true
  return byToken && ctx.path.startsWith('/api/uploads') && uploadOrigins.includes(origin)
}

/** Name and port of an origin, as a Host field has them; null for `null` and what is no origin. */
function hostOfOrigin(origin: string): string | null {
  if (!URL.canParse(origin)) return null
  const { host, protocol } = new URL(origin)
  return protocol === 'http:' || protocol === 'https:' ? host : null
}

/**
 * Routes that are answered without a sign-in: the sign-in itself, and whether the server is well.
 */
const OPEN_ROUTES = /^\/api\/(session|health)$/
/** Everything else is the studio's own files, which contain nobody's data. */
const ROUTES = /^\/(api|media|handoff)(\/|$)/

/** Asks for a sign-in where a password is set. Errors: `access/sign-in`. */
export function signedIn(access: Access): Middleware {
  return async (ctx, next) => {
    const isOpen = !ROUTES.test(ctx.path) || OPEN_ROUTES.test(ctx.path)
    if (access.isRequired && ctx.state['principal'] === undefined && !isOpen) {
      const principal = await access.principalOfSession(ctx)
      if (principal === null) throw new ApiError('access/sign-in')
      ctx.state['principal'] = principal
    }
    await next()
  }
}
