import { createHash } from 'node:crypto'
import { once } from 'node:events'
import { request, type ClientRequest, type IncomingMessage } from 'node:http'
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest'
import type { Project } from '../../core/api/wire'
import { otherContent, readClip } from '../testing/clip'
import { TestClient } from '../testing/TestClient'
import { startTestServer, type TestServer } from '../testing/testServer'

/* Uploads whose requests come to two servers of one database. */

let servers: [TestServer, TestServer]
let clients: [TestClient, TestClient]
let clip: Buffer
let project: Project
beforeAll(async () => {
  const one = await startTestServer()
  servers = [one, await startTestServer({ databaseUrl: one.databaseUrl })]
  clients = [new TestClient(servers[0]), new TestClient(servers[1])]
  clip = await readClip()
  project = await clients[0].makeProject()
})
afterAll(async () => {
  await servers[1].stop()
  await servers[0].stop()
})

let bytes: Uint8Array
let path: string
let nth = 100
beforeEach(async () => {
  bytes = otherContent(clip, nth++)
  const begun = await clients[0].beginUpload(bytes.byteLength, 'viaduct.mp4', project.id)
  path = begun.headers.get('location')!
})
const idOf = (location: string): string => location.split('/').pop()!
const locks = () =>
  servers[0].database.query<{ wanted: boolean }>('SELECT wanted FROM upload_locks')
const offset = async (client: TestClient): Promise<number> =>
  Number((await client.head(path)).headers.get('upload-offset'))

/** A part whose line is dead: some bytes come, and then nothing, without an end. */
async function sendHalf(server: TestServer, from: number, to: number): Promise<ClientRequest> {
  const sent = request(new URL(path, server.url), {
    method: 'PATCH',
    headers: {
      ...{ Origin: server.url, 'Tus-Resumable': '1.0.0', 'Upload-Offset': String(from) },
      'Content-Type': 'application/offset+octet-stream',
      'Content-Length': bytes.byteLength - from,
    },
  })
  sent.on('error', () => undefined)
  sent.write(bytes.subarray(from, to))
  await expect.poll(locks).toHaveLength(1)
  return sent
}

async function isWhole(): Promise<void> {
  const { body } = await clients[1].call<{ sources: { sha256: string }[] }>(
    'GET',
    `/api/projects/${project.id}/sources`,
  )
  const digest = createHash('sha256').update(bytes).digest('hex')
  expect(body.sources.map(({ sha256 }) => sha256)).toContain(digest)
  expect(await locks()).toEqual([])
}

describe('uploads with two servers', () => {
  it('are whole where each part goes to another one', async () => {
    const step = Math.ceil(bytes.byteLength / 5)
    for (let at = 0, part = 0; at < bytes.byteLength; at += step, part++) {
      const client = clients[part % 2]!
      expect(await offset(clients[(part + 1) % 2]!)).toBe(at)
      expect((await client.sendPart(path, at, bytes.subarray(at, at + step))).status).toBe(204)
    }
    await isWhole()
  })

  it('go on at the other one while the first still holds a line that is dead', async () => {
    const dead = await sendHalf(servers[0], 0, 150_000)
    const ended = once(dead, 'response')
    const held = await offset(clients[1])
    expect(held).toBe(150_000)
    expect((await clients[1].sendPart(path, held, bytes.subarray(held))).status).toBe(204)
    const [response] = (await ended) as [IncomingMessage]
    expect(response.headers['upload-offset']).toBe('150000')
    await isWhole()
    dead.destroy()
  })

  it('are let go at once where the same server is asked', async () => {
    const dead = await sendHalf(servers[0], 0, 150_000)
    expect(await offset(clients[0])).toBe(150_000)
    expect((await clients[0].sendPart(path, 150_000, bytes.subarray(150_000))).status).toBe(204)
    await isWhole()
    dead.destroy()
  })

  it('are stored once where both are sent all of it at the same moment', async () => {
    const both = await Promise.all(clients.map((client) => client.sendPart(path, 0, bytes)))
    const statuses = both.map(({ status }) => status)
    expect(statuses).toContain(204)
    for (const status of statuses) expect([204, 409]).toContain(status)
    await isWhole()
  })

  it('go on where a server was killed that held the lock, once its lease has ended', async () => {
    await servers[0].database.query(
      `INSERT INTO upload_locks VALUES ($1, gen_random_uuid(), false, now() + interval '2 seconds')`,
      [idOf(path)],
    )
    const sent = clients[1].sendPart(path, 0, bytes)
    await expect.poll(locks).toEqual([{ wanted: true }])
    expect((await sent).status).toBe(204)
    await isWhole()
  })

  it('keep their lock for as long as they are sent', async () => {
    const slow = await sendHalf(servers[0], 0, 150_000)
    await servers[0].database.query(
      `UPDATE upload_locks SET ends_at = now() + interval '3 seconds' RETURNING holder`,
    )
    // It says that it goes on, and nobody waits.
    const seconds = async () => {
      const [row] = await servers[0].database.query<{ left: number }>(
        `SELECT extract(epoch FROM ends_at - now())::float8 AS left FROM upload_locks`,
      )
      return row!.left
    }
    await expect.poll(seconds, { timeout: 5000 }).toBeGreaterThan(10)
    slow.write(bytes.subarray(150_000))
    const [response] = (await once(slow, 'response')) as [{ statusCode: number }]
    expect(response.statusCode).toBe(204)
    await isWhole()
  })
})
