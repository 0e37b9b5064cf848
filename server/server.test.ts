import type { ProjectSettings } from '../core/api/settings'
import { createHash } from 'node:crypto'
import { readFile } from 'node:fs/promises'
import { Readable } from 'node:stream'
import { unzipSync, strFromU8 } from 'fflate'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { CLIP_FACTS, POSTER_FACTS } from '../core/testing/samples'
import type { BackdropRecord, Project, ShelfPage, Source, SourceCard } from '../core/api/wire'
import { handoffKeys } from '../core/handoff/assembleHandoff'
import { manifestSchema } from '../core/handoff/manifest'
import { BlobStore, CHUNK_BYTES } from './blobs/BlobStore'
import { readConfig } from './config'
import { MIGRATIONS, migrator, openDatabase } from './store/database'
import { makeDatabase, startTestServer, type TestServer } from './testing/testServer'

let server: TestServer
let clip: Buffer
beforeAll(async () => {
  server = await startTestServer({ maxUploadBytes: 3_000_000 })
  clip = await readFile(new URL('../demo/files/viaduct-crossing.mp4', import.meta.url))
})
afterAll(() => server.stop())

async function call<T = unknown>(method: string, path: string, body?: unknown, headers: Record<string, string> = {}): Promise<{ status: number; body: T }> {
  const answer = await fetch(server.url + path, { method, headers: { 'Content-Type': 'application/json', ...headers }, ...(body === undefined ? {} : { body: JSON.stringify(body) }) })
  const text = await answer.text()
  return { status: answer.status, body: (text && answer.headers.get('content-type')?.includes('json') ? JSON.parse(text) : text) as T }
}
const codeOf = (answer: { body: unknown }): string => (answer.body as { error: { code: string } }).error.code

const TUS = { 'Tus-Resumable': '1.0.0' }
const encode = (text: string): string => Buffer.from(text).toString('base64')
async function beginUpload(bytes: number, filename: string, projectId: string): Promise<Response> {
  return fetch(`${server.url}/api/uploads`, { method: 'POST', headers: { ...TUS, 'Upload-Length': String(bytes), 'Upload-Metadata': `filename ${encode(filename)},projectId ${encode(projectId)}` } })
}
async function sendPart(location: string, offset: number, part: Uint8Array): Promise<Response> {
  return fetch(new URL(location, server.url), { method: 'PATCH', headers: { ...TUS, 'Upload-Offset': String(offset), 'Content-Type': 'application/offset+octet-stream' }, body: new Uint8Array(part) })
}
async function makeProject(name = 'Vesperline'): Promise<Project> {
  return (await call<Project>('POST', '/api/projects', { name })).body
}
async function shelfOf(projectId: string, query = ''): Promise<SourceCard[]> {
  return (await call<ShelfPage>('GET', `/api/projects/${projectId}/sources?${query}`)).body.sources
}
async function uploadClip(projectId: string): Promise<Source> {
  const begun = await beginUpload(clip.byteLength, 'viaduct.mp4', projectId)
  await sendPart(begun.headers.get('location')!, 0, clip)
  const [newest] = await shelfOf(projectId)
  return (await call<Source>('GET', `/api/sources/${newest!.id}`)).body
}
async function makeBackdrop(): Promise<{ project: Project; source: Source; backdrop: BackdropRecord }> {
  const project = await makeProject()
  const source = await uploadClip(project.id)
  const made = await call<BackdropRecord>('POST', `/api/spots/${project.pages[0]!.spots[0]!.id}/backdrops`, { name: 'Viaduct', sourceId: source.id })
  return { project, source, backdrop: made.body }
}

describe('the service', () => {
  it('tells that it is well', async () => expect(await call('GET', '/api/health')).toEqual({ status: 200, body: { ok: true } }))
  it('describes its routes as OpenAPI', async () => {
    const { body } = await call<{ openapi: string; paths: Record<string, Record<string, { responses: object }>> }>('GET', '/api/openapi.json')
    expect(body.openapi).toBe('3.1.0')
    expect(Object.keys(body.paths)).toContain('/api/backdrops/{id}')
    expect(body.paths['/api/projects']!['post']!.responses).toHaveProperty('200')
    expect(Object.keys(body.paths)).toEqual(expect.arrayContaining(['/media/{sha256}', '/api/renditions', '/handoff/{id}/zip', '/api/uploads', '/api/uploads/{id}']))
    const asked = (body.paths['/api/projects/{id}/sources']!['get'] as unknown as { parameters: { name: string; in: string }[] }).parameters.filter((parameter) => parameter.in === 'query').map((parameter) => parameter.name)
    expect(asked).toEqual(expect.arrayContaining(['search', 'kind', 'liveliness', 'findings', 'sort', 'offset', 'limit']))
  })
  it.each([['GET', '/api/nothing', undefined, 404, 'route/not-found'], ['GET', '/api/projects/no-id', undefined, 404, 'route/not-found'], ['GET', '/api/projects/7b1f8c1e-0000-4000-8000-000000000009', undefined, 404, 'project/not-found'], ['POST', '/api/projects', { name: '  ' }, 400, 'request/invalid'], ['POST', '/api/projects', {}, 400, 'request/invalid'], ['POST', '/api/renditions/lookup', { keys: 'x' }, 400, 'request/invalid']] as const)(
    'answers %s %s %j by %i with a code', async (method, path, body, status, code) => {
      const answer = await call(method, path, body)
      expect([answer.status, codeOf(answer)]).toEqual([status, code])
    })
  it('refuses a body that is no JSON', async () => {
    const answer = await fetch(`${server.url}/api/projects`, { method: 'POST', body: '{' })
    expect(answer.status).toBe(400)
  })
  it('refuses writes that come from another site', async () => expect(codeOf(await call('POST', '/api/projects', { name: 'x' }, { 'Sec-Fetch-Site': 'cross-site' }))).toBe('request/origin'))
  it('sends a content policy without inline scripts', async () => {
    const policy = (await fetch(`${server.url}/`)).headers.get('content-security-policy') ?? ''
    expect(policy).toContain("default-src 'self'")
    expect(policy).not.toMatch(/script-src[^;]*unsafe/)
  })
  it.each(['/../package.json', '/%2e%2e/%2e%2e/package.json', '/assets/../../../package.json'])('never leaves its folder for %s', async (path) => {
    expect(await (await fetch(server.url + path)).text()).not.toContain('"dependencies"')
  })
})

describe('settings', () => {
  it('have defaults', () => expect(readConfig({ DATABASE_URL: 'postgres://x' })).toEqual({ port: 4600, host: '127.0.0.1', databaseUrl: 'postgres://x', maxUploadBytes: 1_000_000_000, logLevel: 'warn' }))
  it('name every wrong variable at once', () => expect(() => readConfig({ PORT: '99999', DATABASE_URL: 'mysql://x' })).toThrow(/PORT.*[\s\S]*DATABASE_URL/))
})

describe('migrations', () => {
  it.each(MIGRATIONS.map(({ name }) => name))('%s goes up, down and up again', async () => {
    const made = await makeDatabase()
    const database = await openDatabase(made.url)
    try {
      const move = migrator(database)
      await move.up()
      expect(await database.models.Project.count()).toBe(0)
      await move.down({ to: 0 })
      await expect(database.models.Project.count()).rejects.toThrow(/does not exist/)
      await move.up()
      expect(await database.models.Chunk.count()).toBe(0)
    } finally {
      await database.close()
      await made.drop()
    }
  })
})

describe('projects', () => {
  it('come with a page and a spot, can be renamed, and go with all that is theirs', async () => {
    const { project, backdrop } = await makeBackdrop()
    expect(project.pages[0]!.spots[0]).toMatchObject({ name: 'Hero', height: { unit: 'svh', value: 100 } })
    expect((await call('PATCH', `/api/projects/${project.id}`, { name: 'Night line' })).status).toBe(204)
    const listed = (await call<{ id: string; name: string; latestBackdropId: string }[]>('GET', '/api/projects')).body.find((each) => each.id === project.id)
    expect(listed).toMatchObject({ name: 'Night line', latestBackdropId: backdrop.id })
    expect((await call('DELETE', `/api/projects/${project.id}`)).status).toBe(204)
    expect(codeOf(await call('GET', `/api/backdrops/${backdrop.id}`))).toBe('backdrop/not-found')
    expect(await shelfOf(project.id)).toEqual([])
  })
  it('hold pages and spots that can be added, changed and deleted', async () => {
    const project = await makeProject()
    const page = (await call<{ id: string }>('POST', `/api/projects/${project.id}/pages`, { name: 'Routes' })).body
    const spot = (await call<{ id: string }>('POST', `/api/pages/${page.id}/spots`, { name: 'Band', scope: 'region', height: { unit: 'px', value: 420 } })).body
    await call('PATCH', `/api/spots/${spot.id}`, { height: { unit: 'svh', value: 60 } })
    const read = (await call<Project>('GET', `/api/projects/${project.id}`)).body
    expect(read.pages[1]!.spots[0]).toMatchObject({ name: 'Band', height: { unit: 'svh', value: 60 } })
    expect((await call('DELETE', `/api/spots/${spot.id}`)).status).toBe(204)
    expect((await call('DELETE', `/api/pages/${page.id}`)).status).toBe(204)
    expect(codeOf(await call('DELETE', `/api/pages/${page.id}`))).toBe('page/not-found')
  })
})

describe('what a project decides', () => {
  it('is Telon’s own at first, is kept, and new backdrops begin with it', async () => {
    const { project, source } = await makeBackdrop()
    const path = `/api/projects/${project.id}/settings`
    const { body: first } = await call<ProjectSettings>('GET', path)
    expect(first).toMatchObject({ budgets: { phone: 1_000_000, laptop: 2_500_000, wide: 4_000_000 }, limits: { phone: 640, laptop: 1440 } })
    expect(first.support.formats.length).toBeGreaterThan(2)
    const own = { ...first, budgets: { phone: 600_000, laptop: 2_000_000, wide: 3_000_000 }, limits: { phone: 700, laptop: 1300 }, screens: { ...first.screens, wide: { width: 1600, height: 900, density: 1 } }, support: { ...first.support, date: '2027-01-31' } }
    expect((await call('PUT', path, own)).status).toBe(204)
    expect((await call('GET', path)).body).toEqual(own)
    const { body: made } = await call<BackdropRecord>('POST', `/api/spots/${project.pages[0]!.spots[0]!.id}/backdrops`, { name: 'Second', sourceId: source.id })
    expect([made.document.weight.ladder.laptop.budget, made.document.weight.limits]).toEqual([2_000_000, { phone: 700, laptop: 1300 }])
  })
  it.each([
    [{ budgets: { phone: 5, laptop: 2_000_000, wide: 3_000_000 } }], [{ limits: { phone: 1400, laptop: 900 } }], [{ screens: { phone: { width: 10, height: 900, density: 1 } } }], [{ support: { date: 'yesterday' } }],
  ])('is refused where it makes no sense: %j', async (wrong) => {
    const project = await makeProject()
    expect((await call('PUT', `/api/projects/${project.id}/settings`, wrong)).status).toBe(400)
    expect((await call<ProjectSettings>('GET', `/api/projects/${project.id}/settings`)).body.limits).toEqual({ phone: 640, laptop: 1440 })
  })
  it('is unknown of a project that is not there', async () => expect(codeOf(await call('GET', '/api/projects/7b1f8c1e-0000-4000-8000-000000000001/settings'))).toBe('project/not-found'))
})

describe('uploads', () => {
  it('resume where they broke off, and the clip is read and put on the shelf', async () => {
    const project = await makeProject()
    const begun = await beginUpload(clip.byteLength, 'viaduct.mp4', project.id)
    expect(begun.status).toBe(201)
    const location = begun.headers.get('location')!
    await sendPart(location, 0, clip.subarray(0, 100_001))
    expect((await call<unknown[]>('GET', `/api/projects/${project.id}/uploads`)).body).toMatchObject([{ filename: 'viaduct.mp4', received: 100_001 }])
    const head = await fetch(new URL(location, server.url), { method: 'HEAD', headers: TUS })
    expect(head.headers.get('upload-offset')).toBe('100001')
    expect((await sendPart(location, 5, clip.subarray(5))).status).toBe(409)
    expect((await sendPart(location, 100_001, clip.subarray(100_001))).status).toBe(204)
    const [source] = await shelfOf(project.id)
    expect(source).toMatchObject({ name: 'viaduct.mp4', sha256: createHash('sha256').update(clip).digest('hex'), facts: { video: { displayWidth: 640 } } })
    expect((await call('GET', `/api/projects/${project.id}/uploads`)).body).toEqual([])
  })
  it('refuse more than the limit before a byte is sent', async () => expect((await beginUpload(3_000_001, 'big.mp4', 'x')).status).toBe(413))
  it('refuse what is no clip, with the sentence that helps, and keep nothing of it', async () => {
    const project = await makeProject()
    const begun = await beginUpload(12, 'notes.mp4', project.id)
    const answer = await sendPart(begun.headers.get('location')!, 0, Buffer.from('just a text!'))
    expect(answer.status).toBe(422)
    expect(await answer.text()).toMatch(/neither a clip nor an image/)
    expect((await call('GET', `/api/projects/${project.id}/uploads`)).body).toEqual([])
  })
  it('can be discarded; a finished one cannot', async () => {
    const project = await makeProject()
    const location = (await beginUpload(1000, 'half.mp4', project.id)).headers.get('location')!
    await sendPart(location, 0, clip.subarray(0, 500))
    expect((await fetch(new URL(location, server.url), { method: 'DELETE', headers: TUS })).status).toBe(204)
    const done = (await beginUpload(clip.byteLength, 'whole.mp4', project.id)).headers.get('location')!
    await sendPart(done, 0, clip)
    expect((await fetch(new URL(done, server.url), { method: 'DELETE', headers: TUS })).status).toBeGreaterThanOrEqual(400)
    expect(await shelfOf(project.id)).toHaveLength(1)
  })
  it('keep equal content once', async () => {
    const project = await makeProject()
    await uploadClip(project.id)
    const before = await server.database.models.Blob.count()
    await uploadClip(project.id)
    expect(await server.database.models.Blob.count()).toBe(before)
  })
})

describe('media', () => {
  it('come in ranges that equal the file, and are cacheable', async () => {
    const { source } = await makeBackdrop()
    const at = async (range: string) => {
      const answer = await fetch(`${server.url}/media/${source.sha256}?type=video/mp4`, { headers: { Range: range } })
      return { status: answer.status, bytes: Buffer.from(await answer.arrayBuffer()), headers: answer.headers }
    }
    const middle = await at('bytes=1000-1999')
    expect(middle.status).toBe(206)
    expect(middle.bytes).toEqual(clip.subarray(1000, 2000))
    expect(middle.headers.get('content-range')).toBe(`bytes 1000-1999/${clip.byteLength}`)
    expect(middle.headers.get('cache-control')).toContain('immutable')
    expect(middle.headers.get('content-type')).toBe('video/mp4')
    expect((await at('bytes=-10')).bytes).toEqual(clip.subarray(-10))
    expect((await at(`bytes=${clip.byteLength - 5}-`)).bytes).toEqual(clip.subarray(-5))
    expect((await at(`bytes=${clip.byteLength}-`)).status).toBe(416)
  })
  it('are unknown by a wrong digest', async () => expect(codeOf(await call('GET', '/media/abc'))).toBe('media/not-found'))
  it('keep bytes across chunk borders, however they arrive', async () => {
    const blobs = new BlobStore(server.database)
    const bytes = Buffer.alloc(CHUNK_BYTES * 2 + 777, 0).map((_, index) => (index * 131) & 255)
    const id = crypto.randomUUID()
    await blobs.begin(id, bytes.byteLength, {})
    let offset = 0
    for (const length of [5, CHUNK_BYTES - 6, 3, CHUNK_BYTES, bytes.byteLength]) {
      offset = await blobs.append(id, offset, Readable.from([bytes.subarray(offset, offset + length)]))
    }
    const sealed = await blobs.seal(id)
    expect(sealed.sha256).toBe(createHash('sha256').update(bytes).digest('hex'))
    expect(Buffer.from(await blobs.source(sealed).read(CHUNK_BYTES - 10, 20))).toEqual(Buffer.from(bytes.subarray(CHUNK_BYTES - 10, CHUNK_BYTES + 10)))
  })
  it('keep what came before a stream broke off', async () => {
    const blobs = new BlobStore(server.database)
    const id = crypto.randomUUID()
    await blobs.begin(id, 100, {})
    const breaking = async function* () {
      yield Buffer.alloc(40, 1)
      throw new Error('the line is gone')
    }
    await expect(blobs.append(id, 0, breaking())).rejects.toThrow('the line is gone')
    expect((await blobs.find(id))!.received).toBe(40)
  })
})

describe('backdrops', () => {
  it('save revision after revision', async () => {
    const { backdrop } = await makeBackdrop()
    const document = { ...backdrop.document, scrim: { ...backdrop.document.scrim, strength: 0.8 } }
    const saved = await call<{ revision: number }>('PUT', `/api/backdrops/${backdrop.id}`, { baseRevision: 1, label: 'scrim', document, history: backdrop.history })
    expect(saved.body.revision).toBe(2)
    expect((await call<BackdropRecord>('GET', `/api/backdrops/${backdrop.id}`)).body.document.scrim.strength).toBe(0.8)
    expect((await call('GET', `/api/backdrops/${backdrop.id}/revisions`)).body).toMatchObject([{ revision: 2, label: 'scrim' }, { revision: 1 }])
  })
  it('tell the second of two tabs, and give it what the first has saved', async () => {
    const { backdrop } = await makeBackdrop()
    const save = (heading: string) => call('PUT', `/api/backdrops/${backdrop.id}`, { baseRevision: 1, label: 'heading', document: { ...backdrop.document, copy: { ...backdrop.document.copy, heading } }, history: backdrop.history })
    const answers = await Promise.all([save('one'), save('two')])
    expect(answers.map((answer) => answer.status).sort()).toEqual([200, 409])
    const loser = answers.find((answer) => answer.status === 409)!
    const theirs = (loser.body as { error: { code: string; details: BackdropRecord } }).error
    expect(theirs.code).toBe('backdrop/conflict')
    expect(theirs.details.revision).toBe(2)
  })
  it('refuse a document that breaks its schema', async () => {
    const { backdrop } = await makeBackdrop()
    const document = { ...backdrop.document, timing: { ...backdrop.document.timing, speed: 99 } }
    expect(codeOf(await call('PUT', `/api/backdrops/${backdrop.id}`, { baseRevision: 1, label: 'x', document, history: backdrop.history }))).toBe('request/invalid')
  })
  it('hold their source on the shelf', async () => {
    const { source, backdrop } = await makeBackdrop()
    const refused = await call('POST', '/api/sources/delete', { ids: [source.id] })
    expect([refused.status, codeOf(refused)]).toEqual([409, 'source/in-use'])
    await call('DELETE', `/api/backdrops/${backdrop.id}`)
    expect((await call('POST', '/api/sources/delete', { ids: [source.id] })).status).toBe(204)
  })
})

describe('the handoff', () => {
  it('waits until every file is made, then gives the folder as zip and as site under a strict policy', async () => {
    const { backdrop, source } = await makeBackdrop()
    const early = await call('GET', `/handoff/${backdrop.id}/zip`)
    expect([early.status, codeOf(early)]).toEqual([409, 'handoff/not-ready'])
    const from = { sha256: source.sha256, width: 640, height: 360 }
    for (const key of handoffKeys(backdrop.document, from)) {
      const facts = key.startsWith('poster') ? { ...POSTER_FACTS, type: `image/${/:(avif|webp|jpeg):/.exec(key)![1]}` } : CLIP_FACTS
      const stored = await fetch(`${server.url}/api/renditions?${new URLSearchParams({ key, facts: JSON.stringify(facts) })}`, { method: 'PUT', body: `bytes of ${key}` })
      expect(stored.status).toBe(200)
    }
    const zip = unzipSync(new Uint8Array(await (await fetch(`${server.url}/handoff/${backdrop.id}/zip`)).arrayBuffer()))
    const manifest = manifestSchema.parse(JSON.parse(strFromU8(zip['viaduct/manifest.json']!)))
    expect(Object.keys(zip).map((path) => path.replace('viaduct/', '')).sort()).toEqual([...manifest.files].sort())
    expect(strFromU8(zip[`viaduct/${manifest.clips[0]!.path}`]!)).toContain('bytes of clip')
    const page = await fetch(`${server.url}/handoff/${backdrop.id}/site/index.html`)
    expect(page.headers.get('content-security-policy')).toContain("default-src 'none'")
    expect(await page.text()).toContain(manifest.clips[0]!.path)
    expect((await fetch(`${server.url}/handoff/${backdrop.id}/site/${manifest.posters[0]!.path}`)).headers.get('content-type')).toBe('image/avif')
  })
  it.each([['nothing', 400], ['{"kind":"clip"}', 400]])('refuses a rendition with facts %s', async (facts, status) => {
    expect((await fetch(`${server.url}/api/renditions?${new URLSearchParams({ key: 'k', facts })}`, { method: 'PUT', body: 'x' })).status).toBe(status)
  })
})
