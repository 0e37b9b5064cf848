import { strFromU8, unzipSync } from 'fflate'
import { createHash } from 'node:crypto'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { BackdropRecord, Project, Source } from '../core/api/wire'
import { recipeKey } from '../core/backdrop/recipe'
import { handoffKeys } from '../core/handoff/deliveredFiles'
import { manifestSchema } from '../core/handoff/manifest'
import { CLIP_FACTS, POSTER_FACTS, knownAs } from '../core/testing/samples'
import { otherContent, paddedClip, readClip } from './testing/clip'
import { FaultyDatabase } from './testing/faults'
import { codeOf, TestClient } from './testing/TestClient'
import { startTestServer, type TestServer } from './testing/testServer'

let server: TestServer
let client: TestClient
let clip: Buffer
let backdrop: BackdropRecord
let source: Source
let project: Project
beforeAll(async () => {
  server = await startTestServer()
  client = new TestClient(server)
  clip = await readClip()
  ;({ backdrop, source } = await client.makeBackdrop(clip))
  project = await client.makeProject()
})
afterAll(() => server.stop())

const at = async (headers: Record<string, string>, method = 'GET') => {
  const answer = await client.fetch(`/media/${source.sha256}?type=video/mp4`, { method, headers })
  return {
    status: answer.status,
    bytes: Buffer.from(await answer.arrayBuffer()),
    headers: answer.headers,
  }
}

describe('media', () => {
  it('come in ranges that equal the file, and are cacheable', async () => {
    const middle = await at({ Range: 'bytes=1000-1999' })
    expect(middle.status).toBe(206)
    expect(middle.bytes).toEqual(clip.subarray(1000, 2000))
    expect(middle.headers.get('content-range')).toBe(`bytes 1000-1999/${clip.byteLength}`)
    expect(middle.headers.get('cache-control')).toContain('immutable')
    expect(middle.headers.get('content-type')).toBe('video/mp4')
    expect((await at({ Range: 'bytes=-10' })).bytes).toEqual(clip.subarray(-10))
    expect((await at({ Range: `bytes=${clip.byteLength - 5}-` })).bytes).toEqual(clip.subarray(-5))
  })
  it('answer a range outside the file by 416 that no one may cache', async () => {
    const beyond = await at({ Range: `bytes=${clip.byteLength}-` })
    expect([beyond.status, beyond.headers.get('content-range')]).toEqual([
      416,
      `bytes */${clip.byteLength}`,
    ])
    expect(beyond.headers.get('cache-control')).toBe('no-store')
    expect(beyond.headers.get('etag')).toBeNull()
  })
  it.each([
    'bytes=5-2',
    'bytes=a-b',
    'bytes=0-1,4-5',
    'items=0-1',
    'bytes=' + '9'.repeat(400) + '-',
  ])('send the whole file, or refuse, but never fail for the range %s', async (range) =>
    expect([200, 416]).toContain((await at({ Range: range })).status),
  )
  it('are not sent to those who have them, and tell their length to HEAD', async () => {
    const etag = `"${source.sha256}"`
    expect((await at({ 'If-None-Match': etag })).status).toBe(304)
    expect((await at({ 'If-None-Match': '"other"' })).status).toBe(200)
    const head = await at({}, 'HEAD')
    expect([head.status, head.headers.get('content-length'), head.bytes.byteLength]).toEqual([
      200,
      String(clip.byteLength),
      0,
    ])
    expect((await at({ Range: 'bytes=0-9', 'If-Range': etag })).status).toBe(206)
    expect((await at({ Range: 'bytes=0-9', 'If-Range': '"other"' })).bytes.byteLength).toBe(
      clip.byteLength,
    )
  })
  it('come in parts that lie across the rows of the database', async () => {
    const large = paddedClip(clip, 3 * 1024 * 1024, 3)
    const { sha256 } = await client.upload(project.id, large, 'large.mp4')
    const border = 1024 * 1024
    const ranges = [
      [border - 1, border],
      [border, border],
      [0, border - 1],
      [border - 5, 2 * border + 5],
      [0, large.byteLength - 1],
      [2 * border, large.byteLength - 1],
    ] as const
    for (const [first, last] of ranges) {
      const answer = await client.fetch(`/media/${sha256}`, {
        headers: { Range: `bytes=${first}-${last}` },
      })
      expect(answer.status).toBe(206)
      expect(Buffer.from(await answer.arrayBuffer()).equals(large.subarray(first, last + 1))).toBe(
        true,
      )
    }
  })
  it('are not found once they are swept, and found when they come again', async () => {
    const { blobs } = server.stores
    const bytes = otherContent(clip, 41)
    const first = await blobs.put(bytes)
    const path = `/media/${first.sha256}`
    const remove = (id: string) => server.database.query('DELETE FROM blobs WHERE id = $1', [id])
    expect((await client.fetch(path)).status).toBe(200)
    await remove(first.id)
    expect((await client.fetch(path)).status).toBe(404)
    const second = await blobs.put(bytes)
    expect(Buffer.from(await (await client.fetch(path)).arrayBuffer()).equals(bytes)).toBe(true)
    // Swept and come again between two readings: what is remembered leads nowhere.
    await remove(second.id)
    await blobs.put(bytes)
    expect(Buffer.from(await (await client.fetch(path)).arrayBuffer()).equals(bytes)).toBe(true)
  })
  it('answer by 503 where the database fails before the first byte', async () => {
    await at({})
    const faulty = new FaultyDatabase(server.databaseUrl)
    faulty.arm(1, { kind: 'raise', sqlState: '57P01' })
    const answer = await at({})
    faulty.restore()
    expect([answer.status, answer.headers.has('retry-after')]).toEqual([503, true])
    expect((await at({})).bytes.equals(clip)).toBe(true)
  })
  it('are unknown by a wrong digest', async () =>
    expect(codeOf(await client.call('GET', '/media/abc'))).toBe('media/not-found'))
  it('stay available while two hundred readers leave at once', async () => {
    const leaving = Array.from({ length: 200 }, async () => {
      const abort = new AbortController()
      const answer = client
        .fetch(`/media/${source.sha256}`, { signal: abort.signal })
        .then((response) => response.body!.getReader().read())
      setTimeout(() => abort.abort(), 5)
      await answer.catch(() => undefined)
    })
    await Promise.all(leaving)
    expect(
      createHash('sha256')
        .update((await at({})).bytes)
        .digest('hex'),
    ).toBe(source.sha256)
  })
})

describe('the handoff', () => {
  it('waits until every file is rendered, then gives the folder as zip and as site under a strict policy', async () => {
    const early = await client.call('GET', `/handoff/${backdrop.id}/zip`)
    expect([early.status, codeOf(early)]).toEqual([409, 'handoff/not-ready'])
    const known = knownAs({ sha256: source.sha256, width: 640, height: 360 }, source.id)
    for (const key of handoffKeys(backdrop.document, known)) {
      const format = /:(avif|webp|jpeg):/.exec(key)?.[1] as 'avif' | undefined
      const facts = format ? { ...POSTER_FACTS, type: `image/${format}` as const } : CLIP_FACTS
      await server.stores.renditions.keep(
        key,
        await server.stores.blobs.put(Buffer.from(`bytes of ${key}`)),
        facts,
      )
    }
    const answer = await client.fetch(`/handoff/${backdrop.id}/zip`)
    const zip = unzipSync(new Uint8Array(await answer.arrayBuffer()))
    const manifest = manifestSchema.parse(JSON.parse(strFromU8(zip['viaduct/manifest.json']!)))
    expect(
      Object.keys(zip)
        .map((path) => path.replace('viaduct/', ''))
        .sort(),
    ).toEqual([...manifest.files].sort())
    expect(strFromU8(zip[`viaduct/${manifest.clips[0]!.path}`]!)).toContain('bytes of clip')
    const page = await client.fetch(`/handoff/${backdrop.id}/site/index.html`)
    expect(page.headers.get('content-security-policy')).toContain("default-src 'none'")
    expect(await page.text()).toContain(manifest.clips[0]!.path)
    const poster = await client.fetch(`/handoff/${backdrop.id}/site/${manifest.posters[0]!.path}`)
    expect(poster.headers.get('content-type')).toBe('image/avif')
  })
  it('is unknown for a backdrop that is not there', async () => {
    for (const path of [
      '/handoff/no-id/zip',
      '/handoff/7b1f8c1e-0000-4000-8000-000000000009/site/index.html',
    ]) {
      expect(codeOf(await client.call('GET', path))).toBe('backdrop/not-found')
    }
    const path = `/handoff/${backdrop.id}/site/nothing.mp4`
    expect(['media/not-found', 'handoff/not-ready']).toContain(
      codeOf(await client.call('GET', path)),
    )
  })
})

describe('recipe keys', () => {
  it('are what renditions are looked up by', async () => {
    const key = recipeKey({ kind: 'trace', sourceSha256: source.sha256 })
    expect((await client.call('POST', '/api/renditions/lookup', { keys: [key] })).body).toEqual([])
  })
})
