import { DOCUMENT_VERSION } from '../core/backdrop/BackdropDocument'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { ProjectSettings } from '../core/api/settings'
import { createPaint } from '../core/kinds/paint/Paint'
import type { BackdropRecord, Project } from '../core/api/wire'
import { readConfig } from './config'
import { MIGRATIONS, migrator, openDatabase } from './store/database'
import { readClip } from './testing/clip'
import { codeOf, TestClient } from './testing/TestClient'
import { makeDatabase, startTestServer, type TestServer } from './testing/testServer'

let server: TestServer
let client: TestClient
let clip: Buffer
beforeAll(async () => {
  server = await startTestServer()
  client = new TestClient(server)
  clip = await readClip()
})
afterAll(() => server.stop())

const UNKNOWN = '7b1f8c1e-0000-4000-8000-000000000009'

describe('the service', () => {
  it('tells that it is well, and which version it is', async () => {
    const answer = await client.call('GET', '/api/health')
    expect([answer.status, answer.body]).toEqual([200, { ok: true }])
    expect(answer.headers.get('telon-version')).toMatch(
      new RegExp(`^${DOCUMENT_VERSION}\\.([0-9a-f]{12}|dev)$`),
    )
  })
  it('describes its routes as OpenAPI', async () => {
    interface Operation {
      readonly responses: object
      readonly parameters: { name: string; in: string }[]
    }
    const { body } = await client.call<{
      openapi: string
      paths: Record<string, Record<string, Operation>>
    }>('GET', '/api/openapi.json')
    expect(body.openapi).toBe('3.1.0')
    expect(body.paths['/api/projects']!['post']!.responses).toHaveProperty('200')
    expect(Object.keys(body.paths)).toEqual(
      expect.arrayContaining([
        '/api/backdrops/{id}',
        '/media/{sha256}',
        '/api/renditions',
        '/api/renditions/{id}',
        '/handoff/{id}/zip',
        '/api/uploads',
        '/api/uploads/{id}',
        '/api/space',
        '/api/session',
      ]),
    )
    const { parameters } = body.paths['/api/projects/{id}/sources']!['get']!
    expect(parameters.filter((each) => each.in === 'query').map((each) => each.name)).toEqual(
      expect.arrayContaining([
        'search',
        'kind',
        'liveliness',
        'findings',
        'sort',
        'offset',
        'limit',
      ]),
    )
  })
  it.each([
    ['GET', '/api/nothing', undefined, 404, 'route/not-found'],
    ['GET', '/api/projects/no-id', undefined, 404, 'route/not-found'],
    ['GET', `/api/projects/${UNKNOWN}`, undefined, 404, 'project/not-found'],
    ['GET', `/api/backdrops/${UNKNOWN}/revisions`, undefined, 404, 'backdrop/not-found'],
    ['GET', `/api/backdrops/${UNKNOWN}/revisions/1`, undefined, 404, 'revision/not-found'],
    ['GET', `/api/backdrops/${UNKNOWN}/revisions/-1`, undefined, 404, 'route/not-found'],
    ['POST', '/api/projects', { name: '  ' }, 400, 'request/invalid'],
    ['POST', '/api/projects', {}, 400, 'request/invalid'],
    ['POST', '/api/projects', '{', 400, 'request/invalid'],
    ['POST', '/api/renditions/lookup', { keys: 'x' }, 400, 'request/invalid'],
    ['PATCH', `/api/spots/${UNKNOWN}`, {}, 404, 'spot/not-found'],
    ['DELETE', `/api/tokens/${UNKNOWN}`, undefined, 404, 'access/token-not-found'],
  ] as const)(
    'answers %s %s %j by %i with the code %s',
    async (method, path, body, status, code) => {
      const answer = await client.call(method, path, body)
      expect([answer.status, codeOf(answer)]).toEqual([status, code])
    },
  )
  it('sends a content policy without inline scripts', async () => {
    const policy = (await client.fetch('/')).headers.get('content-security-policy') ?? ''
    expect(policy).toContain("default-src 'self'")
    expect(policy).not.toMatch(/script-src[^;]*unsafe/)
  })
  it.each(['/../package.json', '/%2e%2e/%2e%2e/package.json', '/assets/../../../package.json'])(
    'never leaves its folder for %s',
    async (path) => expect(await (await client.fetch(path)).text()).not.toContain('"dependencies"'),
  )
  it('answers views and files of the studio also to HEAD and to those who have them already', async () => {
    for (const path of ['/', '/projects/x/shelf', '/icon.svg']) {
      const whole = await client.fetch(path)
      const length = (await whole.arrayBuffer()).byteLength
      const head = await client.fetch(path, { method: 'HEAD' })
      expect([head.status, Number(head.headers.get('content-length'))]).toEqual([200, length])
      const again = await client.fetch(path, {
        headers: { 'If-None-Match': whole.headers.get('etag')! },
      })
      expect([again.status, await again.text()]).toEqual([304, ''])
    }
  })
})

describe('settings in the environment', () => {
  const read = (environment: Record<string, string>) =>
    readConfig({ DATABASE_URL: 'postgres://x', ...environment })
  it('have defaults', () =>
    expect(read({})).toEqual({
      port: 4600,
      host: '127.0.0.1',
      databaseUrl: 'postgres://x',
      maxUploadBytes: 1_000_000_000,
      logLevel: 'warn',
      hosts: [],
      password: null,
      behindProxy: false,
      tls: null,
      uploadOrigins: [],
      workerToken: null,
    }))
  it('name every wrong variable at once', () =>
    expect(() => readConfig({ PORT: '99999', DATABASE_URL: 'mysql://x' })).toThrow(
      /PORT.*[\s\S]*DATABASE_URL/,
    ))
  it.each([
    [{ HOST: '0.0.0.0' }, /everyone who reaches this machine.*TELON_PASSWORD/],
    [{ HOST: '192.168.1.4' }, /TELON_BEHIND_PROXY=1/],
    [{ TELON_PASSWORD: 'short' }, /8 characters/],
    [{ TELON_TLS_CERT: '/cert.pem' }, /belong together/],
    [{ TELON_UPLOAD_ORIGINS: 'https://cms.example/path' }, /is no origin/],
  ])('refuse %j and say why', (environment, reason) =>
    expect(() => read(environment)).toThrow(reason),
  )
  it.each([
    [
      { HOST: '0.0.0.0', TELON_PASSWORD: 'a long password' },
      { hosts: [], password: 'a long password' },
    ],
    [
      { HOST: '0.0.0.0', TELON_BEHIND_PROXY: '1', TELON_HOSTS: 'telon.example, studio' },
      { hosts: ['telon.example', 'studio'], behindProxy: true },
    ],
    [{ HOST: '192.168.1.4', TELON_PASSWORD: 'a long password' }, { hosts: ['192.168.1.4'] }],
  ])('take %j', (environment, expected) => expect(read(environment)).toMatchObject(expected))
})

describe('migrations', () => {
  it.each(MIGRATIONS.map(({ name }, index) => [name, index] as const))(
    '%s goes up, down and up again',
    async (_, index) => {
      const made = await makeDatabase()
      const database = await openDatabase(made.url)
      try {
        const move = migrator(database)
        await move.up({ to: MIGRATIONS[index]!.name })
        await move.down({ to: MIGRATIONS[index]!.name })
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
    },
  )
})

describe('projects', () => {
  it('come with a page and a spot, can be renamed, and go with all that is theirs', async () => {
    const { project, backdrop } = await client.makeBackdrop(clip)
    expect(project.pages[0]!.spots[0]).toMatchObject({
      name: 'Hero',
      height: { unit: 'svh', value: 100 },
    })
    expect(
      (await client.call('PATCH', `/api/projects/${project.id}`, { name: 'Night line' })).status,
    ).toBe(204)
    const { body: list } = await client.call<
      { id: string; name: string; latestBackdropId: string }[]
    >('GET', '/api/projects')
    expect(list.find((each) => each.id === project.id)).toMatchObject({
      name: 'Night line',
      pages: 1,
      sources: 1,
      backdrops: 1,
      latestBackdropId: backdrop.id,
    })
    expect((await client.call('DELETE', `/api/projects/${project.id}`)).status).toBe(204)
    expect(codeOf(await client.call('GET', `/api/backdrops/${backdrop.id}`))).toBe(
      'backdrop/not-found',
    )
    expect(await client.shelfOf(project.id)).toEqual([])
  })
  it('hold pages and spots that can be added, changed and deleted', async () => {
    const project = await client.makeProject()
    const page = (
      await client.call<{ id: string }>('POST', `/api/projects/${project.id}/pages`, {
        name: 'Routes',
      })
    ).body
    const draft = { name: 'Band', scope: 'region', height: { unit: 'px', value: 420 } }
    const spot = (await client.call<{ id: string }>('POST', `/api/pages/${page.id}/spots`, draft))
      .body
    await client.call('PATCH', `/api/spots/${spot.id}`, { height: { unit: 'svh', value: 60 } })
    const read = (await client.call<Project>('GET', `/api/projects/${project.id}`)).body
    expect(read.pages[1]!.spots[0]).toMatchObject({
      name: 'Band',
      height: { unit: 'svh', value: 60 },
    })
    expect((await client.call('DELETE', `/api/spots/${spot.id}`)).status).toBe(204)
    expect((await client.call('DELETE', `/api/pages/${page.id}`)).status).toBe(204)
    expect(codeOf(await client.call('DELETE', `/api/pages/${page.id}`))).toBe('page/not-found')
  })
})

describe('what a project decides', () => {
  it('is Telon’s own at first, is kept, and new backdrops begin with it', async () => {
    const { project, source } = await client.makeBackdrop(clip)
    const path = `/api/projects/${project.id}/settings`
    const { body: first } = await client.call<ProjectSettings>('GET', path)
    expect(first).toMatchObject({
      budgets: { phone: 1_000_000, laptop: 2_500_000, wide: 4_000_000 },
      breakpoints: { phone: 640, laptop: 1440 },
    })
    expect(first.support.formats.length).toBeGreaterThan(2)
    const own = {
      budgets: { phone: 600_000, laptop: 2_000_000, wide: 3_000_000 },
      breakpoints: { phone: 700, laptop: 1300 },
      screens: { ...first.screens, wide: { width: 1600, height: 900, density: 1 } },
      support: { ...first.support, date: '2027-01-31' },
    }
    expect((await client.call('PATCH', path, own)).body).toEqual({ ...first, ...own })
    expect((await client.call('GET', path)).body).toEqual({ ...first, ...own })
    const spot = project.pages[0]!.spots[0]!.id
    const { body: made } = await client.call<BackdropRecord>(
      'POST',
      `/api/spots/${spot}/backdrops`,
      { name: 'Second', sourceId: source.id },
    )
    expect([
      made.document.weight.renditions.laptop.budgetBytes,
      made.document.weight.breakpoints,
    ]).toEqual([2_000_000, { phone: 700, laptop: 1300 }])
  })
  it.each([
    [{ budgets: { phone: 5, laptop: 2_000_000, wide: 3_000_000 } }],
    [{ breakpoints: { phone: 1400, laptop: 900 } }],
    [{ screens: { phone: { width: 10, height: 900, density: 1 } } }],
    [{ support: { date: 'yesterday' } }],
  ])('is refused where it makes no sense: %j', async (wrong) => {
    const project = await client.makeProject()
    const path = `/api/projects/${project.id}/settings`
    expect((await client.call('PATCH', path, wrong)).status).toBe(400)
    expect((await client.call<ProjectSettings>('GET', path)).body.breakpoints).toEqual({
      phone: 640,
      laptop: 1440,
    })
  })
  it('keeps what others change at the same moment, and saves paints by their names', async () => {
    const path = `/api/projects/${(await client.makeProject()).id}/settings`
    const budgets = { phone: 600_000, laptop: 2_000_000, wide: 3_000_000 }
    const saved = (name: string, color = '#102030') => ({
      savePaint: { name, paint: { ...createPaint(), color } },
    })
    const changes = [{ budgets }, saved('Dusk'), saved('Dawn'), { deletePaint: 'None' }]
    await Promise.all(changes.map((change) => client.call('PATCH', path, change)))
    const { body } = await client.call<ProjectSettings>('PATCH', path, saved('Dusk', '#405060'))
    expect(body.budgets).toEqual(budgets)
    expect(body.paints.map(({ name }) => name)).toEqual(['Dawn', 'Dusk'])
    expect(body.paints[1]!.paint.color).toBe('#405060')
    const gone = await client.call<ProjectSettings>('PATCH', path, { deletePaint: 'Dawn' })
    expect(gone.body.paints).toHaveLength(1)
  })
  it('keeps 24 paints at most, and says so', async () => {
    const path = `/api/projects/${(await client.makeProject()).id}/settings`
    const save = (name: string) =>
      client.call('PATCH', path, { savePaint: { name, paint: createPaint() } })
    for (let number = 1; number <= 24; number++)
      expect((await save(`Paint ${number}`)).status).toBe(200)
    expect(codeOf(await save('One more'))).toBe('settings/too-many-paints')
    expect((await save('Paint 3')).status).toBe(200)
  })
  it('keeps a brand: an import is taken whole or not at all, and locks stay', async () => {
    const path = `/api/projects/${(await client.makeProject()).id}/settings`
    const change = (fields: object) => client.call<ProjectSettings>('PATCH', path, fields)
    const color = (name: string, hex = '#102030') => ({ name, color: hex, isLocked: false })
    const typefaces = [{ name: 'body', family: 'Fen Sans, sans-serif', weight: 400 }]
    await change({ saveBrand: { colors: [color('night'), color('ember', '#f2b872')], typefaces } })
    await change({ lockColor: { name: 'night', isLocked: true } })
    const { body } = await change({
      saveBrand: { colors: [color('night', '#000033')], typefaces: [] },
    })
    expect(body.colors).toEqual([
      { name: 'night', color: '#000033', isLocked: true },
      { name: 'ember', color: '#f2b872', isLocked: false },
    ])
    const many = Array.from({ length: 63 }, (_, at) => color(`color ${at}`))
    expect(codeOf(await change({ saveBrand: { colors: many, typefaces: [] } }))).toBe(
      'settings/too-many-colors',
    )
    const more = Array.from({ length: 200 }, (_, at) => color(`color ${at}`))
    expect(codeOf(await change({ saveBrand: { colors: more, typefaces: [] } }))).toBe(
      'settings/too-many-colors',
    )
    const css = [{ name: 'x', family: 'x; } body { color: red', weight: null }]
    expect((await change({ saveBrand: { colors: [], typefaces: css } })).status).toBe(400)
    const gone = await change({ deleteColor: 'ember', deleteTypeface: 'body' })
    expect(gone.body.colors.map(({ name }) => name)).toEqual(['night'])
    expect(gone.body.typefaces).toEqual([])
  })
  it('is unknown of a project that is not there', async () =>
    expect(codeOf(await client.call('GET', `/api/projects/${UNKNOWN}/settings`))).toBe(
      'project/not-found',
    ))
})
