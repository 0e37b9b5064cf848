import { randomBytes } from 'node:crypto'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { knownSource } from '../../core/api/knownSource'
import type { SpaceReport } from '../../core/api/space'
import type { BackdropRecord, Project } from '../../core/api/wire'
import { parseBackdrop, type BackdropDocument } from '../../core/backdrop/BackdropDocument'
import { documentKeys } from '../../core/backdrop/documentKeys'
import { applyChanges, record, redo, undo, type History } from '../../core/backdrop/history'
import { type BackdropAction } from '../../core/backdrop/reduce'
import {
  CLIP_FACTS,
  FACTS,
  SAMPLE_IMAGE_FACTS,
  seededNumbers,
  knownAs,
  reduced as reduce,
  asFootage,
} from '../../core/testing/samples'
import { codeOf, TestClient } from '../testing/TestClient'
import { startTestServer, type TestServer } from '../testing/testServer'
import { newParticles } from '../../core/particles/Particles'
import { STYLES } from '../../core/particles/styles'
import { evenScrim } from '../../core/scrim/Scrim'
import { FIRST_TONE } from '../../core/tone/Tone'

let server: TestServer
let client: TestClient
beforeAll(async () => {
  server = await startTestServer()
  client = new TestClient(server)
})
afterAll(() => server.stop())

const knownSize = ({ id, sha256 }: { id: string; sha256: string }) =>
  knownAs({ sha256, width: 1920, height: 1080 }, id)

/** Some bytes on a project's shelf, taken for the invented clip. */
async function addSource(projectId: string, bytes = 200): Promise<{ id: string; sha256: string }> {
  const blob = await server.stores.blobs.put(randomBytes(bytes))
  const { source } = await server.stores.shelf.add(projectId, 'clip.mp4', blob.sha256, FACTS)
  return { id: source.id, sha256: blob.sha256 }
}
async function addRendition(key: string): Promise<void> {
  await server.stores.renditions.keep(
    key,
    await server.stores.blobs.put(randomBytes(100)),
    CLIP_FACTS,
  )
}
/** Lets time pass: everything that is dated becomes older. */
async function age(days: number): Promise<void> {
  const columns = {
    revisions: ['created_at'],
    sources: ['created_at', 'deleted_at'],
    blobs: ['unused_since', 'touched_at', 'created_at'],
    renditions: ['unused_since', 'created_at'],
    uploads: ['created_at', 'updated_at'],
  }
  for (const [table, names] of Object.entries(columns)) {
    const set = names.map((name) => `${name} = ${name} - $1 * interval '1 day'`).join(', ')
    await server.database.query(`UPDATE ${table} SET ${set} RETURNING 1`, [days])
  }
}
const keep = () => server.stores.space.keep(new Date())
const report = async (): Promise<SpaceReport> =>
  (await client.call<SpaceReport>('GET', '/api/space')).body
const storedBytes = async (): Promise<number> =>
  Number(
    (
      await server.database.query<{ sum: string }>(
        'SELECT coalesce(sum(octet_length(data)), 0) AS sum FROM chunks',
      )
    )[0]!.sum,
  )

describe('space', () => {
  it('comes back when projects are deleted: after thirty days by itself, at once where that is asked for', async () => {
    const stays = await client.makeProject('Stays')
    await addSource(stays.id, 50_000)
    const goes = await client.makeProject('Goes')
    for (let each = 0; each < 5; each++) await addSource(goes.id, 1_000_000)
    await client.call('DELETE', `/api/projects/${goes.id}`)
    await age(1)
    await keep()
    expect(await storedBytes()).toBe(5_050_000)
    expect((await report()).freeable).toMatchObject({
      now: { bytes: 0 },
      later: { bytes: 5_000_000, files: 5 },
      nextAt: expect.any(String) as string,
    })
    await age(29)
    await keep()
    expect(await storedBytes()).toBe(5_050_000)
    await age(2)
    expect(await keep()).toEqual({ freedBytes: 5_000_000, freedFiles: 5 })
    expect(await storedBytes()).toBe(50_000)
  })

  it('is freed on request with what became unused lately, is told while it runs, and can be cancelled', async () => {
    const project = await client.makeProject('Large')
    for (let each = 0; each < 12; each++) await addSource(project.id, 400_000)
    await client.call('DELETE', `/api/projects/${project.id}`)
    await age(0.01)
    const begun = await client.call('POST', '/api/space/freeing', { withoutGrace: true })
    expect(begun.body).toMatchObject({ stage: 'marking' })
    expect(codeOf(await client.call('POST', '/api/space/freeing', { withoutGrace: true }))).toBe(
      'space/busy',
    )
    expect((await client.call('DELETE', '/api/space/freeing')).status).toBe(204)
    await expect.poll(async () => (await report()).freeing?.stage).toBe('cancelled')
    expect(await storedBytes()).toBeGreaterThan(0)
    await client.call('POST', '/api/space/freeing', { withoutGrace: true })
    await expect.poll(async () => (await report()).freeing?.stage).toBe('finished')
    expect((await report()).freeing).toMatchObject({ done: 1, message: null })
    expect((await report()).freeable.later.bytes).toBe(0)
    // What freeing left over belongs to the project of the test before.
    expect(await storedBytes()).toBe(50_000)
  })

  it('that abandoned uploads and copies that broke off take is freed, and finished uploads are forgotten', async () => {
    const project = await client.makeProject()
    const location = (await client.beginUpload(5000, 'half.mp4', project.id)).headers.get(
      'location',
    )!
    await client.sendPart(location, 0, randomBytes(3000))
    const broken = crypto.randomUUID()
    await server.stores.blobs.begin(broken, 4000)
    await age(2)
    await keep()
    expect(await server.stores.blobs.find(broken)).toBeNull()
    expect((await client.head(location)).headers.get('upload-offset')).toBe('3000')
    await age(31)
    await keep()
    expect((await client.head(location)).status).toBe(404)
    expect(await server.database.models.Blob.count({ where: { sha256: null } })).toBe(0)
  })

  it('is told per project: sources, renditions, uploads and revisions', async () => {
    const project = await client.makeProject('Told')
    const source = await addSource(project.id, 3000)
    const spot = project.pages[0]!.spots[0]!.id
    const made = (
      await client.call<BackdropRecord>('POST', `/api/spots/${spot}/backdrops`, {
        name: 'x',
        sourceId: source.id,
      })
    ).body
    await addRendition(documentKeys(made.document, knownSize(source))[0]!)
    await client.sendPart(
      (await client.beginUpload(500, 'x.mp4', project.id)).headers.get('location')!,
      0,
      randomBytes(100),
    )
    const { projects, onDisk } = await report()
    expect(projects.find((each) => each.id === project.id)).toEqual({
      id: project.id,
      name: 'Told',
      sources: { bytes: 3000, files: 1 },
      renditions: { bytes: 100, files: 1 },
      uploads: { bytes: 100, files: 1 },
      revisions: 1,
    })
    expect(onDisk).toBeGreaterThan(1_000_000)
  })

  async function addImage({ id }: Project) {
    const { sha256 } = await server.stores.blobs.put(randomBytes(300))
    return (await server.stores.shelf.add(id, 'snow.png', sha256, SAMPLE_IMAGE_FACTS)).source
  }

  it('keeps the rendered files of images that a backdrop shows, and frees those of none', async () => {
    const project = await client.makeProject('Images')
    const source = await addImage(project)
    const made = (
      await client.call<BackdropRecord>(
        'POST',
        `/api/spots/${project.pages[0]!.spots[0]!.id}/backdrops`,
        { name: 'Snow', sourceId: source.id },
      )
    ).body
    const keys = documentKeys(made.document, new Map([[source.id, knownSource(source)]]))
    expect(keys.length).toBeGreaterThan(2)
    for (const key of keys) await addRendition(key)
    const left = async (): Promise<number> => (await server.stores.renditions.find(keys)).length
    await keep()
    await age(400)
    await keep()
    expect(await left()).toBe(keys.length)
    await client.call('DELETE', `/api/backdrops/${made.id}`)
    await keep()
    await age(400)
    await keep()
    expect(await left()).toBe(0)
  })

  it('keeps the rendered files of backdrops that differ in tone or particles alone', async () => {
    const project = await client.makeProject('Looks')
    const source = await addImage(project)
    const known = new Map([[source.id, knownSource(source)]])
    const make = async (change: Partial<BackdropDocument>): Promise<string[]> => {
      const { body } = await client.call<BackdropRecord>(
        'POST',
        `/api/spots/${project.pages[0]!.spots[0]!.id}/backdrops`,
        { name: 'Snow', sourceId: source.id },
      )
      const document = { ...body.document, ...change }
      const saved = await client.save(body, { baseRevision: body.revision, document })
      expect(saved.status).toBe(200)
      return documentKeys(document, known)
    }
    const particles = (form: 'live' | 'rendered') => ({
      ...newParticles(STYLES[0]!.definition, null),
      form,
    })
    const keys = new Set([
      ...(await make({})),
      ...(await make({ tone: { ...FIRST_TONE, brightness: 0.7 } })),
      ...(await make({ particles: particles('live') })),
      ...(await make({ particles: particles('rendered') })),
    ])
    for (const key of keys) await addRendition(key)
    await keep()
    await age(400)
    await keep()
    expect(await server.stores.renditions.find([...keys])).toHaveLength(keys.size)
  })

  it('of revisions is thinned as they age, and the sources of those that go may go, too', async () => {
    const project = await client.makeProject()
    const [first, second] = [await addSource(project.id), await addSource(project.id)]
    const spot = project.pages[0]!.spots[0]!.id
    let backdrop = (
      await client.call<BackdropRecord>('POST', `/api/spots/${spot}/backdrops`, {
        name: 'x',
        sourceId: first.id,
      })
    ).body
    const shown = (sourceId: string) => ({
      ...backdrop.document,
      base: { ...backdrop.document.base, material: { sourceId, frameRate: null } },
    })
    for (const sourceId of [second.id, first.id, first.id]) {
      const saved = await client.save(backdrop, { document: shown(sourceId) })
      backdrop = { ...backdrop, revision: saved.body.revision }
    }
    await client.call('POST', '/api/sources/delete', { ids: [second.id] })
    await age(0.5)
    await keep()
    const revisions = async () =>
      (
        await client.call<{ revision: number }[]>('GET', `/api/backdrops/${backdrop.id}/revisions`)
      ).body.map((each) => each.revision)
    expect(await revisions()).toEqual([4, 3, 2, 1])
    await age(40)
    await keep()
    expect(await revisions()).toEqual([4, 1])
    await keep()
    expect(await server.database.models.Source.findByPk(second.id)).toBeNull()
  })
})

/**
 * What stands in the database and can be reached, found the slow way: by looking through all its
 * text.
 */
async function reachable(): Promise<{
  sources: Set<string>
  keys: Set<string>
  content: Set<string>
}> {
  const backdrops = await server.database.query<{
    id: string
    document: unknown
    history: History
  }>('SELECT id, document, history FROM backdrops')
  const revisions = await server.database.query<{ document: unknown }>(
    'SELECT document FROM revisions',
  )
  const all = JSON.stringify([backdrops, revisions])
  const rows = await server.database.query<{ id: string; sha256: string; deleted_at: Date | null }>(
    'SELECT id, sha256, deleted_at FROM sources',
  )
  const sources = new Set(
    rows
      .filter((row) => row.deleted_at === null || all.includes(`"${row.id}"`))
      .map((row) => row.id),
  )
  const states: unknown[] = revisions.map((row) => row.document)
  for (const { document, history } of backdrops) {
    states.push(document)
    let back = document
    for (const step of [...history.past].reverse())
      states.push((back = applyChanges(back, step.changes, 'back')))
    let forward = document
    for (const step of [...history.future].reverse())
      states.push((forward = applyChanges(forward, step.changes, 'forward')))
  }
  const keys = new Set<string>()
  for (const state of states) {
    const document = parseBackdrop(state).data!
    const source = rows.find((row) => row.id === asFootage(document).base.material.sourceId)
    if (source) documentKeys(document, knownSize(source)).forEach((key) => keys.add(key))
  }
  // Content: of every source and rendition that can be reached, and every digest that any text
  // names.
  const renditions = await server.database.query<{ key: string; sha256: string }>(
    'SELECT key, sha256 FROM renditions',
  )
  const stored = await server.database.query<{ sha256: string }>(
    'SELECT sha256 FROM blobs WHERE sha256 IS NOT NULL',
  )
  const content = new Set([
    ...rows.filter((row) => sources.has(row.id)).map((row) => row.sha256),
    ...renditions.filter((row) => keys.has(row.key)).map((row) => row.sha256),
    ...stored.map((row) => row.sha256).filter((sha256) => all.includes(sha256)),
  ])
  return { sources, keys, content }
}

/**
 * One designer's work, drawn by lot: swaps, posters, cuts, undo, deletions, renditions, and days
 * that pass.
 */
class Work {
  private readonly draw: () => number
  readonly project: Project
  readonly log: string[] = []
  private readonly shelf: { id: string; sha256: string }[] = []
  private readonly backdrops = new Map<string, BackdropRecord>()

  constructor(seed: number, project: Project) {
    this.draw = seededNumbers(seed)
    this.project = project
  }

  private pick<T>(items: readonly T[]): T {
    return items[Math.floor(this.draw() * items.length)]!
  }

  async step(): Promise<void> {
    const actions = [
      'add',
      'hang',
      'change',
      'change',
      'change',
      'change',
      'undo',
      'redo',
      'render',
      'render',
      'take off',
      'take off',
      'repair',
      'unhang',
      'age',
    ]
    const action =
      this.shelf.length < 2 ? 'add' : this.backdrops.size === 0 ? 'hang' : this.pick(actions)
    this.log.push(action)
    await this.carryOut(action)
  }

  private async carryOut(action: string): Promise<void> {
    const backdrop = this.pick([...this.backdrops.values()])
    switch (action) {
      case 'add':
        this.shelf.push(await addSource(this.project.id))
        return
      case 'hang': {
        const spot = this.project.pages[0]!.spots[0]!.id
        const made = await client.call<BackdropRecord>('POST', `/api/spots/${spot}/backdrops`, {
          name: 'x',
          sourceId: this.pick(this.shelf).id,
        })
        if (made.status === 200) this.backdrops.set(made.body.id, made.body)
        return
      }
      case 'change': {
        const next = reduce(backdrop.document, this.action())
        return this.save(
          backdrop,
          next,
          record(backdrop.history, 'x', null, backdrop.document, next),
        )
      }
      case 'undo':
      case 'redo': {
        const led = (action === 'undo' ? undo : redo)(backdrop.history, backdrop.document)
        return led ? this.save(backdrop, led.document, led.history) : undefined
      }
      case 'render': {
        const source = this.shelf.find(
          (each) => each.id === asFootage(backdrop.document).base.material.sourceId,
        )
        if (source)
          await addRendition(this.pick(documentKeys(backdrop.document, knownSize(source))))
        return
      }
      case 'repair': {
        // As a repair does: the source gets other content, the old one is referred to by documents
        // only.
        const source = this.pick(this.shelf)
        const blob = await server.stores.blobs.put(randomBytes(150))
        await server.database.transaction((transaction) =>
          server.stores.shelf.replaceContent(
            source.id,
            { sha256: blob.sha256, facts: FACTS, analysis: null },
            transaction,
          ),
        )
        source.sha256 = blob.sha256
        return
      }
      case 'take off':
        return void (await client.call('POST', '/api/sources/delete', {
          ids: [this.pick(this.shelf).id],
        }))
      case 'unhang':
        if (this.draw() > 0.3) return
        this.backdrops.delete(backdrop.id)
        return void (await client.call('DELETE', `/api/backdrops/${backdrop.id}`))
      default:
        return age(this.draw() * 12)
    }
  }

  private action(): BackdropAction {
    const source = this.pick(this.shelf)
    const seconds = 1 + Math.floor(this.draw() * 5)
    return this.pick<BackdropAction>([
      { type: 'material/swap', sourceId: source.id, facts: FACTS },
      {
        type: 'poster/picture',
        picture: {
          kind: 'source',
          sourceId: source.id,
          sha256: source.sha256,
          mime: 'image/webp',
          bytes: 200,
        },
      },
      { type: 'poster/picture', picture: { kind: 'first' } },
      { type: 'timing/cut', cut: { timescale: 24, start: 0, end: 24 * seconds } },
      { type: 'scrim/set', scrim: evenScrim('#14101c', Math.round(this.draw() * 10) / 10) },
    ])
  }

  private async save(
    backdrop: BackdropRecord,
    document: BackdropDocument,
    history: History,
  ): Promise<void> {
    if (document === backdrop.document) return
    const saved = await client.save(backdrop, { document, history })
    // A source may have been swept since: then the change is not made.
    if (saved.status === 200)
      this.backdrops.set(backdrop.id, {
        ...backdrop,
        document,
        history,
        revision: saved.body.revision,
      })
  }
}

const keysOf = async (): Promise<Set<string>> =>
  new Set(
    (await server.database.query<{ key: string }>('SELECT key FROM renditions')).map(
      (row) => row.key,
    ),
  )

/** Sweeps, and compares with what could be reached before: all of that must be there still. */
async function sweepAndCompare(log: string): Promise<void> {
  const revisionsBefore = await server.database.models.Revision.count()
  const before = await reachable()
  const renditions = await keysOf()
  await keep()
  // What only revisions reached that were thinned just now may go with them.
  const thinned = (await server.database.models.Revision.count()) < revisionsBefore
  const held = thinned ? await reachable() : before
  const sources = new Set(
    (await server.database.query<{ id: string }>('SELECT id FROM sources')).map((row) => row.id),
  )
  for (const id of held.sources) expect(sources.has(id), `${log}; source ${id}`).toBe(true)
  const left = await keysOf()
  for (const key of held.keys)
    if (renditions.has(key)) expect(left.has(key), `${log}; rendition ${key}`).toBe(true)
  for (const sha256 of held.content) {
    expect(
      await server.stores.blobs.findBySha256(sha256),
      `${log}; content ${sha256}`,
    ).not.toBeNull()
  }
}

describe('sweeping', () => {
  it.each([11, 12, 13, 14, 15, 16])(
    'takes nothing that can be reached, and in the end all that cannot (seed %i)',
    async (seed) => {
      for (const { id } of (await client.call<{ id: string }[]>('GET', '/api/projects')).body)
        await client.call('DELETE', `/api/projects/${id}`)
      await server.database.query('DELETE FROM renditions RETURNING key')
      const work = new Work(seed, await client.makeProject())
      for (let turn = 0; turn < 6; turn++) {
        for (let step = 0; step < 16; step++) await work.step()
        await age(9)
        await sweepAndCompare(`seed ${seed}: ${work.log.join(', ')}`)
      }
      // Months in which nothing happens: what is left is what can be reached, and nothing else.
      for (const days of [1, 31, 31, 31]) {
        await age(days)
        await sweepAndCompare(`seed ${seed}: ${work.log.join(', ')}, then rest`)
      }
      const end = await reachable()
      const sources = await server.database.query<{ id: string }>('SELECT id FROM sources')
      expect(new Set(sources.map((row) => row.id)), work.log.join()).toEqual(end.sources)
      expect([...(await keysOf())].filter((key) => !end.keys.has(key))).toEqual([])
      const blobs = await server.database.query<{ sha256: string }>('SELECT sha256 FROM blobs')
      expect(blobs.filter(({ sha256 }) => !end.content.has(sha256))).toEqual([])
      expect((await report()).freeable).toEqual({
        now: { bytes: 0, files: 0 },
        later: { bytes: 0, files: 0 },
        nextAt: null,
      })
    },
  )
})
