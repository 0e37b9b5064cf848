import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { TestClient } from '../testing/TestClient'
import { startTestServer, type TestServer } from '../testing/testServer'

interface Schema {
  readonly type?: string | readonly string[]
  readonly [name: string]: unknown
}

let server: TestServer
let document: { paths: Record<string, Record<string, Record<string, unknown>>> }
beforeAll(async () => {
  server = await startTestServer()
  document = (await new TestClient(server).call<typeof document>('GET', '/api/openapi.json')).body
})
afterAll(() => server.stop())

/** What is unbounded in a schema, each with its place. */
function unbounded(schema: unknown, place: string): string[] {
  if (typeof schema !== 'object' || schema === null) return []
  if (Array.isArray(schema))
    return schema.flatMap((each, index) => unbounded(each, `${place}/${index}`))
  const { type, ...rest } = schema as Schema
  const own = boundsOf(type, rest, place)
  const inner = Object.entries(rest).flatMap(([name, value]) =>
    unbounded(value, `${place}/${name}`),
  )
  return [...own, ...inner]
}

function boundsOf(
  type: Schema['type'],
  rest: Readonly<Record<string, unknown>>,
  place: string,
): string[] {
  if ('const' in rest || 'enum' in rest) return []
  const has = (name: string): boolean => name in rest
  switch (type) {
    case 'number':
    case 'integer': {
      const low = has('minimum') || has('exclusiveMinimum')
      const high = has('maximum') || has('exclusiveMaximum')
      // What any whole number allows is no bound of ours.
      const ours =
        Math.abs(Number(rest['maximum'] ?? rest['exclusiveMaximum'])) < Number.MAX_SAFE_INTEGER
      return low && high && ours ? [] : [`${place}: a number without bounds`]
    }
    case 'string':
      return has('maxLength') || has('pattern') || has('format')
        ? []
        : [`${place}: a text without a greatest length`]
    case 'array':
      return has('maxItems') ? [] : [`${place}: a list without a greatest length`]
    default:
      return []
  }
}

describe('the OpenAPI document', () => {
  it('bounds every number, every text and every list that comes in', () => {
    const found = Object.entries(document.paths).flatMap(([path, methods]) =>
      Object.entries(methods).flatMap(([method, operation]) => [
        ...unbounded(operation['requestBody'], `${method} ${path} body`),
        ...unbounded(operation['parameters'], `${method} ${path} parameters`),
      ]),
    )
    // Files have their own limits, told by 413.
    expect(found.filter((place) => !place.includes('octet-stream'))).toEqual([])
  })
  it('names every route that is served, with its errors', () => {
    expect(Object.keys(document.paths).length).toBeGreaterThan(35)
    for (const methods of Object.values(document.paths)) {
      for (const operation of Object.values(methods)) {
        expect(operation['summary']).toMatch(/\w/)
        expect(operation['responses']).toHaveProperty('default')
      }
    }
  })
})
