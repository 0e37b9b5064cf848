import { mkdtemp, readdir, readFile, rm, utimes, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest'
import type { SeenWorker, WorkJob } from '../../core/api/work'
import type { Recipe } from '../../core/backdrop/recipe'
import { recipeKey } from '../../core/backdrop/recipe'
import { inventBackdrop } from '../../core/testing/samples'
import { inProject } from '../../node/projectRoot'
import { Refusal, type ServerRequests } from '../../node/ServerRequests'
import { Batch, type Outcome } from './Batch'
import { batchJsonSchema, deliveryOf, readList } from './BatchList'
import { BatchState, digestOf } from './BatchState'
import { WatchedFolder } from './watchFolder'

/* Batches with a server that is played by hand; e2e/batch has a real one. */

let folder: string
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'telon-batch-unit-'))
})
afterAll(() => rm(folder, { recursive: true }))

const IMAGE = inProject('demo/files/cabin-berth.jpg')
const SHARP = 'sharp 0.35.5'
const WORKER: SeenWorker = {
  ...{ id: crypto.randomUUID(), name: 'studio-2', version: '1', encoders: [SHARP] },
  ...{ machine: '', speeds: [], renders: false, seenAt: new Date(0).toISOString() },
}

/** A server with one worker, which does what it is told. */
class Played {
  workers: SeenWorker[] = [WORKER]
  readonly asked: Recipe[] = []
  readonly sent: string[] = []
  readonly lines: string[] = []
  readonly outcomes: Outcome[] = []
  state: WorkJob['state'] | 'nothing' = 'waiting'
  /** Thrown by the next questions. */
  failures: Error[] = []
  batch!: Batch
  readonly ending = new AbortController()

  async open(): Promise<this> {
    const fail = (): void => {
      const failure = this.failures.shift()
      if (failure) throw failure
    }
    const requests: Partial<Record<keyof ServerRequests, unknown>> = {
      server: 'http://studio.example',
      has: async (sha256: string) => this.sent.includes(sha256),
      get: async () => this.workers,
      post: async (path: string, body: { recipes?: Recipe[]; keys?: string[] }) => {
        if (path === '/api/jobs/request') this.asked.push(...body.recipes!)
        else fail()
        if (path !== '/api/jobs/look' || this.state === 'nothing') return []
        return body.keys!.map((key) => ({ key, state: this.state, reason: 'The disk is full.' }))
      },
    }
    this.batch = new Batch({
      requests: requests as unknown as ServerRequests,
      state: await BatchState.open(join(folder, 'list.json.state')),
      sendFile: async (file) => this.sent.push(file),
      encoders: 'best',
      say: (line) => this.lines.push(line),
      onOutcome: (outcome) => this.outcomes.push(outcome),
      signal: this.ending.signal,
      pollMs: 1,
    })
    return this
  }
}

type Named = Parameters<typeof deliveryOf>[2]
const delivery = (own: Named = {}, forAll: Named = {}) =>
  deliveryOf('berth', [IMAGE], forAll, own, {
    ...{ folder, out: join(folder, 'berth'), where: 'berth' },
  })

describe('a batch', () => {
  beforeEach(() => rm(join(folder, 'list.json.state'), { force: true }))

  it('sends sources once and asks for each file once, with the encoders of the workers', async () => {
    const { batch, asked, sent, outcomes } = await new Played().open()
    await batch.queue(await delivery({ width: 640 }))
    expect(sent).toEqual([IMAGE])
    expect(new Set(asked.map(({ encoder }) => encoder))).toEqual(new Set([SHARP]))
    expect(new Set(asked.map(recipeKey)).size).toBe(asked.length)
    await batch.end()
    expect(outcomes).toEqual([{ name: 'berth', state: 'queued' }])
  })

  it('asks for the same files when it is called again, also where other encoders came', async () => {
    const first = await new Played().open()
    await first.batch.queue(await delivery())
    const again = new Played()
    again.workers = [{ ...WORKER, encoders: ['sharp 0.36.0', SHARP] }]
    await (await again.open()).batch.queue(await delivery())
    expect(again.asked).toEqual(first.asked)
    // Where those of before are gone, with the ones that are there.
    const later = new Played()
    later.workers = [{ ...WORKER, encoders: ['sharp 0.36.0'] }]
    await (await later.open()).batch.queue(await delivery())
    expect(new Set(later.asked.map(({ encoder }) => encoder))).toEqual(new Set(['sharp 0.36.0']))
  })

  it('leaves out options for all that are of no use to a delivery, and no option of its own', async () => {
    const played = await new Played().open()
    await played.batch.queue(await delivery({}, { formats: 'h264', hold: 4, width: 640 }))
    expect(played.outcomes).toEqual([])
    expect(Math.min(...played.asked.map(({ width }) => width))).toBe(640)
    await played.batch.queue(await delivery({ once: true }, { hold: 4 }))
    expect(played.outcomes).toMatchObject([
      { state: 'failed', reason: expect.stringContaining('--once: only for clips') },
    ])
  })

  it('asks nobody where no worker has encoders, and says what to do', async () => {
    const played = new Played()
    played.workers = []
    const { batch } = await played.open()
    await expect(batch.queue(await delivery())).rejects.toThrow(/Add a machine.*--encoders browser/)
    expect(played.asked).toEqual([])
  })

  it('waits a while for workers that start just now', async () => {
    const played = new Played()
    played.workers = []
    const { batch } = await played.open()
    const queueing = batch.queue(await delivery())
    setTimeout(() => (played.workers = [WORKER]), 5)
    await queueing
    expect(batch.waiting).toBe(1)
  })

  it('says which delivery failed and why, or was cancelled', async () => {
    const played = await new Played().open()
    await played.batch.queue(await delivery())
    await played.batch.collect()
    expect(played.outcomes).toEqual([])
    expect(played.lines.at(-1)).toMatch(/^1 delivery to go: 0 files rendering, \d+ waiting$/)
    played.state = 'failed'
    await played.batch.wait()
    expect(played.outcomes).toEqual([
      { name: 'berth', state: 'failed', reason: 'The disk is full.' },
    ])
    await played.batch.queue(await delivery())
    played.state = 'nothing'
    await played.batch.wait()
    expect(played.outcomes[1]).toMatchObject({ reason: 'It was cancelled under Work.' })
  })

  it('waits while the server is away, says so once, and ends where it is refused', async () => {
    const played = await new Played().open()
    await played.batch.queue(await delivery())
    played.failures = Array.from({ length: 5 }, () => new TypeError('fetch failed'))
    await played.batch.collect()
    expect(played.failures).toEqual([])
    expect(played.lines.filter((line) => /does not answer/.test(line))).toHaveLength(1)
    played.failures = [new Refusal('access/token', 'This token was revoked.')]
    await expect(played.batch.collect()).rejects.toThrow('This token was revoked.')
    expect(played.batch.waiting).toBe(1)
  })

  it('stops waiting when it is told to', async () => {
    const played = await new Played().open()
    await played.batch.queue(await delivery())
    const waiting = played.batch.wait()
    played.ending.abort()
    await waiting
    expect(played.batch.waiting).toBe(1)
    // Also where the server is away.
    played.failures = [new TypeError('fetch failed')]
    await expect(played.batch.collect()).rejects.toThrow('fetch failed')
    expect(played.outcomes).toEqual([])
  })
})

describe('what is known of a batch', () => {
  it('is there after a restart, and belongs to the same files and options', async () => {
    const path = join(folder, 'known.state')
    const state = await BatchState.open(path)
    const [one, other] = [await delivery(), await delivery({ heading: 'Another' })]
    const digest = await digestOf(one)
    const queued = { digest, document: inventBackdrop(), isDelivered: true }
    await state.keep('berth', queued)
    await state.keep('odd', { ...queued, document: { version: 99 } as never })
    const again = await BatchState.open(path)
    expect(again.known('berth', digest)).toEqual(queued)
    expect(again.known('berth', await digestOf(other))).toBeNull()
    expect(again.known('constructor', digest)).toBeNull()
    // One of another version is decided anew.
    expect(again.known('odd', digest)).toBeNull()
    // Where it is written does not change what it is.
    expect(await digestOf({ ...one, options: { ...one.options, out: '/other' } })).toBe(digest)
    expect((await readdir(folder)).filter((name) => name.endsWith('.part'))).toEqual([])
  })

  it.each(['', '{', '[]', '{"telonBatchState":2,"deliveries":{}}'])(
    'is nothing where the file holds %j',
    async (text) => {
      const path = join(folder, 'broken.state')
      await writeFile(path, text)
      expect((await BatchState.open(path)).known('berth', '')).toBeNull()
    },
  )
})

describe('a list of deliveries', () => {
  it('has its schema in docs', async () => {
    const text = await readFile(inProject('docs/schema/batch.schema.json'), 'utf8')
    expect(JSON.parse(text)).toEqual(batchJsonSchema())
  })

  it('has options for all, which a delivery may change or leave out', async () => {
    const path = join(folder, 'list.json')
    await writeFile(
      path,
      JSON.stringify({
        telonBatch: 1,
        options: { once: true, heading: '--of all', budget: 'phone=300,wide=900' },
        deliveries: [
          { files: ['a.mp4'], out: 'a', options: { once: false, start: 0.5 } },
          { files: ['../b.mp4'], out: 'b' },
        ],
      }),
    )
    const { project, deliveries } = await readList(path)
    expect(project).toBeNull()
    expect(deliveries.map(({ files }) => files)).toEqual([
      [join(folder, 'a.mp4')],
      [join(folder, '../b.mp4')],
    ])
    expect(deliveries[0]!.options).toMatchObject({ once: false, start: 0.5, heading: '--of all' })
    expect(deliveries[1]!.options).toMatchObject({
      ...{ once: true, budget: { phone: 300, wide: 900 }, out: join(folder, 'b') },
    })
  })
})

describe('a folder that is watched', () => {
  it('gives files when they are complete, and again when they have changed', async () => {
    const drop = await mkdtemp(join(folder, 'drop-'))
    const watched = new WatchedFolder(drop)
    const clip = join(drop, 'clip.MP4')
    await writeFile(clip, 'first')
    await writeFile(join(drop, 'notes.txt'), 'no media')
    await writeFile(join(drop, 'empty.png'), '')
    expect(await watched.look()).toEqual([])
    // It grows still.
    await writeFile(clip, 'first and more')
    expect(await watched.look()).toEqual([])
    expect(await watched.look()).toEqual([clip])
    expect(await watched.look()).toEqual([])
    await utimes(clip, new Date(), new Date(Date.now() + 5000))
    expect(await watched.look()).toEqual([])
    expect(await watched.look()).toEqual([clip])
  })

  it('says where it is gone', async () => {
    const missing = new WatchedFolder(join(folder, 'nowhere'))
    await expect(missing.look()).rejects.toThrow(/does not exist/)
  })
})
