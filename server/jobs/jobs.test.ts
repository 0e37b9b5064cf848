import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest'
import type { BackdropRecord, Project } from '../../core/api/wire'
import type { SeenWorker, TakenJob, WorkJob, WorkOverview } from '../../core/api/work'
import { proofRecipe, recipeKey, type ProbeRecipe } from '../../core/backdrop/recipe'
import { inventBackdrop, knownAs, PROBE_FACTS } from '../../core/testing/samples'
import { codeOf, TestClient } from '../testing/TestClient'
import { readClip } from '../testing/clip'
import { startTestServer, type TestServer } from '../testing/testServer'
import { versionOf } from '../../node/version'
import { fileURLToPath } from 'node:url'

/*
 * Render workers as the server sees them: real queue, real database, workers played by requests.
 * The files are probes, which are small.
 */

const X264 = 'x264 0.164.3095'
const SVT = 'svt-av1 1.4.1'
const TOKEN = `tln_${'w'.repeat(43)}`

let server: TestServer
let client: TestClient
let version: string
beforeAll(async () => {
  server = await startTestServer({ workerToken: TOKEN })
  client = new TestClient(server)
  version = await versionOf(fileURLToPath(new URL('../../dist', import.meta.url)))
})
afterAll(() => server.stop())
beforeEach(async () => {
  const { body } = await look()
  await client.call('POST', '/api/jobs/cancel', { keys: body.map(({ key }) => key) })
  await server.database.query('DELETE FROM render_workers RETURNING id')
  await server.database.query('DELETE FROM renditions RETURNING key')
})

const PICTURE = { sha256: 'a'.repeat(64), width: 1280, height: 720 }
const SEQUENCE = proofRecipe(inventBackdrop(), knownAs(PICTURE))!.sequence

/** A recipe of its own for each width. */
const recipe = (width: number, encoder: string | null = X264): ProbeRecipe => ({
  kind: 'probe',
  sequence: SEQUENCE,
  copyBlur: null,
  width,
  height: 360,
  family: 'h264',
  noiseReduction: 0,
  encoder,
})

const request = (recipes: readonly ProbeRecipe[], priority = 5) =>
  client.call<WorkJob[]>('POST', '/api/jobs/request', { recipes, priority })
async function look(widths: readonly number[] = [...ASKED]) {
  const keys = widths.flatMap((width) =>
    [X264, SVT, null].map((each) => recipeKey(recipe(width, each))),
  )
  return client.call<WorkJob[]>('POST', '/api/jobs/look', { keys })
}
const ASKED = [640, 642, 644, 646, 648, 650] as const

const overview = async (): Promise<WorkOverview> =>
  (await client.call<WorkOverview>('GET', '/api/jobs')).body

/** A worker says hello; gives its id. */
async function hello(encoders: readonly string[] = [X264], id = crypto.randomUUID()) {
  const facts = { id, name: 'studio-2', version, encoders }
  expect(await client.call('POST', '/api/jobs/hello', facts)).toMatchObject({ status: 204 })
  return id
}
const take = async (workerId: string): Promise<TakenJob | null> => server.work.take(workerId)
/** As a worker that has just come. */
const takeAnew = async () => take(await hello([X264, SVT]))
const progress = (workerId: string, jobId: string, done = 0.5) =>
  client.call<{ goOn: boolean }>('POST', '/api/jobs/progress', {
    ...{ workerId, jobId, step: 'pass', pass: 1, done, secondsLeft: 12 },
  })
const told = (path: 'finished' | 'failed', body: object) =>
  client.call('POST', `/api/jobs/${path}`, body)

async function store(made: ProbeRecipe): Promise<void> {
  const bytes = new TextEncoder().encode(JSON.stringify(PROBE_FACTS))
  const { body } = await client.call<{ id: string }>('POST', '/api/renditions', {
    ...{ recipe: made, facts: PROBE_FACTS, bytes: bytes.byteLength },
  })
  const sent = await client.fetch(`/api/renditions/${body.id}`, { method: 'PUT', body: bytes })
  expect(sent.status).toBe(200)
}
const silence = (workerId: string) =>
  server.database.query(
    `UPDATE render_workers SET seen_at = now() - interval '21 seconds' WHERE id = $1 RETURNING id`,
    [workerId],
  )

describe('a file that is asked for', () => {
  it('is one job, whoever asks and however often', async () => {
    const both = await Promise.all([request([recipe(640)]), request([recipe(640)])])
    expect(both.map(({ body }) => body)).toEqual([
      [expect.objectContaining({ state: 'waiting', done: 0 })],
      [expect.objectContaining({ state: 'waiting', done: 0 })],
    ])
    const worker = await hello()
    expect(await take(worker)).not.toBeNull()
    expect(await takeAnew()).toBeNull()
    expect((await request([recipe(640)])).body[0]).toMatchObject({
      ...{ state: 'running', worker: 'studio-2' },
    })
  })

  it('is one job where two servers are asked at once, for the first time', async () => {
    const one = await startTestServer()
    const other = await startTestServer({ databaseUrl: one.databaseUrl })
    try {
      const recipes = [recipe(640), recipe(642, SVT), recipe(644, null)]
      const answers = await Promise.all(
        [one, other, one, other].map((server) =>
          new TestClient(server).call<WorkJob[]>('POST', '/api/jobs/request', { recipes }),
        ),
      )
      for (const { body } of answers)
        expect(body.map(({ state }) => state)).toEqual(['waiting', 'waiting', 'waiting'])
      expect(
        await one.database.query('SELECT count(*)::integer AS count FROM telon_queue.job'),
      ).toEqual([{ count: 3 }])
    } finally {
      await other.stop()
      await one.stop()
    }
  })

  it('is not rendered where it is there already', async () => {
    await store(recipe(640))
    expect((await request([recipe(640), recipe(642)])).body.map(({ key }) => key)).toEqual([
      recipeKey(recipe(642)),
    ])
  })

  it('is taken by a worker that has its encoder, and by no other', async () => {
    await request([recipe(640, SVT), recipe(642, X264)])
    const worker = await hello([X264])
    expect((await take(worker))?.recipe).toMatchObject({ width: 642, encoder: X264 })
    expect(await take(await hello([X264]))).toBeNull()
    expect((await take(await hello([SVT])))?.recipe).toMatchObject({ width: 640 })
  })

  it('is taken by any worker where the browser encodes it', async () => {
    await request([recipe(640, null)])
    expect((await take(await hello([])))?.recipe).toMatchObject({ encoder: null })
  })

  it('comes the sooner the higher its priority, also where it is raised later', async () => {
    await request([recipe(640)], 3)
    await request([recipe(642, SVT)], 4)
    await request([recipe(644)], 3)
    await request([recipe(644)], 8)
    const widths = []
    for (let job = await takeAnew(); job; job = await takeAnew()) widths.push(job.recipe.width)
    expect(widths).toEqual([644, 642, 640])
  })

  it('goes to one of many workers that ask at once', async () => {
    const widths = Array.from({ length: 12 }, (_, index) => 700 + 2 * index)
    await request(widths.map((width) => recipe(width)))
    const taken = await Promise.all(
      Array.from({ length: 6 }, async () => {
        const own = []
        for (let job = await takeAnew(); job; job = await takeAnew()) own.push(job.recipe.width)
        return own
      }),
    )
    expect(taken.flat().sort()).toEqual(widths)
    await client.call('POST', '/api/jobs/cancel', {
      keys: widths.map((width) => recipeKey(recipe(width))),
    })
  })

  it('is asked for, wanted sooner, taken and cancelled by many at once without harm', async () => {
    const widths = Array.from({ length: 8 }, (_, index) => 800 + 2 * index)
    const recipes = widths.map((width) => recipe(width))
    const keys = recipes.map(recipeKey)
    for (let turn = 0; turn < 6; turn++) {
      const answers = await Promise.all([
        ...[1, 5, 9].map((priority) => request(recipes, priority)),
        client.call('POST', '/api/jobs/cancel', { keys: [...keys].reverse() }),
        request([...recipes].reverse(), 9),
        client.call('POST', '/api/jobs/cancel', { keys }),
      ])
      expect(answers.map(({ status }) => status)).toEqual([200, 200, 200, 204, 200, 204])
      const taken = Promise.all(Array.from({ length: 6 }, takeAnew))
      const [cancelled, raised] = await Promise.all([
        client.call('POST', '/api/jobs/cancel', { keys: keys.slice(0, 4) }),
        request(recipes.slice(4), turn % 9),
        taken,
      ])
      expect([cancelled.status, raised.status]).toEqual([204, 200])
    }
    // What is told of is in the queue, and nothing else is.
    await client.call('POST', '/api/jobs/cancel', { keys })
    expect(await takeAnew()).toBeNull()
    const [left] = await server.database.query<{ count: string }>(
      'SELECT count(*) FROM telon_queue.job',
    )
    expect(left!.count).toBe('0')
  })

  it('is stopped by cancelling, and forgotten', async () => {
    await request([recipe(640)])
    const worker = await hello()
    const job = (await take(worker))!
    expect((await progress(worker, job.jobId)).body).toEqual({ goOn: true })
    await client.call('POST', '/api/jobs/cancel', { keys: [recipeKey(recipe(640))] })
    expect((await progress(worker, job.jobId)).body).toEqual({ goOn: false })
    expect((await look()).body).toEqual([])
    // Asked for again, it is a new job, and the former worker is out of it.
    await request([recipe(640)])
    expect((await progress(worker, job.jobId)).body).toEqual({ goOn: false })
    expect((await take(worker))?.jobId).not.toBe(job.jobId)
  })

  it('cannot be the trace of a clip, which the studio makes', async () => {
    const trace = { kind: 'trace', sourceSha256: 'a'.repeat(64) }
    const answer = await client.call('POST', '/api/jobs/request', { recipes: [trace] })
    expect(codeOf(answer)).toBe('request/invalid')
  })
})

describe('all that is going on', () => {
  it('is listed: what runs where, what failed and why, what waits in its order', async () => {
    await request([recipe(640), recipe(642), recipe(644)])
    const worker = await hello()
    const failed = (await take(worker))!
    await told('failed', {
      ...{ workerId: worker, jobId: failed.jobId, reason: 'The disk is full.', again: false },
    })
    const { jobId } = (await take(worker))!
    await progress(worker, jobId, 0.25)
    await request([recipe(646)], 9)
    const { counts, jobs } = await overview()
    expect(counts).toEqual({ waiting: 2, running: 1, failed: 1 })
    expect(jobs.map(({ state, file }) => [state, file.width])).toEqual([
      ['running', 642],
      ['failed', 640],
      ['waiting', 646],
      ['waiting', 644],
    ])
    expect(jobs[0]).toMatchObject({
      ...{ key: recipeKey(recipe(642)), done: 0.25, worker: 'studio-2' },
      file: { kind: 'probe', format: 'h264', width: 642, height: 360, encoder: X264 },
    })
    expect(jobs[1]).toMatchObject({ reason: 'The disk is full.', worker: null })
  })

  it('names the sources of files that are on a shelf, and says where they are not', async () => {
    await request([recipe(640)])
    expect((await overview()).jobs[0]).toMatchObject({ sources: [], projectId: null })
    const { id: projectId } = await client.makeProject()
    const { sha256 } = await client.upload(projectId, await readClip(), 'dusk.mp4')
    const { sequence } = proofRecipe(inventBackdrop(), knownAs({ ...PICTURE, sha256 }))!
    const shelved = { ...recipe(642), sequence }
    await request([shelved], 9)
    expect((await overview()).jobs[0]).toMatchObject({ sources: ['dusk.mp4'], projectId })
    await client.call('POST', '/api/jobs/cancel', { keys: [recipeKey(shelved)] })
  })

  it('lists the first hundred of many, and counts them all', async () => {
    const widths = Array.from({ length: 130 }, (_, index) => 1000 + 2 * index)
    const recipes = widths.map((width) => recipe(width))
    await request(recipes.slice(0, 100))
    await request(recipes.slice(100))
    const { counts, jobs } = await overview()
    expect([counts.waiting, jobs.length]).toEqual([130, 100])
    await client.call('POST', '/api/jobs/cancel', { keys: recipes.map(recipeKey) })
  })

  it('has the workers with their machines and speeds', async () => {
    const id = await hello()
    expect((await overview()).workers).toMatchObject([{ id, machine: '', speeds: [] }])
    const speeds = [{ encoder: X264, megapixels: 3.5 }]
    await client.call('POST', '/api/jobs/hello', {
      ...{
        id,
        name: 'studio-2',
        version,
        encoders: [X264],
        machine: '8 processors, 3.4 GHz',
        speeds,
      },
    })
    expect((await overview()).workers).toMatchObject([
      { id, machine: '8 processors, 3.4 GHz', speeds },
    ])
  })

  it('says which workers have a job', async () => {
    await request([recipe(640)])
    const [busy, idle] = [await hello(), await hello()]
    await take(busy)
    const { workers } = await overview()
    expect(workers.find(({ id }) => id === busy)?.renders).toBe(true)
    expect(workers.find(({ id }) => id === idle)?.renders).toBe(false)
  })

  it('is nothing for a render worker to see', async () => {
    for (const [method, path] of [
      ['GET', '/api/jobs'],
      ['POST', '/api/jobs/retry'],
    ] as const) {
      const answer = await fetch(`${server.url}${path}`, {
        method,
        headers: { Authorization: `Bearer ${TOKEN}`, 'Content-Type': 'application/json' },
        ...(method === 'POST' && { body: '{"keys":[]}' }),
      })
      expect(answer.status).toBe(403)
    }
  })
})

describe('a queue that another server is changing', () => {
  it('lets workers say that they are there, however many wait for a job', async () => {
    await request([recipe(640)])
    const workers = await Promise.all(Array.from({ length: 12 }, () => hello()))
    let release = (): void => undefined
    const other = server.database.transaction(async (transaction) => {
      await server.database.query('SELECT pg_advisory_xact_lock(7023418)', [], transaction)
      await new Promise<void>((resolve) => (release = resolve))
    })
    const taking = workers.map(take)
    // All of them are on their way to the lock by then.
    await new Promise((resolve) => setTimeout(resolve, 500))
    const told = await Promise.race([
      hello().then(() => 'heard'),
      new Promise((resolve) => setTimeout(resolve, 5000, 'not heard')),
    ])
    release()
    await other
    expect((await Promise.all(taking)).filter(Boolean)).toHaveLength(1)
    expect(told).toBe('heard')
  })
})

describe('a job that is taken', () => {
  it('tells how far it is, until its file is stored', async () => {
    await request([recipe(640)])
    const worker = await hello()
    const { jobId } = (await take(worker))!
    await progress(worker, jobId, 0.25)
    expect((await look()).body).toEqual([
      {
        ...{ key: recipeKey(recipe(640)), state: 'running', step: 'pass', pass: 1, done: 0.25 },
        ...{ secondsLeft: 12, worker: 'studio-2', reason: null },
      },
    ])
    expect(codeOf(await told('finished', { workerId: worker, jobId }))).toBe('work/not-stored')
    await store(recipe(640))
    expect((await told('finished', { workerId: worker, jobId })).status).toBe(204)
    // Its answer was lost: told once more, nothing happens.
    expect((await told('finished', { workerId: worker, jobId })).status).toBe(204)
    expect((await look()).body).toEqual([])
    expect(await take(worker)).toBeNull()
  })

  it('that fails says why, and is tried again when it is asked for', async () => {
    await request([recipe(640)])
    const worker = await hello()
    const { jobId } = (await take(worker))!
    await told('failed', { workerId: worker, jobId, reason: 'The disk is full.', again: false })
    expect((await look()).body[0]).toMatchObject({ state: 'failed', reason: 'The disk is full.' })
    expect(await take(worker)).toBeNull()
    expect((await request([recipe(640)])).body[0]).toMatchObject({ state: 'waiting', reason: null })
    expect(await take(worker)).not.toBeNull()
  })

  it('comes in the order in which files were asked for', async () => {
    const widths = [650, 640, 648, 642, 646, 644]
    await request(widths.map((width) => recipe(width)))
    expect((await overview()).jobs.map(({ file }) => file.width)).toEqual(widths)
    const taken: number[] = []
    for (let job = await takeAnew(); job; job = await takeAnew()) taken.push(job.recipe.width)
    expect(taken).toEqual(widths)
  })

  it('is tried again as it was asked for', async () => {
    await request([recipe(640), recipe(642)], 8)
    const worker = await hello()
    for (let job = await take(worker); job; job = await take(worker))
      await told('failed', { workerId: worker, jobId: job.jobId, reason: 'No.', again: false })
    const retried = await client.call<WorkJob[]>('POST', '/api/jobs/retry', {
      keys: [recipeKey(recipe(642)), 'unknown'],
    })
    expect(retried.body).toMatchObject([{ state: 'waiting', reason: null }])
    // The one that was not tried again still says why it failed.
    expect((await overview()).counts).toEqual({ waiting: 1, running: 0, failed: 1 })
    expect((await take(worker))?.recipe).toEqual(recipe(642))
  })

  it('is tried again, or dismissed, with all others that failed', async () => {
    await request([recipe(640), recipe(642)], 8)
    await request([recipe(640, SVT), recipe(644)], 3)
    const worker = await hello()
    const fail = async (): Promise<void> => {
      for (let job = await take(worker); job; job = await take(worker))
        await told('failed', { workerId: worker, jobId: job.jobId, reason: 'No.', again: false })
    }
    await fail()
    expect((await overview()).counts).toEqual({ waiting: 1, running: 0, failed: 3 })
    const retried = await client.call('POST', '/api/jobs/retry-all')
    expect(retried.body).toEqual({ files: 3 })
    expect((await overview()).counts).toEqual({ waiting: 4, running: 0, failed: 0 })
    await fail()
    const dismissed = await client.call('POST', '/api/jobs/cancel-all', { states: ['failed'] })
    expect(dismissed.body).toEqual({ files: 3 })
    expect((await overview()).jobs.map(({ file }) => file.encoder)).toEqual([SVT])
  })

  it('is cancelled with all others that wait or run; those that failed stay', async () => {
    await request([recipe(640), recipe(642), recipe(644), recipe(640, SVT)])
    const worker = await hello()
    const { jobId } = (await take(worker))!
    await told('failed', { workerId: worker, jobId, reason: 'No.', again: false })
    const running = (await take(worker))!
    const states = ['waiting', 'running']
    const cancelled = await client.call('POST', '/api/jobs/cancel-all', { states })
    expect(cancelled.body).toEqual({ files: 3 })
    expect((await overview()).counts).toEqual({ waiting: 0, running: 0, failed: 1 })
    expect((await progress(worker, running.jobId)).body).toEqual({ goOn: false })
    expect(await takeAnew()).toBeNull()
  })

  it('comes again where its worker did not get the answer', async () => {
    await request([recipe(640)])
    const worker = await hello()
    const lost = (await take(worker))!
    const job = (await take(worker))!
    expect([job.recipe.width, job.jobId === lost.jobId]).toEqual([640, false])
    expect((await progress(worker, lost.jobId)).body).toEqual({ goOn: false })
    expect((await progress(worker, job.jobId)).body).toEqual({ goOn: true })
  })

  it('waits again where its worker stops', async () => {
    await request([recipe(640)])
    const worker = await hello()
    const { jobId } = (await take(worker))!
    await told('failed', { workerId: worker, jobId, reason: 'It stops.', again: true })
    const next = await take(await hello())
    expect(next?.recipe.width).toBe(640)
    expect((await progress(worker, jobId)).body).toEqual({ goOn: false })
  })

  it('goes to another worker where its own goes silent, and does not come back to it', async () => {
    await request([recipe(640)])
    const [gone, other] = [await hello(), await hello()]
    const { jobId } = (await take(gone))!
    await server.work.returnSilent()
    expect(await take(other)).toBeNull()
    await silence(gone)
    // Two servers find it at once.
    await Promise.all([server.work.returnSilent(), server.work.returnSilent()])
    expect((await take(other))?.recipe.width).toBe(640)
    expect((await progress(gone, jobId)).body).toEqual({ goOn: false })
    await told('failed', { workerId: gone, jobId, reason: 'Late.', again: false })
    expect((await look()).body[0]).toMatchObject({ state: 'running' })
  })

  it('is done where its worker stored the file and went before it said so', async () => {
    await request([recipe(640), recipe(642)])
    const worker = await hello()
    const { recipe: made } = (await take(worker))!
    await store(made as ProbeRecipe)
    await silence(worker)
    await server.work.returnSilent()
    const left = [await takeAnew(), await takeAnew()].flatMap((job) => job?.recipe.width ?? [])
    expect(left).toEqual([made.width === 640 ? 642 : 640])
    expect((await look([made.width as 640])).body).toEqual([])
  })

  it('that ends every worker fails in the end, and says so', async () => {
    await request([recipe(640)])
    let taken = 0
    for (let turn = 0; turn < 10; turn++) {
      const worker = await hello()
      if (!(await take(worker))) break
      taken += 1
      await silence(worker)
      await server.work.returnSilent()
    }
    expect(taken).toBe(4)
    expect((await look()).body[0]).toMatchObject({
      ...{ state: 'failed', reason: expect.stringContaining('smaller size') },
    })
  })
})

describe('workers', () => {
  it('are listed while they are heard of, with their encoders', async () => {
    const [one, other] = [await hello([X264]), await hello([SVT])]
    await silence(other)
    const { body } = await client.call<SeenWorker[]>('GET', '/api/jobs/workers')
    expect(body).toEqual([expect.objectContaining({ id: one, encoders: [X264], name: 'studio-2' })])
  })

  it('encode the final files of new backdrops, whose encoders stay what they are', async () => {
    const { body: project } = await client.call<Project>('POST', '/api/projects', { name: 'New' })
    const create = async () => {
      const spot = project.pages[0]!.spots[0]!.id
      const order = { name: 'Hero', sourceId: null }
      return client.call<BackdropRecord>('POST', `/api/spots/${spot}/backdrops`, order)
    }
    await hello([X264, 'x264 0.163.3060'])
    await hello([SVT, 'sharp 0.35.5'])
    const { body: first } = await create()
    const encoders = { av1: SVT, vp9: null, h264: X264, pictures: 'sharp 0.35.5' }
    expect(first.document.weight.encoders).toEqual(encoders)
    await server.database.query('DELETE FROM render_workers RETURNING id')
    const { body: second } = await create()
    expect(Object.values(second.document.weight.encoders)).toEqual([null, null, null, null])
    const { body: again } = await client.call<BackdropRecord>('GET', `/api/backdrops/${first.id}`)
    expect(again.document.weight.encoders).toEqual(encoders)
  })

  it('that say goodbye are listed no more, and what they had waits again', async () => {
    await request([recipe(640)])
    const [stays, goes] = [await hello(), await hello()]
    const { recipe: taken } = (await take(goes))!
    expect(await client.call('POST', '/api/jobs/goodbye', { workerId: goes })).toMatchObject({
      status: 204,
    })
    expect((await overview()).workers.map(({ id }) => id)).toEqual([stays])
    expect((await take(stays))?.recipe).toEqual(taken)
    // One that is not known has nothing to give back.
    const again = await client.call('POST', '/api/jobs/goodbye', { workerId: goes })
    expect(again.status).toBe(204)
  })

  it('of another version are told to update, and take nothing', async () => {
    const facts = { id: crypto.randomUUID(), name: 'old', version: '1.0', encoders: [X264] }
    expect(codeOf(await client.call('POST', '/api/jobs/hello', facts))).toBe('work/version')
    const taken = await client.call('POST', '/api/jobs/take', { workerId: facts.id })
    expect(codeOf(taken)).toBe('work/unknown-worker')
  })

  it('take nothing more once the server is of another version than theirs', async () => {
    const worker = await hello()
    await server.database.query(
      `UPDATE render_workers SET version = '18.before' WHERE id = $1 RETURNING id`,
      [worker],
    )
    const taken = await client.call('POST', '/api/jobs/take', { workerId: worker })
    expect(codeOf(taken)).toBe('work/version')
  })

  it('get a job in the moment it is asked for', async () => {
    const worker = await hello()
    const waiting = client.call<TakenJob>('POST', '/api/jobs/take', { workerId: worker })
    await new Promise((resolve) => setTimeout(resolve, 300))
    const start = Date.now()
    await request([recipe(640)])
    expect((await waiting).body.recipe.width).toBe(640)
    expect(Date.now() - start).toBeLessThan(2500)
  })

  it('may do what jobs need with their token, and nothing else', async () => {
    const by = (method: string, path: string, body?: unknown) =>
      client.call(method, path, body, { Authorization: `Bearer ${TOKEN}`, Origin: '' })
    const facts = { id: crypto.randomUUID(), name: 'own', version, encoders: [] }
    expect((await by('POST', '/api/jobs/hello', facts)).status).toBe(204)
    expect(codeOf(await by('GET', `/media/${'a'.repeat(64)}`))).toBe('media/not-found')
    for (const [method, path] of [
      ['GET', '/api/projects'],
      ['POST', '/api/projects'],
      ['POST', '/api/tokens'],
      ['POST', '/api/jobs/cancel'],
      ['GET', '/handoff/x'],
    ] as const)
      expect(codeOf(await by(method, path, method === 'POST' ? {} : undefined)), path).toBe(
        'access/worker',
      )
  })
})

describe('changes', () => {
  /** Events of a stream, as they come. */
  async function listen(url: string) {
    const abort = new AbortController()
    const { body } = await fetch(new URL('/api/jobs/events', url), { signal: abort.signal })
    const jobs: WorkJob[] = []
    let missed = 0
    const reader = body!.pipeThrough(new TextDecoderStream()).getReader()
    const reading = (async () => {
      let text = ''
      for (;;) {
        const { value, done } = await reader.read()
        if (done) return
        text += value
        for (let end = text.indexOf('\n\n'); end >= 0; end = text.indexOf('\n\n')) {
          const data = /^event: jobs\ndata: (.*)$/m.exec(text.slice(0, end))?.[1]
          if (text.startsWith('event: missed')) missed += 1
          if (data) jobs.push(...(JSON.parse(data) as WorkJob[]))
          text = text.slice(end + 2)
        }
      }
    })().catch(() => undefined)
    return { jobs, missed: () => missed, end: () => (abort.abort(), reading) }
  }

  it('are told as they happen, on every server of the database', async () => {
    const second = await startTestServer({ databaseUrl: server.databaseUrl })
    const streams = await Promise.all([listen(server.url), listen(second.url)])
    try {
      await request([recipe(640)])
      const worker = await hello()
      const { jobId } = (await take(worker))!
      await progress(worker, jobId)
      await store(recipe(640))
      await told('finished', { workerId: worker, jobId })
      await request([recipe(642)])
      await client.call('POST', '/api/jobs/cancel', { keys: [recipeKey(recipe(642))] })
      for (const { jobs } of streams) {
        await expect.poll(() => last(jobs, 640), { timeout: 10_000 }).toBe('done')
        await expect.poll(() => last(jobs, 642), { timeout: 10_000 }).toBe('cancelled')
      }
    } finally {
      await Promise.all(streams.map(({ end }) => end()))
      await second.stop()
    }
  })
  it('are told again after the connection that hears of them was lost, and that some were missed', async () => {
    const stream = await listen(server.url)
    try {
      const ended = await server.database.query(
        `SELECT pg_terminate_backend(pid) AS ended FROM pg_stat_activity
        WHERE datname = current_database() AND query LIKE 'LISTEN%'`,
      )
      expect(ended).toEqual([{ ended: true }])
      await expect.poll(stream.missed, { timeout: 10_000 }).toBe(1)
      await request([recipe(640)])
      await expect.poll(() => last(stream.jobs, 640), { timeout: 10_000 }).toBe('waiting')
    } finally {
      await stream.end()
    }
  })
  const last = (jobs: readonly WorkJob[], width: number) =>
    jobs.findLast(({ key }) => key === recipeKey(recipe(width)))?.state
})
