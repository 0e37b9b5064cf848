import { createHash } from 'node:crypto'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { pino } from 'pino'
import type { Project } from '../core/api/wire'
import { otherContent, paddedClip, readClip } from './testing/clip'
import { codeOf, TestClient } from './testing/TestClient'
import { startTestServer, type TestServer } from './testing/testServer'

let server: TestServer
let client: TestClient
let clip: Buffer
let project: Project
beforeAll(async () => {
  server = await startTestServer({ maxUploadBytes: 4_000_000 })
  client = new TestClient(server)
  clip = await readClip()
  project = await client.makeProject()
})
afterAll(() => server.stop())

const begin = async (bytes: number, name = 'clip.mp4', projectId = project.id): Promise<string> =>
  (await client.beginUpload(bytes, name, projectId)).headers.get('location')!
const idOf = (location: string): string => location.split('/').pop()!
const sha256 = (bytes: Uint8Array): string => createHash('sha256').update(bytes).digest('hex')
const reprDigest = (bytes: Uint8Array): Record<string, string> => ({
  'Repr-Digest': `sha-256=:${createHash('sha256').update(bytes).digest('base64')}:`,
})
const isJson = async (answer: Response): Promise<unknown> =>
  JSON.parse(await answer.text()) as unknown

describe('uploads', () => {
  it('resume where they broke off, and the clip is read and put on the shelf', async () => {
    const bytes = otherContent(clip, 1)
    const location = await begin(bytes.byteLength, 'viaduct.mp4')
    await client.sendPart(location, 0, bytes.subarray(0, 100_001))
    const unfinished = () => client.call<unknown[]>('GET', `/api/projects/${project.id}/uploads`)
    expect((await unfinished()).body).toMatchObject([
      { filename: 'viaduct.mp4', received: 100_001 },
    ])
    expect((await client.head(location)).headers.get('upload-offset')).toBe('100001')
    expect((await client.sendPart(location, 5, bytes.subarray(5))).status).toBe(409)
    const last = await client.sendPart(location, 100_001, bytes.subarray(100_001))
    expect(last.status).toBe(204)
    const [source] = await client.shelfOf(project.id)
    expect(source).toMatchObject({
      name: 'viaduct.mp4',
      sha256: sha256(bytes),
      facts: { video: { displayWidth: 640 } },
    })
    expect(last.headers.get('x-source-id')).toBe(source!.id)
    expect((await unfinished()).body).toEqual([])
  })
  it('are refused before a byte is sent: more than the limit, or for a project that is not there', async () => {
    expect((await client.beginUpload(4_000_001, 'big.mp4', project.id)).status).toBe(413)
    const unknown = await client.beginUpload(10, 'x.mp4', '7b1f8c1e-0000-4000-8000-000000000009')
    expect([unknown.status, codeOf({ body: await isJson(unknown) })]).toEqual([
      404,
      'project/not-found',
    ])
    for (const [name, id] of [
      ['x.mp4', 'no-id'],
      ['', project.id],
      ['nul\0.mp4', project.id],
    ] as const) {
      const answer = await client.beginUpload(10, name, id)
      expect([name, answer.status]).toEqual([name, 400])
    }
  })
  it('are refused with the sentence that helps where they are no clip, keep nothing, and say so again', async () => {
    const held = await server.database.models.Blob.count()
    const location = await begin(12, 'notes.mp4')
    const answer = await client.sendPart(location, 0, Buffer.from('just a text!'))
    expect([answer.status, await answer.text()]).toEqual([
      422,
      expect.stringMatching(/neither a clip nor an image/),
    ])
    const again = await client.sendPart(location, 12, Buffer.alloc(0))
    expect([again.status, codeOf({ body: await isJson(again) })]).toEqual([422, 'upload/unusable'])
    expect((await client.head(location)).status).toBe(410)
    expect(await server.database.models.Blob.count()).toBe(held)
  })
  it('can be discarded; a finished one cannot', async () => {
    const location = await begin(1000, 'half.mp4')
    await client.sendPart(location, 0, clip.subarray(0, 500))
    expect((await client.cancelUpload(location)).status).toBe(204)
    expect((await client.head(location)).status).toBe(404)
    const bytes = otherContent(clip, 2)
    const done = await begin(bytes.byteLength, 'whole.mp4')
    await client.sendPart(done, 0, bytes)
    expect((await client.cancelUpload(done)).status).toBe(404)
    const [source] = await client.shelfOf(project.id)
    const kept = await (await client.fetch(`/media/${source!.sha256}`)).arrayBuffer()
    expect(bytes.equals(Buffer.from(kept))).toBe(true)
  })
  it('that are finished stay whole and give the same answer when an empty part is sent again', async () => {
    const bytes = paddedClip(clip, 2_000_000, 3)
    const location = await begin(bytes.byteLength, 'again.mp4')
    const first = await client.sendPart(location, 0, bytes)
    const second = await client.sendPart(location, bytes.byteLength, Buffer.alloc(0))
    expect([second.status, second.headers.get('x-source-id')]).toEqual([
      204,
      first.headers.get('x-source-id'),
    ])
    const head = await client.head(location)
    expect([head.status, head.headers.get('x-source-id')]).toEqual([
      200,
      first.headers.get('x-source-id'),
    ])
    const blob = (await server.stores.blobs.findBySha256(sha256(bytes)))!
    expect(await server.stores.blobs.rehash(blob)).toBe(sha256(bytes))
  })
  it('of equal content are kept once and shelved once, also at the same moment', async () => {
    const bytes = paddedClip(clip, 1_500_000, 4)
    const before = await client.shelfOf(project.id)
    const sent = await Promise.all(
      Array.from({ length: 6 }, async (_, index) => {
        const location = await begin(bytes.byteLength, `same ${index}.mp4`)
        return client.sendPart(location, 0, bytes)
      }),
    )
    expect(sent.map((answer) => answer.status)).toEqual([204, 204, 204, 204, 204, 204])
    expect(new Set(sent.map((answer) => answer.headers.get('x-source-id'))).size).toBe(1)
    expect(sent.filter((answer) => answer.headers.has('x-known-as'))).toHaveLength(5)
    expect(await client.shelfOf(project.id)).toHaveLength(before.length + 1)
    expect(await server.database.models.Blob.count({ where: { sha256: sha256(bytes) } })).toBe(1)
  })
  it('are compared with the sender’s own digest before they are kept', async () => {
    const bytes = otherContent(clip, 5)
    const location = await begin(bytes.byteLength, 'damaged.mp4')
    const refused = await client.sendPart(location, 0, bytes, reprDigest(otherContent(clip, 6)))
    expect([refused.status, codeOf({ body: await isJson(refused) })]).toEqual([
      422,
      'upload/damaged',
    ])
    expect(await server.stores.blobs.findBySha256(sha256(bytes))).toBeNull()
    const good = await begin(bytes.byteLength, 'sound.mp4')
    expect((await client.sendPart(good, 0, bytes, reprDigest(bytes))).status).toBe(204)
  })
  it.each([
    '/api/uploads/%zz',
    '/api/uploads/no-id',
    '/api/uploads/a/b',
    '/api/uploads/7b1f8c1e-0000-4000-8000-000000000009',
  ])('do not exist at %s', async (path) =>
    expect((await client.head(path)).status).toBeLessThan(500),
  )
  it('are not open to pages of other sites unless they are configured', async () => {
    const answer = await client.fetch('/api/uploads', {
      method: 'OPTIONS',
      headers: { Origin: 'https://elsewhere.example' },
    })
    expect(answer.headers.get('access-control-allow-origin')).toBeNull()
  })
})

describe('an upload that was killed between its last byte and the shelf', () => {
  /** All bytes are stored, and nothing of what follows was done. */
  const received = async (bytes: Uint8Array, name: string): Promise<string> => {
    const location = await begin(bytes.byteLength, name)
    const { blobId } = (await server.stores.uploads.find(idOf(location)))!
    await server.stores.blobs.append(
      blobId!,
      0,
      (async function* () {
        yield bytes
      })(),
    )
    return location
  }
  it('answers 423 with Retry-After until it lies there, finished by being asked', async () => {
    const location = await received(otherContent(clip, 7), 'asked.mp4')
    const first = await client.head(location)
    expect([first.status, first.headers.get('retry-after')]).toEqual([423, '1'])
    await expect.poll(async () => (await client.head(location)).status).toBe(200)
    expect((await client.shelfOf(project.id)).map((source) => source.name)).toContain('asked.mp4')
  })
  it('is finished by the next start, whichever step was the last', async () => {
    const before = await received(otherContent(clip, 8), 'received.mp4')
    const sealed = await received(otherContent(clip, 9), 'sealed.mp4')
    await server.stores.uploads.seal(idOf(sealed))
    await server.stores.finisher.resume(pino({ level: 'silent' }))
    const names = (await client.shelfOf(project.id)).map((source) => source.name)
    expect(names).toEqual(expect.arrayContaining(['received.mp4', 'sealed.mp4']))
    expect([(await client.head(before)).status, (await client.head(sealed)).status]).toEqual([
      200, 200,
    ])
  })
  it('goes when its project goes', async () => {
    const other = await client.makeProject()
    const location = await begin(clip.byteLength, 'orphan.mp4', other.id)
    await client.sendPart(location, 0, clip.subarray(0, 1000))
    await client.call('DELETE', `/api/projects/${other.id}`)
    expect((await client.sendPart(location, 1000, clip.subarray(1000))).status).toBe(404)
  })
})
