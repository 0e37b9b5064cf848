import { createHash } from 'node:crypto'
import { mkdtemp, readFile, rm, stat, writeFile } from 'node:fs/promises'
import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, it } from 'vitest'
import { proofRecipe } from '../core/backdrop/recipe'
import { CLIP_FACTS, inventBackdrop, knownAs } from '../core/testing/samples'
import { Refusal } from '../node/ServerRequests'
import { ServerLink } from './ServerLink'
import { SourceCache } from './SourceCache'

/* What a worker does when its server answers late, in half, wrongly or not at all. */

type Answer = (request: IncomingMessage, response: ServerResponse) => void
let answers: Answer[]
let asked: string[]
let server: Server
let link: ServerLink
let folder: string
beforeAll(async () => {
  server = createServer((request, response) => {
    asked.push(`${request.method} ${request.url} ${request.headers.range ?? ''}`.trim())
    request.resume()
    const answer = answers.shift()
    if (answer) answer(request, response)
    else request.socket.destroy()
  })
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
  const address = server.address()
  const port = typeof address === 'object' && address ? address.port : 0
  link = new ServerLink(`http://127.0.0.1:${port}`, 'tln_secret', 1)
  folder = await mkdtemp(join(tmpdir(), 'telon-link-'))
})
afterAll(async () => {
  server.closeAllConnections()
  server.close()
  await rm(folder, { recursive: true })
})
beforeEach(() => {
  answers = []
  asked = []
})
afterEach(() => expect(answers).toEqual([]))

const json =
  (status: number, body: unknown): Answer =>
  (_, response) =>
    response.writeHead(status, { 'Content-Type': 'application/json' }).end(JSON.stringify(body))
const refusal = (status: number, code: string): Answer =>
  json(status, { error: { code, message: `It says ${code}.` } })
const drop: Answer = (request) => request.socket.destroy()
const SOURCE = Buffer.from(Array.from({ length: 5000 }, (_, index) => index % 251))
const SHA = createHash('sha256').update(SOURCE).digest('hex')
const ID = '7b1f8c1e-0000-4000-8000-000000000001'
const READ_MS = 100
const never = new AbortController().signal

describe('a source', () => {
  const path = () => join(folder, 'source')
  beforeEach(() => rm(path(), { force: true }))
  /** The rest from an offset, of which only so much arrives. */
  const rest =
    (from: number, until = SOURCE.byteLength, bytes = SOURCE): Answer =>
    (request, response) => {
      response.writeHead(from > 0 ? 206 : 200, { 'Content-Length': SOURCE.byteLength - from })
      response.write(bytes.subarray(from, until), () =>
        // Not before it was read: what waits to be read goes with the connection.
        until < SOURCE.byteLength
          ? setTimeout(() => request.socket.end(), READ_MS)
          : response.end(),
      )
    }

  it('is fetched from where it was interrupted', async () => {
    answers = [rest(0, 2000), rest(2000, 3000), rest(3000)]
    await link.fetchSource(SHA, path(), never)
    expect(await readFile(path())).toEqual(SOURCE)
    expect(asked.map((line) => line.replace(SHA, 'X'))).toEqual([
      'GET /media/X',
      'GET /media/X bytes=2000-',
      'GET /media/X bytes=3000-',
    ])
  })

  it('that arrived damaged is fetched anew', async () => {
    answers = [rest(0, SOURCE.byteLength, Buffer.alloc(SOURCE.byteLength)), rest(0)]
    await link.fetchSource(SHA, path(), never)
    expect(await readFile(path())).toEqual(SOURCE)
  })

  it('that is whole already is only compared', async () => {
    await writeFile(path(), SOURCE)
    answers = [refusal(416, 'media/range')]
    await link.fetchSource(SHA, path(), never)
    expect(asked).toHaveLength(1)
  })

  it('that is gone is given up at once', async () => {
    answers = [refusal(404, 'media/not-found')]
    await expect(link.fetchSource(SHA, path(), never)).rejects.toThrow('It says media/not-found.')
  })
})

describe('what decides about a file', () => {
  it('is said again until the server hears it', async () => {
    answers = [
      drop,
      refusal(503, 'database/unavailable'),
      (_, response) => response.writeHead(204).end(),
    ]
    await link.finished(ID, ID)
    expect(asked).toHaveLength(3)
  })

  it('is not said again after a refusal', async () => {
    answers = [refusal(409, 'work/not-stored')]
    await expect(link.finished(ID, ID)).rejects.toBeInstanceOf(Refusal)
  })

  it('is given up after some tries', async () => {
    answers = Array.from({ length: 6 }, () => drop)
    await expect(link.finished(ID, ID)).rejects.toThrow()
    expect(asked).toHaveLength(6)
  })

  it('is no answer of another form', async () => {
    answers = [json(200, { goOn: 'perhaps' })]
    const told = { step: 'pass', pass: 0, done: 0.5, secondsLeft: null } as const
    await expect(link.progress({ workerId: ID, jobId: ID, ...told })).rejects.toThrow()
  })
})

describe('a finished file', () => {
  const recipe = proofRecipe(inventBackdrop(), knownAs({ sha256: SHA, width: 1280, height: 720 }))!
  const facts = CLIP_FACTS
  const bytes = new Uint8Array(SOURCE)
  const announced = json(200, { id: ID, rendition: null })
  const held: Answer = json(200, {
    id: null,
    rendition: { key: 'k', sha256: SHA, bytes: 1, facts },
  })
  const at =
    (offset: number, status = 200): Answer =>
    (_, response) =>
      response
        .writeHead(status, {
          'Tus-Resumable': '1.0.0',
          'Upload-Offset': offset,
          'Upload-Length': SOURCE.byteLength,
        })
        .end()
  const announcing = 'POST /api/renditions'
  const [asking, sending] = [`HEAD /api/renditions/${ID}`, `PATCH /api/renditions/${ID}`]

  it('is sent on from where its line was cut', async () => {
    const sent: (string | string[] | undefined)[] = []
    const taken: Answer = (request, response) => {
      sent.push(request.headers['upload-offset'], request.headers['content-length'])
      request.on('end', () => at(SOURCE.byteLength, 204)(request, response))
    }
    answers = [announced, at(0), drop, at(2000), taken]
    await link.store(recipe, facts, bytes)
    expect(asked).toEqual([announcing, asking, sending, asking, sending])
    expect(sent).toEqual(['2000', String(SOURCE.byteLength - 2000)])
  })

  it('is sent no more where it is there', async () => {
    answers = [held]
    await link.store(recipe, facts, bytes)
    expect(asked).toEqual([announcing])
  })

  it('was kept where it is no longer expected, which was not heard', async () => {
    const notFound: Answer = (_, response) => response.writeHead(404).end()
    answers = [announced, at(0), drop, notFound, held]
    await link.store(recipe, facts, bytes)
    expect(asked).toEqual([announcing, asking, sending, asking, announcing])
  })

  it('that is refused is not sent again, and the reason is told', async () => {
    answers = [announced, at(0), refusal(422, 'rendition/mismatch')]
    await expect(link.store(recipe, facts, bytes)).rejects.toThrow('It says rendition/mismatch.')
  })
})

describe('sources that are kept', () => {
  it('are fetched once, and those go first that were used longest ago', async () => {
    const fetched: string[] = []
    const cache = new SourceCache(
      {
        async fetchSource(sha256, to) {
          fetched.push(sha256)
          await writeFile(to, Buffer.alloc(1000))
        },
      },
      folder,
      2500,
    )
    const files = await cache.filesOf(['a', 'b'], never)
    expect((await stat(files['a']!)).size).toBe(1000)
    await cache.filesOf(['a'], never)
    await cache.filesOf(['c'], never)
    expect(fetched).toEqual(['a', 'b', 'c'])
    // `a` was used after `b`.
    await cache.filesOf(['a'], never)
    expect(fetched).toEqual(['a', 'b', 'c'])
    await cache.filesOf(['b', 'c', 'a'], never)
    expect(fetched).toEqual(['a', 'b', 'c', 'b'])
  })
})
