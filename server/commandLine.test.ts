import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { NewToken } from '../core/api/access'
import type { Project } from '../core/api/wire'
import { CLIPS, telon } from '../e2e/harness'
import { TestClient } from './testing/TestClient'
import { startTestServer, type TestServer } from './testing/testServer'

let server: TestServer
let client: TestClient
let project: Project
let token: string
beforeAll(async () => {
  server = await startTestServer()
  client = new TestClient(server)
  project = await client.makeProject('Night line')
  token = (await client.call<NewToken>('POST', '/api/tokens', { name: 'Command line' })).body.secret
})
afterAll(() => server.stop())

const upload = (...args: string[]) => telon('upload', '--server', server.url, ...args)
const CLIP = join(CLIPS, 'viaduct-crossing.mp4')

describe('telon upload', () => {
  it('puts files on the shelf of a project, by its name or its id, once', async () => {
    const first = await upload(CLIP, '--project', 'Night line', '--token', token)
    expect([first.code, first.err]).toEqual([0, 'viaduct-crossing.mp4: on the shelf\n'])
    const again = await upload(CLIP, '--project', project.id, '--token', token)
    expect(again.err).toContain('is on the shelf already, as viaduct-crossing.mp4')
    expect((await client.shelfOf(project.id)).map((source) => source.name)).toEqual([
      'viaduct-crossing.mp4',
    ])
  })
  it.each([
    [
      'a token that is unknown',
      [CLIP, '--project', 'Night line', '--token', 'tln_x'],
      1,
      /token is not known/,
    ],
    [
      'a project that is unknown',
      [CLIP, '--project', 'Day line', '--token'],
      2,
      /no project called Day line. There are: Night line/,
    ],
    [
      'a file that is not there',
      ['none.mp4', '--project', 'Night line', '--token'],
      2,
      /is no file/,
    ],
    [
      'a file that cannot be used',
      ['package.json', '--project', 'Night line', '--token'],
      1,
      /neither a clip nor an image/,
    ],
    ['no token', [CLIP, '--project', 'Night line'], 2, /--token/],
  ])('says what is wrong with %s', async (_, args, code, sentence) => {
    const answer = await upload(...(args.at(-1) === '--token' ? [...args, token] : args))
    expect([answer.code, answer.err]).toEqual([code, expect.stringMatching(sentence)])
  })
  it('says where nothing answers', async () => {
    const answer = await telon(
      'upload',
      CLIP,
      '--server',
      'http://127.0.0.1:9',
      '--project',
      'x',
      '--token',
      token,
    )
    expect([answer.code, answer.err]).toEqual([1, expect.stringMatching(/Nothing answers at/)])
  })
})
