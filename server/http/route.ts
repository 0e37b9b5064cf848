import type Router from '@koa/router'
import type { Context } from 'koa'
import { z, type ZodType } from 'zod'
import { idSchema, problemOfJson } from '../../core/bounded'
import { ApiError } from '../ApiError'

const MAX_BODY_BYTES = 4 * 1024 * 1024

/** Parameters of addresses with their schemas. All others are UUIDs. */
const PARAMS: Readonly<Record<string, ZodType>> = {
  revision: z.coerce.number().pipe(z.int().min(0).max(2_000_000_000)),
}

/** What a handler gets: the parameters of the address, the body and the query, parsed. */
interface Input<B, Q> {
  readonly id: string
  readonly revision: number
  readonly body: B
  readonly query: Q
  readonly ctx: Context
}

/**
 * One JSON route: what it takes, what it answers, and how. The OpenAPI document is made from the
 * same values.
 */
export interface Route {
  readonly method: 'get' | 'post' | 'put' | 'patch' | 'delete'
  /** With `:id` for parameters; every parameter is a UUID unless `PARAMS` says otherwise. */
  readonly path: string
  readonly summary: string
  readonly body: ZodType | null
  /** What may stand behind the question mark. */
  readonly query?: ZodType
  readonly answer: ZodType | null
  readonly handle: (input: Input<never, never>) => Promise<unknown>
}

/** Declares a route; the body's type follows from its schema. */
export function route<
  B extends ZodType | null,
  Q extends ZodType = ZodType<undefined>,
>(definition: {
  method: Route['method']
  path: string
  summary: string
  body: B
  query?: Q
  answer: ZodType | null
  handle: (input: Input<B extends ZodType ? z.infer<B> : null, z.infer<Q>>) => Promise<unknown>
}): Route {
  return definition as unknown as Route
}

/** Puts the routes on a router: parse, call, answer. */
export function mount(router: Router, routes: readonly Route[]): void {
  for (const each of routes) {
    router[each.method](each.path, async (ctx: Context & { params: Record<string, string> }) => {
      const params = parseParams(ctx.params)
      const body = each.body ? each.body.parse(await readJson(ctx)) : null
      const query = each.query ? each.query.parse({ ...ctx.query }) : undefined
      const answer = await each.handle({
        ...params,
        body: body as never,
        query: query as never,
        ctx,
      })
      ctx.set('Cache-Control', 'no-store')
      if (each.answer === null) ctx.status = 204
      else ctx.body = answer
    })
  }
}

/** Errors: `route/not-found`: what is no id names nothing. */
function parseParams(params: Record<string, string>): { id: string; revision: number } {
  const parsed: Record<string, unknown> = { id: '', revision: 0 }
  for (const [name, value] of Object.entries(params)) {
    const result = (PARAMS[name] ?? idSchema).safeParse(value)
    if (!result.success) throw new ApiError('route/not-found')
    parsed[name] = result.data
  }
  return parsed as { id: string; revision: number }
}

/**
 * The request's body as JSON. Errors: `request/not-json`, `request/invalid`, `request/too-large`.
 */
async function readJson(ctx: Context): Promise<unknown> {
  if (!ctx.is('application/json')) throw new ApiError('request/not-json')
  const bytes = await readBody(ctx, MAX_BODY_BYTES)
  const value = parseJson(bytes.toString('utf8'))
  const problem = problemOfJson(value)
  if (problem) throw new ApiError('request/invalid', problem)
  return value
}

function parseJson(text: string): unknown {
  try {
    return JSON.parse(text) as unknown
  } catch {
    throw new ApiError('request/invalid', 'The body is not JSON.')
  }
}

/** The whole body, up to `maxBytes`, counted as they come. Errors: `request/too-large`. */
async function readBody(ctx: Context, maxBytes: number): Promise<Buffer> {
  if (Number(ctx.get('Content-Length')) > maxBytes) throw new ApiError('request/too-large')
  const parts: Buffer[] = []
  let size = 0
  for await (const part of ctx.req as AsyncIterable<Buffer>) {
    size += part.byteLength
    if (size > maxBytes) throw new ApiError('request/too-large')
    parts.push(part)
  }
  return Buffer.concat(parts)
}
