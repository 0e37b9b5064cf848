import { request as httpRequest } from 'node:http'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { ApiToken, NewToken, Session } from '../core/api/access'
import { hostNameOf } from './access/gate'
import { readClip } from './testing/clip'
import { codeOf, TestClient } from './testing/TestClient'
import { startTestServer, type TestServer } from './testing/testServer'

/** A request with exactly these headers: fetch would write Host and Origin by itself. */
function raw(
  url: string,
  method: string,
  headers: Record<string, string>,
  body = '',
): Promise<{ status: number; text: string }> {
  return new Promise((resolve, reject) => {
    const sent = httpRequest(url, { method, headers, setHost: false }, (answer) => {
      let text = ''
      answer.on('data', (part: Buffer) => (text += part.toString()))
      answer.on('end', () => resolve({ status: answer.statusCode ?? 0, text }))
    })
    sent.on('error', reject)
    sent.end(body)
  })
}
const JSON_TYPE = { 'Content-Type': 'application/json' }

describe('the front door without a password', () => {
  let server: TestServer
  let client: TestClient
  let host: string
  beforeAll(async () => {
    server = await startTestServer({
      hosts: ['telon.example'],
      uploadOrigins: ['https://cms.example'],
    })
    client = new TestClient(server)
    host = new URL(server.url).host
  })
  afterAll(() => server.stop())
  const port = (): string => host.split(':')[1]!
  const create = (headers: Record<string, string>) =>
    raw(`${server.url}/api/projects`, 'POST', { ...JSON_TYPE, ...headers }, '{"name":"Created"}')

  it.each([
    'evil.example',
    'localhost.evil.example',
    '127.0.0.1.evil.example',
    '',
    'user@localhost',
    'a b',
    '[::2]',
  ])(
    'is closed under the name %j: a page of that name could be bound to this address',
    async (name) => {
      const answer = await raw(
        `${server.url}/api/projects`,
        'GET',
        name === '' ? {} : { Host: `${name}` },
      )
      // Node itself refuses requests without a Host.
      expect([400, 421]).toContain(answer.status)
      expect(answer.text).not.toContain('"pages"')
    },
  )
  it.each(['localhost', '127.0.0.1', '127.3.2.1', '[::1]', 'telon.example', 'TELON.example'])(
    'is open under the name %s',
    async (name) => {
      const answer = await raw(`${server.url}/api/projects`, 'GET', { Host: `${name}:${port()}` })
      expect(answer.status).toBe(200)
    },
  )
  it('takes writes from its own origin only', async () => {
    expect((await create({ Host: host, Origin: `http://${host}` })).status).toBe(200)
    expect((await create({ Host: host, Origin: `https://${host}` })).status).toBe(200)
    for (const origin of [
      'http://evil.example',
      'null',
      `http://localhost:1`,
      'file://',
      `http://${host}.evil.example`,
      'https://cms.example',
    ]) {
      const answer = await create({ Host: host, Origin: origin })
      expect([origin, answer.status]).toEqual([origin, 403])
    }
  })
  it('takes writes without an origin with an API token only', async () => {
    expect((await create({ Host: host })).status).toBe(403)
    expect(
      (await create({ Host: host, Authorization: `Bearer tln_${'x'.repeat(43)}` })).status,
    ).toBe(401)
    const { body: token } = await client.call<NewToken>('POST', '/api/tokens', {
      name: 'Build machine',
    })
    const header = { Authorization: `Bearer ${token.secret}` }
    expect((await create({ Host: host, ...header })).status).toBe(200)
    const { body: list } = await client.call<ApiToken[]>('GET', '/api/tokens')
    expect(list.find((each) => each.id === token.id)).toMatchObject({
      name: 'Build machine',
      usedAt: expect.any(String) as string,
    })
    expect(JSON.stringify(list)).not.toContain(token.secret)
    expect((await client.call('DELETE', `/api/tokens/${token.id}`)).status).toBe(204)
    expect((await create({ Host: host, ...header })).status).toBe(401)
  })
  it('lets a render worker’s token render, and no more', async () => {
    const { body: token } = await client.call<NewToken>('POST', '/api/tokens', {
      name: 'Machine in the cellar',
      use: 'worker',
    })
    const header = { Authorization: `Bearer ${token.secret}` }
    const hello = { id: crypto.randomUUID(), name: 'cellar', version: 'another', encoders: [] }
    const greeted = (): ReturnType<TestClient['call']> =>
      client.call('POST', '/api/jobs/hello', hello, header)
    // It came in: only its version is refused.
    expect(codeOf(await greeted())).toBe('work/version')
    for (const [method, path] of [
      ['GET', '/api/projects'],
      ['POST', '/api/projects'],
      ['GET', '/api/tokens'],
      ['POST', '/api/tokens'],
      ['POST', '/api/jobs/cancel'],
    ] as const) {
      const answer = await client.call(
        method,
        path,
        method === 'POST' ? { name: 'x' } : undefined,
        header,
      )
      expect([path, codeOf(answer)]).toEqual([path, 'access/worker'])
    }
    const { body: list } = await client.call<ApiToken[]>('GET', '/api/tokens')
    expect(list.find((each) => each.id === token.id)?.use).toBe('worker')
    expect(list.every((each) => each.id === token.id || each.use === 'program')).toBe(true)
    await client.call('DELETE', `/api/tokens/${token.id}`)
    expect(codeOf(await greeted())).toBe('access/token')
  })
  it('takes JSON as JSON only: a form of another page could send text', async () => {
    for (const type of [
      'text/plain',
      'application/x-www-form-urlencoded',
      'multipart/form-data',
      '',
    ]) {
      const answer = await raw(
        `${server.url}/api/projects`,
        'POST',
        { Host: host, Origin: `http://${host}`, ...(type ? { 'Content-Type': type } : {}) },
        '{"name":"x"}',
      )
      expect([type, answer.status]).toEqual([type, 415])
    }
  })
  it('lets a configured origin upload with a token, and nothing else', async () => {
    const { body: token } = await client.call<NewToken>('POST', '/api/tokens', { name: 'Site' })
    const project = await client.makeProject()
    const metadata = `filename ${Buffer.from('x.mp4').toString('base64')},projectId ${Buffer.from(project.id).toString('base64')}`
    const from = (origin: string, secret: string) =>
      raw(`${server.url}/api/uploads`, 'POST', {
        Host: host,
        Origin: origin,
        'Tus-Resumable': '1.0.0',
        'Upload-Length': '5',
        'Upload-Metadata': metadata,
        ...(secret ? { Authorization: `Bearer ${secret}` } : {}),
      })
    expect((await from('https://cms.example', token.secret)).status).toBe(201)
    expect((await from('https://cms.example', '')).status).toBe(403)
    expect((await from('https://other.example', token.secret)).status).toBe(403)
    expect(
      (
        await create({
          Host: host,
          Origin: 'https://cms.example',
          Authorization: `Bearer ${token.secret}`,
        })
      ).status,
    ).toBe(403)
  })
  it('asks no one to sign in', async () =>
    expect((await client.call<Session>('GET', '/api/session')).body).toEqual({
      required: false,
      signedIn: true,
    }))
})

describe('the front door with a password', () => {
  let server: TestServer
  let client: TestClient
  const PASSWORD = 'curtains & night trains'
  beforeAll(async () => {
    server = await startTestServer({ password: PASSWORD })
    client = new TestClient(server)
  })
  afterAll(() => server.stop())
  const signIn = (password: string) => client.call('POST', '/api/session', { password })
  const cookieOf = (answer: { headers: Headers }): string =>
    answer.headers.get('set-cookie')!.split(';')[0]!

  it('lets no one read or write without signing in, and shows the studio so that one can', async () => {
    for (const path of [
      '/api/projects',
      '/api/openapi.json',
      `/media/${'a'.repeat(64)}`,
      '/handoff/x/zip',
      '/api/tokens',
      '/api/space',
    ]) {
      const answer = await client.call('GET', path)
      expect([path, answer.status, codeOf(answer)]).toEqual([path, 401, 'access/sign-in'])
    }
    expect((await client.call('POST', '/api/projects', { name: 'x' })).status).toBe(401)
    expect(
      (await client.beginUpload(5, 'x.mp4', '7b1f8c1e-0000-4000-8000-000000000009')).status,
    ).toBe(401)
    for (const path of ['/', '/projects/x', '/api/health', '/api/session'])
      expect([path, (await client.fetch(path)).status]).toEqual([path, 200])
  })
  it('opens with the password, by a cookie that no script reads, until one signs out', async () => {
    const wrong = await signIn('curtain')
    expect([wrong.status, codeOf(wrong)]).toEqual([401, 'access/wrong-password'])
    const right = await signIn(PASSWORD)
    expect(right.status).toBe(204)
    expect(right.headers.get('set-cookie')).toMatch(/httponly/i)
    expect(right.headers.get('set-cookie')).toMatch(/samesite=strict/i)
    const Cookie = cookieOf(right)
    expect((await client.call('GET', '/api/projects', undefined, { Cookie })).status).toBe(200)
    expect((await client.call<Session>('GET', '/api/session', undefined, { Cookie })).body).toEqual(
      { required: true, signedIn: true },
    )
    const kept = await server.database.query<{ hash: string }>('SELECT hash FROM sessions')
    expect(kept.some((row) => Cookie.includes(row.hash))).toBe(false)
    await client.call('DELETE', '/api/session', undefined, { Cookie })
    expect((await client.call('GET', '/api/projects', undefined, { Cookie })).status).toBe(401)
  })
  it('does not take a session that has expired', async () => {
    const Cookie = cookieOf(await signIn(PASSWORD))
    await server.database.query(
      `UPDATE sessions SET expires_at = now() - interval '1 s' RETURNING hash`,
    )
    expect((await client.call('GET', '/api/projects', undefined, { Cookie })).status).toBe(401)
  })
  it('lets programs in by token', async () => {
    const Cookie = cookieOf(await signIn(PASSWORD))
    const { body: token } = await client.call<NewToken>(
      'POST',
      '/api/tokens',
      { name: 'x' },
      { Cookie },
    )
    const header = { Authorization: `Bearer ${token.secret}` }
    expect((await client.call('GET', '/api/projects', undefined, header)).status).toBe(200)
    expect(
      (await client.call('GET', '/api/projects', undefined, { Authorization: 'Basic eDp4' }))
        .status,
    ).toBe(401)
  })
  it('closes for a while after many wrong tries', async () => {
    const answers: number[] = []
    for (let attempt = 0; attempt < 12; attempt++) answers.push((await signIn('no')).status)
    expect(answers.slice(-1)).toEqual([429])
    expect((await signIn(PASSWORD)).status).toBe(429)
  })
})

describe('a password', () => {
  it('that was changed ends the sessions of the one before; one that stays keeps them; a hash serves as well', async () => {
    const first = await startTestServer({ password: 'the first password' })
    const session = async (server: TestServer, password: string): Promise<string> => {
      const answer = await new TestClient(server).call('POST', '/api/session', { password })
      return answer.headers.get('set-cookie')!.split(';')[0]!
    }
    const works = async (server: TestServer, Cookie: string): Promise<number> =>
      (await new TestClient(server).call('GET', '/api/projects', undefined, { Cookie })).status
    const Cookie = await session(first, 'the first password')
    const again = await startTestServer({
      password: 'the first password',
      databaseUrl: first.databaseUrl,
    })
    expect(await works(again, Cookie)).toBe(200)
    await again.stop()
    const { hash } = await import('@node-rs/argon2')
    const other = await startTestServer({
      password: await hash('the second password'),
      databaseUrl: first.databaseUrl,
    })
    expect(await works(other, Cookie)).toBe(401)
    expect(await works(other, await session(other, 'the second password'))).toBe(200)
    await other.stop()
    await first.stop()
  })
})

describe('the name in a Host field', () => {
  it.each([
    ['localhost:4600', 'localhost'],
    ['[::1]:80', '[::1]'],
    ['A.example', 'a.example'],
    ['', null],
    ['a/b', null],
    ['a@b', null],
    ['a?b', null],
    ['a b', null],
  ])('of %j is %j', (field, name) => expect(hostNameOf(field)).toBe(name))
})

describe('media behind a password', () => {
  it('are read with the session only', async () => {
    const server = await startTestServer({ password: 'a long password' })
    const client = new TestClient(server)
    const blob = await server.stores.blobs.put(await readClip())
    expect((await client.fetch(`/media/${blob.sha256}`)).status).toBe(401)
    const Cookie = (
      await client.call('POST', '/api/session', { password: 'a long password' })
    ).headers
      .get('set-cookie')!
      .split(';')[0]!
    expect((await client.fetch(`/media/${blob.sha256}`, { headers: { Cookie } })).status).toBe(200)
    await server.stop()
  })
})
