import { z } from 'zod'
import { errorSchema } from '../../core/api/wire'
import type { Route } from './route'

/** The OpenAPI 3.1 document of the JSON routes, made from their own schemas. */
export function openApiDocument(routes: readonly Route[]): object {
  const paths: Record<string, Record<string, unknown>> = {}
  for (const { method, path, summary, body, answer } of routes) {
    const open = path.replaceAll(/:(\w+)/g, '{$1}')
    const parameters = [...path.matchAll(/:(\w+)/g)].map(([, name]) => ({ name, in: 'path', required: true, schema: { type: 'string' } }))
    const success = answer === null ? { 204: { description: 'Done.' } } : { 200: { description: 'Done.', content: json(answer) } }
    paths[open] = {
      ...paths[open],
      [method]: {
        summary,
        ...(parameters.length > 0 ? { parameters } : {}),
        ...(body ? { requestBody: { required: true, content: json(body) } } : {}),
        responses: { ...success, default: { description: 'An error with its code and what to do.', content: json(errorSchema) } },
      },
    }
  }
  return { openapi: '3.1.0', info: { title: 'Telon', version: '1', license: { name: 'MIT', identifier: 'MIT' } }, paths }
}

function json(schema: z.ZodType): object {
  return { 'application/json': { schema: z.toJSONSchema(schema, { unrepresentable: 'any', io: 'input' }) } }
}
