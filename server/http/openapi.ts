import { z } from 'zod'
import { errorSchema, renditionSchema } from '../../core/api/wire'
import { MEDIA_TYPES } from './media'
import type { Route } from './route'

const ERROR = { description: 'An error with its code and what to do.', content: json(errorSchema) }
const binary = (type: string): object => ({
  [type]: { schema: { type: 'string', format: 'binary' } },
})
const inPath = (name: string, schema: object = { type: 'string', format: 'uuid' }): object => ({
  name,
  in: 'path',
  required: true,
  schema,
})

const UPLOAD_OFFSET = {
  name: 'Upload-Offset',
  in: 'header',
  required: true,
  schema: { type: 'integer', minimum: 0, maximum: 1e15 },
}

/**
 * What does not speak JSON: files and their ranges, delivered folders, and uploads by the open tus
 * 1.0 protocol.
 */
const BYTE_PATHS: Readonly<Record<string, object>> = {
  '/media/{sha256}': {
    get: {
      summary:
        'A file by its digest, whole or a range of it. It never changes, so it may be cached for ever.',
      parameters: [
        inPath('sha256', { type: 'string', pattern: '^[0-9a-f]{64}$' }),
        { name: 'type', in: 'query', schema: { enum: [...MEDIA_TYPES] } },
        { name: 'Range', in: 'header', schema: { type: 'string', maxLength: 200 } },
      ],
      responses: {
        200: { description: 'The file.', content: binary('application/octet-stream') },
        206: { description: 'The range.', content: binary('application/octet-stream') },
        default: ERROR,
      },
    },
  },
  '/api/renditions/{id}': {
    put: {
      summary:
        'The bytes of an announced file. They are read, and kept if they are what the recipe says.',
      parameters: [inPath('id')],
      requestBody: { required: true, content: binary('application/octet-stream') },
      responses: { 200: { description: 'Kept.', content: json(renditionSchema) }, default: ERROR },
    },
    head: {
      summary: 'How many bytes of an announced file are there (tus 1.0).',
      parameters: [inPath('id')],
      responses: {
        200: { description: '`Upload-Offset` tells. Once all are there, the file is kept.' },
        default: ERROR,
      },
    },
    patch: {
      summary:
        'More bytes of an announced file (tus 1.0). With the last ones it is read, and kept if it is what the recipe says.',
      parameters: [inPath('id'), UPLOAD_OFFSET],
      requestBody: { required: true, content: binary('application/offset+octet-stream') },
      responses: { 204: { description: 'Taken.' }, default: ERROR },
    },
  },
  '/handoff/{id}/zip': {
    get: {
      summary: 'The delivered folder of a backdrop as a zip.',
      parameters: [inPath('id')],
      responses: {
        200: { description: 'The zip.', content: binary('application/zip') },
        default: ERROR,
      },
    },
  },
  '/handoff/{id}/site/{path}': {
    get: {
      summary: 'One file of the delivered folder, under a strict content security policy.',
      parameters: [inPath('id'), inPath('path', { type: 'string', maxLength: 500 })],
      responses: { 200: { description: 'The file.' }, default: ERROR },
    },
  },
  '/api/uploads': {
    post: {
      summary:
        'Begins an upload (tus 1.0, creation). `Upload-Metadata` carries `projectId` and `filename`.',
      parameters: ['Tus-Resumable', 'Upload-Length', 'Upload-Metadata'].map((name) => ({
        name,
        in: 'header',
        required: true,
        schema: { type: 'string', maxLength: 2000 },
      })),
      responses: {
        201: { description: 'Begun; `Location` is where its bytes go.' },
        default: ERROR,
      },
    },
  },
  '/api/uploads/{id}': {
    head: {
      summary: 'How many bytes of an upload are there (tus 1.0).',
      parameters: [inPath('id')],
      responses: {
        200: { description: '`Upload-Offset` tells; `X-Source-Id` once it is on the shelf.' },
        423: {
          description:
            'All bytes are there and are being checked; `Retry-After` tells when to ask again.',
        },
        default: ERROR,
      },
    },
    patch: {
      summary: 'More bytes of an upload (tus 1.0). The last answer carries `X-Source-Id`.',
      parameters: [
        inPath('id'),
        UPLOAD_OFFSET,
        {
          name: 'Repr-Digest',
          in: 'header',
          schema: { type: 'string', maxLength: 500 },
          description: 'SHA-256 of the whole file (RFC 9530): compared before it is kept.',
        },
      ],
      requestBody: { required: true, content: binary('application/offset+octet-stream') },
      responses: { 204: { description: 'Taken.' }, default: ERROR },
    },
    delete: {
      summary: 'Gives an upload up (tus 1.0, termination).',
      parameters: [inPath('id')],
      responses: { 204: { description: 'Gone.' }, default: ERROR },
    },
  },
}

/** The OpenAPI 3.1 document: the JSON routes from their own schemas, and what moves bytes. */
export function openApiDocument(routes: readonly Route[]): object {
  const paths: Record<string, Record<string, unknown>> = {}
  for (const { method, path, summary, body, query, answer } of routes) {
    const open = path.replaceAll(/:(\w+)/g, '{$1}')
    const parameters = [...path.matchAll(/:(\w+)/g)].map(([, name]) =>
      inPath(
        name!,
        name === 'revision' ? { type: 'integer', minimum: 0, maximum: 2_000_000_000 } : undefined,
      ),
    )
    const asked = query
      ? ((
          z.toJSONSchema(query, { unrepresentable: 'any', io: 'input' }) as {
            properties?: Record<string, object>
          }
        ).properties ?? {})
      : {}
    const all = [
      ...parameters,
      ...Object.entries(asked).map(([name, schema]) => ({ name, in: 'query', schema })),
    ]
    const success =
      answer === null
        ? { 204: { description: 'Done.' } }
        : { 200: { description: 'Done.', content: json(answer) } }
    paths[open] = {
      ...paths[open],
      [method]: {
        summary,
        ...(all.length > 0 ? { parameters: all } : {}),
        ...(body ? { requestBody: { required: true, content: json(body) } } : {}),
        responses: {
          ...success,
          default: {
            description: 'An error with its code and what to do.',
            content: json(errorSchema),
          },
        },
      },
    }
  }
  return {
    openapi: '3.1.0',
    info: { title: 'Telon', version: '1', license: { name: 'MIT', identifier: 'MIT' } },
    paths: { ...paths, ...BYTE_PATHS },
  }
}

function json(schema: z.ZodType): object {
  return {
    'application/json': { schema: z.toJSONSchema(schema, { unrepresentable: 'any', io: 'input' }) },
  }
}
