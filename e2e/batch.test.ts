import { spawn, type ChildProcess } from 'node:child_process'
import { once } from 'node:events'
import { copyFile, mkdir, mkdtemp, readFile, rm, stat, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeAll, beforeEach, describe, expect, it, vi } from 'vitest'
import type { NewToken } from '../core/api/access'
import { manifestSchema, type Manifest } from '../core/handoff/manifest'
import { inProject } from '../node/projectRoot'
import { TestClient } from '../server/testing/TestClient'
import { startTestServer, type TestServer } from '../server/testing/testServer'
import { CLIPS, telonWith } from './harness'

/*
 * Many deliveries at once: the command line as a script calls it, a server, and a render worker in
 * a process of its own.
 */

const WORKER_TOKEN = `tln_${'w'.repeat(43)}`
const LONG = { timeout: 120_000, interval: 200 }
const SMALL = { width: 320, formats: 'h264', end: 1, budget: 60 }

let server: TestServer
let token: string
let worker: ChildProcess
let root: string
beforeAll(async () => {
  server = await startTestServer({ workerToken: WORKER_TOKEN })
  const client = new TestClient(server)
  await client.makeProject('Vesperline')
  token = (await client.call<NewToken>('POST', '/api/tokens', { name: 'Batch' })).body.secret
  root = await mkdtemp(join(tmpdir(), 'telon-batch-'))
  worker = spawn(process.execPath, [inProject('dist/server/renderWorker.js')], {
    env: {
      ...process.env,
      ...{ TELON_SERVER: server.url, TELON_WORKER_TOKEN: WORKER_TOKEN, TMPDIR: root },
    },
    stdio: 'ignore',
  })
  const workers = () => client.call<unknown[]>('GET', '/api/jobs/workers')
  await vi.waitFor(async () => expect((await workers()).body).toHaveLength(1), LONG)
})
afterAll(async () => {
  worker.kill('SIGTERM')
  await once(worker, 'exit')
  await server.stop()
  await rm(root, { recursive: true, force: true })
})

let folder: string
beforeEach(async () => {
  folder = await mkdtemp(join(root, 'list-'))
  for (const name of ['viaduct-crossing.mp4', 'first-snow.jpg', 'cabin-berth.jpg'])
    await copyFile(join(CLIPS, name), join(folder, name))
})

const ENVIRONMENT = () => ({ TELON_TOKEN: token, TELON_CWD: folder })
const ARGUMENTS = () => ['--server', server.url, '--encoders', 'browser']
async function batch(...more: string[]) {
  const { code, out, err } = await telonWith(ENVIRONMENT(), 'batch', ...more, ...ARGUMENTS())
  return { code, err, outcomes: outcomesOf(out) }
}
const outcomesOf = (out: string) =>
  out
    .split('\n')
    .filter(Boolean)
    .map((line) => JSON.parse(line) as { name: string; state: string; reason?: string })
/** Runs on until it is ended. */
function batchOn(...more: string[]): { child: ChildProcess; out: () => string } {
  const child = spawn(
    process.execPath,
    ['dist/server/telon.js', 'batch', ...more, ...ARGUMENTS()],
    { cwd: inProject('.'), env: { ...process.env, ...ENVIRONMENT() } },
  )
  let out = ''
  child.stdout.on('data', (part: Buffer) => (out += part.toString()))
  return { child, out: () => out }
}
const write = (list: object) =>
  writeFile(
    join(folder, 'list.json'),
    JSON.stringify({ telonBatch: 1, project: 'Vesperline', ...list }),
  )
async function manifestOf(out: string): Promise<Manifest> {
  const manifest = manifestSchema.parse(
    JSON.parse(await readFile(join(folder, out, 'manifest.json'), 'utf8')),
  )
  for (const path of manifest.files)
    expect((await stat(join(folder, out, path))).size).toBeGreaterThan(0)
  return manifest
}
const jobs = () => server.database.query('SELECT key FROM render_jobs')
const made = async (): Promise<number> =>
  (
    await server.database.query<{ count: number }>(
      'SELECT count(*)::integer AS count FROM renditions',
    )
  )[0]!.count

describe('a batch of deliveries', () => {
  it('writes the folder of each, and says which cannot be made and why', async () => {
    await writeFile(join(folder, 'notes.mp4'), 'no clip at all')
    await write({
      options: { ...SMALL, heading: 'For all' },
      deliveries: [
        { files: ['viaduct-crossing.mp4'], out: 'out/clip', options: { heading: 'Of its own' } },
        { files: ['notes.mp4'], out: 'out/notes' },
        // Formats and times are of no use to it.
        { out: 'out/paint', options: { paint: 'linear 120deg #1b2350 #b5563c' } },
      ],
    })
    const { code, outcomes } = await batch('list.json')
    expect(outcomes.map(({ name, state }) => [name, state])).toEqual([
      ['out/notes', 'failed'],
      ['out/paint', 'delivered'],
      ['out/clip', 'delivered'],
    ])
    expect(outcomes[0]!.reason).toMatch(/notes\.mp4/)
    expect(code).toBe(1)
    const manifest = await manifestOf('out/clip')
    expect(manifest.clips.map(({ type }) => type)).toEqual([expect.stringMatching(/avc1/)])
    expect(await readFile(join(folder, 'out/clip/index.html'), 'utf8')).toContain('Of its own')
  })

  it('goes on where it was killed, and leaves alone what is delivered', async () => {
    const options = { width: 320, budget: 40 }
    await write({
      deliveries: [
        { files: ['first-snow.jpg'], out: 'snow', options },
        { files: ['cabin-berth.jpg', 'first-snow.jpg'], out: 'slides', options },
        { files: ['viaduct-crossing.mp4'], out: 'clip', options: { ...SMALL, seam: 'blended' } },
      ],
    })
    const first = batchOn('list.json')
    await expect.poll(first.out, LONG).toMatch(/"state":"delivered"/)
    first.child.kill('SIGKILL')
    await once(first.child, 'exit')
    const done = outcomesOf(first.out()).map(({ name }) => name)
    const second = await batch('list.json')
    expect(second.code).toBe(0)
    for (const { name, state } of second.outcomes)
      expect([name, state]).toEqual([name, done.includes(name) ? 'unchanged' : 'delivered'])
    for (const out of ['snow', 'slides', 'clip']) await manifestOf(out)
    const before = await made()
    const third = await batch('list.json')
    expect(third.outcomes.map(({ state }) => state)).toEqual(Array(3).fill('unchanged'))
    expect([await made(), await jobs()]).toEqual([before, []])
  })

  it('returns at once when it is told to, and has the folders when it is called again', async () => {
    await write({
      deliveries: [
        { files: ['viaduct-crossing.mp4'], out: 'later', options: { ...SMALL, end: 2 } },
      ],
    })
    const first = await batch('list.json', '--no-wait')
    expect([first.code, first.outcomes]).toEqual([0, [{ name: 'later', state: 'queued' }]])
    await expect.poll(async () => (await jobs()).length, LONG).toBe(0)
    const second = await batch('list.json')
    expect(second.outcomes).toMatchObject([{ name: 'later', state: 'delivered' }])
    await manifestOf('later')
  })

  it('delivers what is dropped into a folder, until it is ended', async () => {
    await write({ options: SMALL })
    const drop = join(folder, 'drop')
    await mkdir(drop)
    const watching = batchOn('list.json', '--watch', 'drop', '--out', 'delivered')
    const states = () => outcomesOf(watching.out()).map(({ name, state }) => `${name} ${state}`)
    await copyFile(join(CLIPS, 'harbour-lights.mp4'), join(drop, 'harbour.mp4'))
    await writeFile(join(drop, 'notes.txt'), 'not for delivery')
    await expect.poll(states, LONG).toEqual(['harbour-mp4 delivered'])
    // Another one, which is no clip.
    await writeFile(join(drop, 'broken.mp4'), 'no clip at all')
    await expect.poll(states, LONG).toEqual(['harbour-mp4 delivered', 'broken-mp4 failed'])
    watching.child.kill('SIGTERM')
    await once(watching.child, 'exit')
    expect((await manifestOf('delivered/harbour-mp4')).clips).toHaveLength(1)
  })

  it('says what is wrong with a list, a token or a server, and asks for nothing', async () => {
    const sayings: [object, RegExp][] = [
      [
        { deliveries: [{ files: ['a.mp4'], out: 'a', options: { speed: 9 } }] },
        /list\.json, a: .*speed/,
      ],
      [{ deliveries: [{ files: ['a.mp4'], out: 'a', options: { nothing: 1 } }] }, /nothing/],
      [{ deliveries: [{ files: 'a.mp4', out: 'a' }] }, /deliveries\.0\.files/],
      [{ options: { width: 'wide' } }, /list\.json, options: .*width/],
      [{ telonBatch: 2, deliveries: [] }, /telonBatch/],
      [{ deliveries: [] }, /no deliveries/],
      [
        { deliveries: [{ out: 'a', options: { paint: 'none' } }, { out: './a' }] },
        /two deliveries are written to \.\/a/,
      ],
    ]
    for (const [list, words] of sayings) {
      await write(list)
      const { code, err } = await batch('list.json')
      expect([code, err]).toEqual([2, expect.stringMatching(words)])
    }
    await write({ deliveries: [{ files: ['viaduct-crossing.mp4'], out: 'a' }] })
    const wrong = await telonWith(
      { ...ENVIRONMENT(), TELON_TOKEN: `tln_${'x'.repeat(43)}` },
      ...['batch', 'list.json', ...ARGUMENTS()],
    )
    expect([wrong.code, wrong.err]).toEqual([1, expect.stringMatching(/token/i)])
    const away = await telonWith(
      ENVIRONMENT(),
      'batch',
      'list.json',
      '--server',
      'http://127.0.0.1:9',
    )
    expect([away.code, away.err]).toEqual([1, expect.stringMatching(/Nothing answers/)])
    expect(await jobs()).toEqual([])
  })
})
