import { createHash } from 'node:crypto'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { BackdropRecord, Project } from '../core/api/wire'
import { otherContent, paddedClip, readClip } from './testing/clip'
import { FaultyDatabase, type Fault } from './testing/faults'
import { TestClient } from './testing/TestClient'
import { startTestServer, type TestServer } from './testing/testServer'
import { evenScrim } from '../core/scrim/Scrim'

/*
 * The database fails at each statement in turn; a client that does what clients do must lose
 * nothing.
 */

let server: TestServer
let client: TestClient
let database: FaultyDatabase
let clip: Buffer
let project: Project
beforeAll(async () => {
  server = await startTestServer()
  client = new TestClient(server)
  clip = await readClip()
  project = await client.makeProject()
  database = new FaultyDatabase(server.databaseUrl)
})
afterAll(async () => {
  database.restore()
  await server.stop()
})

const FAULTS: readonly [string, Fault][] = [
  ['raises an error that passes', { kind: 'raise', sqlState: '40001' }],
  ['has no room on its disk', { kind: 'raise', sqlState: '53100' }],
  ['loses the connection', { kind: 'cut' }],
  ['does the work and loses the answer', { kind: 'lose-answer' }],
]
const MAX_STATEMENTS = 80
const MAX_TRIES = 6
/** One test makes about forty uploads. */
const TEST_MS = 240_000

/**
 * Sends a file as tus clients do: it asks where to continue after every failure. Returns the id of
 * the source.
 */
async function upload(bytes: Uint8Array): Promise<string> {
  let location: string | null = null
  for (let attempt = 0; attempt < MAX_TRIES; attempt++) {
    const begun: Response | null = location
      ? null
      : await client.beginUpload(bytes.byteLength, 'fault.mp4', project.id)
    if (begun && begun.status !== 201) {
      expectKnownFailure(begun)
      continue
    }
    location ??= begun!.headers.get('location')!
    const head = await client.head(location)
    if (head.status === 200 && head.headers.has('x-source-id'))
      return head.headers.get('x-source-id')!
    if (head.status === 423) {
      // Being checked: that is no failure, and takes its time where the check has to be made again.
      await new Promise((resolve) => setTimeout(resolve, 20))
      attempt -= 1
      continue
    }
    if (head.status !== 200) {
      expectKnownFailure(head)
      continue
    }
    const offset = Number(head.headers.get('upload-offset'))
    const sent = await client.sendPart(location, offset, bytes.subarray(offset), {
      'Repr-Digest': `sha-256=:${createHash('sha256').update(bytes).digest('base64')}:`,
    })
    if (sent.status === 204) return sent.headers.get('x-source-id')!
    expectKnownFailure(sent)
    await expectCountEqualsChunks()
  }
  throw new Error(`the upload did not end in ${MAX_TRIES} tries`)
}

function expectKnownFailure({ status }: Response): void {
  expect([409, 423, 503, 507]).toContain(status)
}

/** What the rows of files say they hold is what their chunks hold. */
async function expectCountEqualsChunks(): Promise<void> {
  const wrong = await server.database.query(
    `SELECT blobs.id FROM blobs LEFT JOIN chunks ON chunks.blob_id = blobs.id
    GROUP BY blobs.id HAVING blobs.received <> coalesce(sum(octet_length(chunks.data)), 0)`,
  )
  expect(wrong).toEqual([])
}

describe.each(FAULTS)('a database that %s', (name, fault) => {
  it(
    'at any statement of an upload leaves the file exact and shelves it once',
    async () => {
      // Every second statement: those between are met by another fault.
      const first = 1 + (FAULTS.findIndex(([each]) => each === name) % 2)
      for (let statement = first; statement <= MAX_STATEMENTS; statement += 2) {
        const bytes = paddedClip(clip, 200_000, statement * 7 + fault.kind.length)
        database.arm(statement, fault)
        const sourceId = await upload(bytes)
        const happened = database.met
        database.reset()
        const digest = createHash('sha256').update(bytes).digest('hex')
        const source = (await client.call<{ sha256: string }>('GET', `/api/sources/${sourceId}`))
          .body
        expect([happened, source.sha256]).toEqual([happened, digest])
        const blob = (await server.stores.blobs.findBySha256(digest))!
        expect(await server.stores.blobs.rehash(blob)).toBe(digest)
        await expectCountEqualsChunks()
        expect(await server.database.models.Source.count({ where: { sha256: digest } })).toBe(1)
        await client.call('DELETE', `/api/projects/${project.id}`)
        project = await client.makeProject()
        if (happened === null) return
      }
      throw new Error('an upload took more statements than were tried')
    },
    TEST_MS,
  )

  it(
    'at any statement of a save keeps one revision of it, and says nothing else',
    async () => {
      const { backdrop } = await client.makeBackdrop(otherContent(clip, fault.kind.length))
      let revision = backdrop.revision
      for (let statement = 1; statement <= MAX_STATEMENTS; statement++) {
        const document = {
          ...backdrop.document,
          scrim: evenScrim('#14101c', statement / 100),
        }
        const save = { baseRevision: revision, saveId: crypto.randomUUID(), document }
        database.arm(statement, fault)
        let answer = await client.save(backdrop, save)
        for (let attempt = 0; answer.status !== 200 && attempt < MAX_TRIES; attempt++) {
          expect([503, 507]).toContain(answer.status)
          expect(JSON.stringify(answer.body)).not.toMatch(/SELECT|INSERT|UPDATE/)
          answer = await client.save(backdrop, save)
        }
        const happened = database.met
        database.reset()
        expect([happened, answer.status, answer.body.revision]).toEqual([
          happened,
          200,
          revision + 1,
        ])
        revision += 1
        const now = (await client.call<BackdropRecord>('GET', `/api/backdrops/${backdrop.id}`)).body
        expect([now.revision, now.document.scrim.layers[0]!.strength]).toEqual([
          revision,
          statement / 100,
        ])
        if (happened === null) return
      }
      throw new Error('a save took more statements than were tried')
    },
    TEST_MS,
  )
})

describe('a database that is gone', () => {
  it('is told by 503 and when to ask again, also where health is asked for, and comes back', async () => {
    for (const path of ['/api/health', '/api/projects', `/api/projects/${project.id}`]) {
      database.arm(1, { kind: 'cut' })
      const answer = await client.call('GET', path)
      expect([path, answer.status, answer.headers.get('retry-after')]).toEqual([path, 503, '2'])
      database.reset()
      expect((await client.call('GET', path)).status).toBe(200)
    }
  })
  it('does not let a chunk be stored that is longer than chunks are', async () => {
    const id = crypto.randomUUID()
    await server.stores.blobs.begin(id, 3_000_000)
    const insert = server.database.query(
      'INSERT INTO chunks (blob_id, seq, data) VALUES ($1, 0, $2)',
      [id, Buffer.alloc(1_048_577)],
    )
    await expect(insert).rejects.toThrow(/chunks_length/)
  })
})
