import { asFootage } from '../core/testing/samples'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { BackdropRecord, OpenRevision, Revision } from '../core/api/wire'
import { readClip } from './testing/clip'
import { codeOf, TestClient } from './testing/TestClient'
import { startTestServer, type TestServer } from './testing/testServer'
import { evenScrim } from '../core/scrim/Scrim'

let server: TestServer
let client: TestClient
let clip: Buffer
beforeAll(async () => {
  server = await startTestServer()
  client = new TestClient(server)
  clip = await readClip()
})
afterAll(() => server.stop())

const withStrength = ({ document }: BackdropRecord, strength: number) => ({
  ...document,
  scrim: evenScrim('#14101c', strength),
})
const read = async (id: string): Promise<BackdropRecord> =>
  (await client.call<BackdropRecord>('GET', `/api/backdrops/${id}`)).body

describe('backdrops', () => {
  it('save revision after revision, each of which can be opened', async () => {
    const { backdrop } = await client.makeBackdrop(clip)
    const saved = await client.save(backdrop, {
      label: 'scrim',
      document: withStrength(backdrop, 0.8),
    })
    expect(saved.body.revision).toBe(2)
    expect((await read(backdrop.id)).document.scrim.layers[0]!.strength).toBe(0.8)
    const { body: list } = await client.call<Revision[]>(
      'GET',
      `/api/backdrops/${backdrop.id}/revisions`,
    )
    expect(list).toMatchObject([
      { revision: 2, label: 'scrim' },
      { revision: 1, label: 'created' },
    ])
    const { body: first } = await client.call<OpenRevision>(
      'GET',
      `/api/backdrops/${backdrop.id}/revisions/1`,
    )
    expect(first.document).toEqual(backdrop.document)
    expect(codeOf(await client.call('GET', `/api/backdrops/${backdrop.id}/revisions/9`))).toBe(
      'revision/not-found',
    )
  })
  it('can be made and opened in a project with the longest name', async () => {
    const { project, backdrop } = await client.makeBackdrop(clip, 'Night train '.repeat(10))
    expect(project.name).toHaveLength(119)
    expect((await read(backdrop.id)).document.copy.brand).toBe(project.name.slice(0, 60))
  })
  it('tell the second of two tabs, and give it what the first has saved', async () => {
    const { backdrop } = await client.makeBackdrop(clip)
    const save = (strength: number) =>
      client.save<unknown>(backdrop, { document: withStrength(backdrop, strength) })
    const answers = await Promise.all([save(0.1), save(0.2)])
    expect(answers.map((answer) => answer.status).sort()).toEqual([200, 409])
    const loser = answers.find((answer) => answer.status === 409)!
    const { error } = loser.body as { error: { code: string; details: BackdropRecord } }
    expect([error.code, error.details.revision]).toEqual(['backdrop/conflict', 2])
  })
  it('take the same save twice as one revision: its answer may have been lost', async () => {
    const { backdrop } = await client.makeBackdrop(clip)
    const saveId = crypto.randomUUID()
    const document = withStrength(backdrop, 0.4)
    const first = await client.save(backdrop, { saveId, document })
    const second = await client.save(backdrop, { saveId, document })
    expect([second.status, second.body]).toEqual([200, first.body])
    // Also when others have saved meanwhile.
    await client.save(backdrop, { baseRevision: 2, document: withStrength(backdrop, 0.5) })
    expect((await client.save(backdrop, { saveId, document })).body).toEqual(first.body)
    expect((await read(backdrop.id)).revision).toBe(3)
    const twice = crypto.randomUUID()
    const both = await Promise.all(
      [1, 2].map(() => client.save(backdrop, { baseRevision: 3, saveId: twice, document })),
    )
    expect(both.map((answer) => answer.body.revision)).toEqual([4, 4])
  })
  it('refuse a document that breaks its schema', async () => {
    const { backdrop } = await client.makeBackdrop(clip)
    const document = {
      ...backdrop.document,
      base: {
        ...backdrop.document.base,
        timing: { ...asFootage(backdrop.document).base.timing, speed: 99 },
      },
    }
    expect(codeOf(await client.save(backdrop, { document }))).toBe('request/invalid')
  })
  it('refuse sources that are unknown, malformed or another project’s', async () => {
    const { backdrop } = await client.makeBackdrop(clip)
    const { source: foreign } = await client.makeBackdrop(clip)
    const using = (sourceId: string) => ({
      ...backdrop.document,
      base: { ...backdrop.document.base, material: { sourceId, frameRate: null } },
    })
    const code = async (sourceId: string) =>
      codeOf(await client.save(backdrop, { document: using(sourceId) }))
    expect(await code('7b1f8c1e-0000-4000-8000-000000000009')).toBe('backdrop/unknown-source')
    expect(await code(foreign.id)).toBe('backdrop/unknown-source')
    expect(await code('nothing')).toBe('request/invalid')
    expect((await read(backdrop.id)).revision).toBe(1)
  })
  it.each([
    ['a revision larger than its column', { baseRevision: 2_147_483_647 }],
    ['a text with NUL', { label: 'a\0b' }],
    ['half of a surrogate pair', { label: 'a\ud800' }],
    [
      'a history of too many steps',
      {
        history: {
          version: 4,
          past: Array.from({ length: 201 }, () => ({ label: 'x', gesture: null, changes: [] })),
          future: [],
        },
      },
    ],
    ['a history of another version', { history: { version: 3, past: [], future: [] } }],
  ])('refuse %s', async (_, changes) => {
    const { backdrop } = await client.makeBackdrop(clip)
    const answer = await client.save<unknown>(backdrop, changes)
    expect([answer.status, codeOf(answer)]).toEqual([400, 'request/invalid'])
  })
  it('refuse a history nested five thousand deep', async () => {
    const { backdrop } = await client.makeBackdrop(clip)
    const deep = '['.repeat(5000) + ']'.repeat(5000)
    const history = `{"version":4,"past":[{"label":"x","gesture":null,"changes":[{"path":["a"],"to":${deep}}]}],"future":[]}`
    const { saveId, document } = {
      saveId: crypto.randomUUID(),
      document: JSON.stringify(backdrop.document),
    }
    const body = `{"baseRevision":1,"saveId":"${saveId}","label":"x","document":${document},"history":${history}}`
    const answer = await client.call('PUT', `/api/backdrops/${backdrop.id}`, body)
    expect([answer.status, codeOf(answer)]).toEqual([400, 'request/invalid'])
  })
  it('hold their source on the shelf', async () => {
    const { source, backdrop } = await client.makeBackdrop(clip)
    const refused = await client.call('POST', '/api/sources/delete', { ids: [source.id] })
    expect([refused.status, codeOf(refused)]).toEqual([409, 'source/in-use'])
    await client.call('DELETE', `/api/backdrops/${backdrop.id}`)
    expect((await client.call('POST', '/api/sources/delete', { ids: [source.id] })).status).toBe(
      204,
    )
  })
})
