import type Router from '@koa/router'
import type { Context } from 'koa'
import { z, type ZodType } from 'zod'
import { ApiError } from '../ApiError'

const LARGEST_BODY = 4 * 1024 * 1024

/** One JSON route: what it takes, what it answers, and how. The OpenAPI document is made from the same values. */
export interface Route {
  readonly method: 'get' | 'post' | 'put' | 'patch' | 'delete'
  /** With `:id` for parameters; every parameter is a UUID unless `params` says otherwise. */
  readonly path: string
  readonly summary: string
  readonly body: ZodType | null
  /** What may stand behind the question mark. */
  readonly query?: ZodType
  readonly answer: ZodType | null
  readonly handle: (input: { id: string; body: never; query: never }) => Promise<unknown>
}

/** Declares a route; the body's type follows from its schema. */
export function route<B extends ZodType | null, Q extends ZodType = ZodType<undefined>>(definition: {
  method: Route['method']
  path: string
  summary: string
  body: B
  query?: Q
  answer: ZodType | null
  handle: (input: { id: string; body: B extends ZodType ? z.infer<B> : null; query: z.infer<Q> }) => Promise<unknown>
}): Route {
  return definition as unknown as Route
}

/** Puts the routes on a router: parse, call, answer. */
export function mount(router: Router, routes: readonly Route[]): void {
  for (const each of routes) {
    router[each.method](each.path, async (ctx: Context & { params: Record<string, string> }) => {
      const id = ctx.params['id'] === undefined ? '' : parseId(ctx.params['id'])
      const body = each.body ? each.body.parse(await readJson(ctx)) : null
      const query = each.query ? each.query.parse(ctx.query) : undefined
      const answer = await each.handle({ id, body: body as never, query: query as never })
      if (each.answer === null) ctx.status = 204
      else ctx.body = answer
    })
  }
}

function parseId(id: string): string {
  const parsed = z.uuid().safeParse(id)
  if (!parsed.success) throw new ApiError('route/not-found')
  return parsed.data
}

/** The request's body as JSON. Errors: `request/invalid`, `request/too-large`. */
async function readJson(ctx: Context): Promise<unknown> {
  const bytes = await readBody(ctx, LARGEST_BODY)
  try {
    return JSON.parse(bytes.toString('utf8')) as unknown
  } catch {
    throw new ApiError('request/invalid', 'The body is not JSON.')
  }
}

/** The whole body, up to `most` bytes, counted as they come. Errors: `request/too-large`. */
export async function readBody(ctx: Context, most: number): Promise<Buffer> {
  const parts: Buffer[] = []
  let size = 0
  for await (const part of ctx.req as AsyncIterable<Buffer>) {
    size += part.byteLength
    if (size > most) throw new ApiError('request/too-large')
    parts.push(part)
  }
  return Buffer.concat(parts)
}
