import { z } from 'zod'
import {
  apiTokenSchema,
  newTokenSchema,
  sessionSchema,
  signInSchema,
  tokenOrderSchema,
} from '../../../core/api/access'
import { freeingSchema, spaceReportSchema, startFreeingSchema } from '../../../core/api/space'
import { configSchema } from '../../../core/api/wire'
import { manifestJsonSchema } from '../../../core/handoff/manifest'
import type { Access } from '../../access/Access'
import type { Config } from '../../config'
import type { SpaceKeeper } from '../../space/SpaceKeeper'
import type { Database } from '../../store/database'
import { route, type Route } from '../route'

interface Parts {
  readonly database: Database
  readonly config: Pick<Config, 'maxUploadBytes'>
  readonly access: Access
  readonly space: SpaceKeeper
}

/** Who is signed in, and tokens. */
function accessRoutes({ access }: Pick<Parts, 'access'>): Route[] {
  return [
    route({
      method: 'get',
      path: '/api/session',
      summary: 'Whether a sign-in is needed, and whether there is one',
      body: null,
      answer: sessionSchema,
      handle: async ({ ctx }) => ({
        required: access.isRequired,
        signedIn: !access.isRequired || (await access.principalOfSession(ctx)) !== null,
      }),
    }),
    route({
      method: 'post',
      path: '/api/session',
      summary: 'Sign in; sets a cookie',
      body: signInSchema,
      answer: null,
      handle: ({ body, ctx }) => access.signIn(ctx, body.password),
    }),
    route({
      method: 'delete',
      path: '/api/session',
      summary: 'Sign out',
      body: null,
      answer: null,
      handle: ({ ctx }) => access.signOut(ctx),
    }),
    route({
      method: 'get',
      path: '/api/tokens',
      summary: 'API tokens, without their secrets',
      body: null,
      answer: z.array(apiTokenSchema).max(1000),
      handle: () => access.listTokens(),
    }),
    route({
      method: 'post',
      path: '/api/tokens',
      summary: 'Create an API token; its secret is told this once',
      body: tokenOrderSchema,
      answer: newTokenSchema,
      handle: ({ body }) => access.createToken(body.name, body.use),
    }),
    route({
      method: 'delete',
      path: '/api/tokens/:id',
      summary: 'Revoke an API token',
      body: null,
      answer: null,
      handle: ({ id }) => access.revokeToken(id),
    }),
  ]
}

/** What takes space. */
function spaceRoutes({ space }: Pick<Parts, 'space'>): Route[] {
  return [
    route({
      method: 'get',
      path: '/api/space',
      summary: 'What takes space, per project, and what can be freed',
      body: null,
      answer: spaceReportSchema,
      handle: () => space.report(),
    }),
    route({
      method: 'post',
      path: '/api/space/freeing',
      summary: 'Begin to free what nothing uses',
      body: startFreeingSchema,
      answer: freeingSchema,
      handle: async ({ body }) => space.start(body),
    }),
    route({
      method: 'delete',
      path: '/api/space/freeing',
      summary: 'Stop freeing; what was freed stays freed',
      body: null,
      answer: null,
      handle: async () => space.cancel(),
    }),
  ]
}

/** Whether the server is well, and what holds on it. */
function stateRoutes({ database, config }: Pick<Parts, 'database' | 'config'>): Route[] {
  return [
    route({
      method: 'get',
      path: '/api/health',
      summary: 'Whether the server and its database answer; 503 where the database does not',
      body: null,
      answer: z.object({ ok: z.literal(true) }),
      handle: async () => {
        await database.query('SELECT 1 AS one')
        return { ok: true }
      },
    }),
    route({
      method: 'get',
      path: '/api/config',
      summary: 'Limits that hold',
      body: null,
      answer: configSchema,
      handle: async () => ({ maxUploadBytes: config.maxUploadBytes }),
    }),
    route({
      method: 'get',
      path: '/api/schema/manifest',
      summary: 'JSON Schema of a handoff’s manifest.json',
      body: null,
      answer: z.record(z.string().max(100), z.unknown()),
      handle: async () => manifestJsonSchema(),
    }),
  ]
}

/** The server itself: whether it is well, who is signed in, what takes space. */
export function serverRoutes(parts: Parts): Route[] {
  return [...stateRoutes(parts), ...accessRoutes(parts), ...spaceRoutes(parts)]
}
