import type { ProjectSettings } from '../../core/api/settings'
import { request } from 'node:http'
import { connect } from 'node:net'
import { seededNumbers } from '../../core/testing/samples'
import {
  hostileHeaders,
  hostileJson,
  hostileQuery,
  hostileSegment,
  pick,
  type Draw,
} from './hostile'

/*
 * Sends hostile requests to a server of one's own: all routes of its OpenAPI document with ids that
 * exist and ids that do not, bodies that were valid until some values were replaced, odd headers
 * and addresses, broken HTTP. Loopback only.
 */

/** One operation of the OpenAPI document. */
interface Operation {
  readonly method: string
  readonly path: string
}

/** What an attack found. */
export interface AttackReport {
  readonly requests: number
  /**
   * Answers by status; 0 for connections that the server ended without one, as it may for broken
   * HTTP.
   */
  readonly statuses: ReadonlyMap<number, number>
  /** Answers that must not be: 5xx, stack traces, SQL. */
  readonly failures: readonly string[]
}

export interface AttackOptions {
  readonly url: string
  readonly seed: number
  readonly requests: number
  /** Requests at a time. */
  readonly width?: number
}

/** Ids that exist, by the noun in their path, and bodies that are valid. */
interface Known {
  readonly ids: Readonly<Record<string, readonly string[]>>
  readonly bodies: readonly unknown[]
}

/** Must never reveal internals. */
const LEAK =
  /SequelizeDatabaseError|at async |node_modules|\/server\/|SELECT .* FROM|INSERT INTO|syntax error at or near|ECONNREFUSED/

/** From this share of the requests on, deletions aim at what exists. */
const LATE = 0.85

/** Attacks a server. Throws where the address is not loopback. */
export async function attack({
  url,
  seed,
  requests,
  width = 6,
}: AttackOptions): Promise<AttackReport> {
  if (!['127.0.0.1', 'localhost', '[::1]'].includes(new URL(url).hostname))
    throw new Error('Only a server on this machine is attacked.')
  const draw = seededNumbers(seed)
  const operations = await operationsOf(url)
  const known = await knownOf(url)
  const statuses = new Map<number, number>()
  const failures: string[] = []
  let sent = 0
  const one = async (): Promise<void> => {
    while (sent < requests) {
      sent += 1
      // What exists is deleted near the end only: before, it is what requests are about.
      const ids = sent > requests * LATE ? known.ids : {}
      const shot =
        draw() < 0.06 ? brokenHttp(draw) : shotAt(pick(draw, operations), draw, known, ids)
      const { status, text } =
        shot.kind === 'broken' ? await sendBytes(url, shot.bytes) : await send(url, shot)
      statuses.set(status, (statuses.get(status) ?? 0) + 1)
      const told =
        shot.kind === 'broken'
          ? JSON.stringify(shot.bytes.slice(0, 80))
          : `${shot.method} ${shot.path.slice(0, 120)} ${JSON.stringify(shot.headers).slice(0, 300)} ${shot.body.slice(0, 300)}`
      if (status >= 500 && status !== 505)
        failures.push(`${status}: ${told}\n  ${text.slice(0, 200)}`)
      if (LEAK.test(text)) failures.push(`leak: ${told}\n  ${text.slice(0, 300)}`)
    }
  }
  await Promise.all(Array.from({ length: width }, one))
  const health = await send(url, {
    kind: 'shot',
    method: 'GET',
    path: '/api/health',
    headers: {},
    body: '',
  })
  if (health.status !== 200)
    failures.push(`afterwards the server is not well: ${health.status} ${health.text}`)
  return { requests: sent, statuses, failures }
}

async function operationsOf(url: string): Promise<Operation[]> {
  const { paths } = (await (await fetch(`${url}/api/openapi.json`)).json()) as {
    paths: Record<string, Record<string, unknown>>
  }
  const operations = Object.entries(paths).flatMap(([path, methods]) =>
    Object.keys(methods).map((method) => ({ method: method.toUpperCase(), path })),
  )
  if (operations.length < 30) throw new Error('The OpenAPI document has hardly any routes.')
  return [
    ...operations,
    { method: 'GET', path: '/projects/{id}' },
    { method: 'GET', path: '/{id}' },
    { method: 'GET', path: '/assets/{id}' },
    { method: 'GET', path: '/runtime/backdrop.js' },
  ]
}

async function knownOf(url: string): Promise<Known> {
  const get = async <T>(path: string): Promise<T> => (await (await fetch(url + path)).json()) as T
  const projects = await get<{ id: string; latestBackdropId: string | null }[]>('/api/projects')
  const project = await get<{ pages: { id: string; spots: { id: string }[] }[] }>(
    `/api/projects/${projects[0]!.id}`,
  )
  const { sources } = await get<{ sources: { id: string; sha256: string }[] }>(
    `/api/projects/${projects[0]!.id}/sources`,
  )
  const sets = await get<{ id: string; sourceIds: string[] }[]>(
    `/api/projects/${projects[0]!.id}/sets`,
  )
  const backdrops = projects.flatMap((each) => each.latestBackdropId ?? [])
  const { document, history, revision } = await get<{
    document: unknown
    history: unknown
    revision: number
  }>(`/api/backdrops/${backdrops[0]}`)
  const { paints: _, ...settings } = await get<ProjectSettings>(
    `/api/projects/${projects[0]!.id}/settings`,
  )
  const sourceIds = sources.map((source) => source.id)
  return {
    ids: {
      projects: projects.map((each) => each.id),
      pages: project.pages.map((page) => page.id),
      spots: project.pages.flatMap((page) => page.spots.map((spot) => spot.id)),
      sources: sourceIds,
      sets: sets.map((set) => set.id),
      backdrops,
      media: sources.map((source) => source.sha256),
      handoff: backdrops,
    },
    bodies: [
      { baseRevision: revision, saveId: crypto.randomUUID(), label: 'x', document, history },
      settings,
      {
        name: 'Attacked',
        scope: 'region',
        height: { unit: 'svh', value: 50 },
        sourceId: sourceIds[0],
      },
      { name: 'Set', sourceIds },
      { ids: sourceIds.slice(0, 2), withSourceId: sourceIds[1], sha256: sources[0]!.sha256 },
      { operation: 'cut', container: 'mp4', startMs: 100, endMs: 1500 },
      { keys: ['a', 'b'], password: 'wrong password', withoutGrace: false },
      {
        recipe: { kind: 'trace', sourceSha256: sources[0]!.sha256 },
        facts: { kind: 'trace', moments: 3 },
        bytes: 10,
      },
      { analysis: {}, cells: 3, stripBase64: 'AAAA' },
    ],
  }
}

interface Shot {
  readonly kind: 'shot'
  readonly method: string
  readonly path: string
  readonly headers: Readonly<Record<string, string>>
  readonly body: string
}

function shotAt(
  { method, path }: Operation,
  draw: Draw,
  known: Known,
  deletable: Known['ids'],
): Shot {
  const ids = method === 'DELETE' ? deletable : known.ids
  const noun = path.split('/').find((part) => ids[part]) ?? ''
  const filled = path.replaceAll(/\{(\w+)\}/g, () =>
    draw() < 0.6 && ids[noun] ? pick(draw, ids[noun]) : hostileSegment(draw),
  )
  const query = draw() < 0.4 ? `?${hostileQuery(draw)}` : ''
  // Now and then a method that the route does not have.
  const used =
    draw() < 0.08
      ? pick(draw, ['GET', 'POST', 'PUT', 'PATCH', 'DELETE', 'HEAD', 'OPTIONS', 'PROPFIND'])
      : method
  const writes = used !== 'GET' && used !== 'HEAD' && used !== 'OPTIONS'
  const tus: Record<string, string> = path.startsWith('/api/uploads')
    ? { 'Tus-Resumable': '1.0.0', 'Upload-Length': '12' }
    : {}
  const type: Record<string, string> = writes
    ? {
        'Content-Type': path.startsWith('/api/uploads')
          ? 'application/offset+octet-stream'
          : 'application/json',
      }
    : {}
  return {
    kind: 'shot',
    method: used,
    path: filled + query,
    headers: { ...type, ...tus, ...(draw() < 0.6 ? hostileHeaders(draw) : {}) },
    body: writes ? hostileJson(draw, pick(draw, known.bodies)) : '',
  }
}

interface Broken {
  readonly kind: 'broken'
  readonly bytes: string
}

/** Bytes that are barely HTTP, or that end in the middle. */
function brokenHttp(draw: Draw): Broken {
  const host = 'Host: localhost\r\nOrigin: http://localhost\r\n'
  const bytes = pick(draw, [
    'GET / HTTP/1.1\r\n\r\n',
    'GET / HTTP/9.9\r\nHost: localhost\r\n\r\n',
    `POST /api/projects HTTP/1.1\r\n${host}Content-Length: 5\r\nTransfer-Encoding: chunked\r\n\r\n0\r\n\r\n`,
    `POST /api/projects HTTP/1.1\r\n${host}Content-Type: application/json\r\nContent-Length: 500\r\n\r\n{"name":`,
    `POST /api/projects HTTP/1.1\r\n${host}Content-Type: application/json\r\nTransfer-Encoding: chunked\r\n\r\nzz\r\n`,
    `GET ${'/x'.repeat(9000)} HTTP/1.1\r\n${host}\r\n`,
    `GET / HTTP/1.1\r\n${host}${'A: b\r\n'.repeat(3000)}\r\n`,
    'GET http://evil.example/api/projects HTTP/1.1\r\nHost: evil.example\r\n\r\n',
    `GET /api/projects\0 HTTP/1.1\r\n${host}\r\n`,
    'CONNECT localhost:22 HTTP/1.1\r\nHost: localhost\r\n\r\n',
    `GET /api/projects HTTP/1.1\r\n${host}Upgrade: websocket\r\nConnection: Upgrade\r\n\r\n`,
    '\x16\x03\x01\x02\x00\x01\x00\x01\xfc\x03\x03',
    '\r\n\r\n\r\n',
  ])
  return { kind: 'broken', bytes }
}

function send(
  url: string,
  { method, path, headers, body }: Shot,
): Promise<{ status: number; text: string }> {
  return new Promise((resolve) => {
    const { hostname, port } = new URL(url)
    const own = {
      Origin: url,
      ...(body === '' ? {} : { 'Content-Length': String(Buffer.byteLength(body)) }),
    }
    const target = path.replaceAll(' ', '%20')
    const sent = request(
      { hostname, port, method, path: target, headers: { ...own, ...headers }, timeout: 20_000 },
      (answer) => {
        let text = ''
        answer.setEncoding('utf8')
        answer.on('data', (part: string) => (text.length < 20_000 ? (text += part) : undefined))
        answer.on('end', () => resolve({ status: answer.statusCode ?? 0, text }))
        answer.on('error', () => resolve({ status: 0, text }))
      },
    )
    sent.on('timeout', () => sent.destroy(new Error('no answer within 20 s')))
    sent.on('error', (error) =>
      resolve(
        error.message.startsWith('no answer')
          ? { status: 599, text: error.message }
          : { status: 0, text: '' },
      ),
    )
    sent.end(body)
  })
}

function sendBytes(url: string, bytes: string): Promise<{ status: number; text: string }> {
  return new Promise((resolve) => {
    const { hostname, port } = new URL(url)
    let text = ''
    const done = (): void => {
      socket.destroy()
      resolve({ status: Number(/^HTTP\/1\.1 (\d{3})/.exec(text)?.[1] ?? 0), text })
    }
    const socket = connect({ host: hostname, port: Number(port) }, () =>
      socket.write(Buffer.from(bytes, 'latin1')),
    )
    socket.on('data', (part: Buffer) => (text += part.toString('latin1')))
    for (const end of ['end', 'close', 'error']) socket.on(end, done)
    // What ends in the middle is dropped by the sender, as a lost line would.
    socket.setTimeout(200, done)
  })
}
