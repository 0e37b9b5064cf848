import { asFootage } from '../core/testing/samples'
import { readFile } from 'node:fs/promises'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type {
  BackdropRecord,
  Repaired,
  Project,
  ShelfPage,
  Source,
  SourceCard,
  ImageSet,
} from '../core/api/wire'
import { memorySource } from '../core/bytes/ByteSource'
import { probe } from '../core/media/probe'
import { seedDemo } from '../demo/seedDemo'
import { codeOf, TestClient } from './testing/TestClient'
import { startTestServer, type TestServer } from './testing/testServer'

/*
 * The shelf on the real server and the real PostgreSQL, filled with the demonstration's material.
 */

let server: TestServer
let client: TestClient
let project: Project
beforeAll(async () => {
  server = await startTestServer({ prepare: seedDemo })
  client = new TestClient(server)
  project = (await call<Project[]>('GET', '/api/projects')).body[0]!
  project = (await call<Project>('GET', `/api/projects/${project.id}`)).body
})
afterAll(() => server.stop())

const call: TestClient['call'] = (method, path, body) => client.call(method, path, body)
const list = async (query = ''): Promise<ShelfPage> =>
  (await call<ShelfPage>('GET', `/api/projects/${project.id}/sources?${query}`)).body
const names = async (query: string): Promise<string[]> =>
  (await list(query)).sources.map((source) => source.name)
const named = async (name: string): Promise<SourceCard> =>
  (await list(`search=${name}`)).sources[0]!
const bytesOf = async (sha256: string): Promise<Uint8Array> =>
  new Uint8Array(await (await fetch(`${server.url}/media/${sha256}`)).arrayBuffer())
/** A second source with other content, so that the demonstration's own stay as they are. */
async function addClip(
  name: string,
  file: string,
  change: (bytes: Uint8Array) => void = () => undefined,
): Promise<Source> {
  const bytes = new Uint8Array(await readFile(new URL(`../demo/files/${file}`, import.meta.url)))
  change(bytes)
  const facts = await probe(memorySource(bytes))
  if (!facts.ok) throw facts.error
  const blob = await server.stores.blobs.put(bytes)
  return (await server.stores.shelf.add(project.id, name, blob.sha256, facts.value)).source
}
/** Content that differs in its last byte only: the end of its data. */
const otherwise =
  (mark: number) =>
  (bytes: Uint8Array): void =>
    void (bytes[bytes.byteLength - 1] = mark)

const daysFromNow = (days: number): Date => new Date(Date.now() + days * 24 * 3600 * 1000)

describe('the list', () => {
  it.each([
    [
      'kind=image&sort=name&search=w',
      ['first-snow.jpg', 'fjord-night.webp', 'stop-snow-line.jpg', 'window-seat.png'],
    ],
    ['kind=clip&findings=none', ['aurora-fjord.webm']],
    ['liveliness=busy', ['rain-platform.mp4']],
    ['wide=1920&kind=clip', ['dusk-window.mov']],
    ['search=FJORD&sort=name', ['aurora-fjord.webm', 'fjord-night.webp']],
    ['search=%25', []],
    ['orientation=portrait', []],
    ['sort=bytes&limit=2', ['rain-platform.mp4', 'archive-reel.mp4']],
    ['sort=duration&limit=1', ['dusk-window.mov']],
    ['sort=name&offset=1&limit=2', ['aurora-fjord.webm', 'cabin-berth.jpg']],
  ])('is filtered and sorted by the server: %s', async (query, expected) =>
    expect(await names(query)).toEqual(expected),
  )
  it('counts all that match, not only the part it gives', async () => {
    const page = await list('limit=3')
    expect([page.total, page.sources.length]).toEqual([17, 3])
  })
  it('carries what a card shows, without the curves', async () => {
    const source = await named('dusk-window')
    expect(source).toMatchObject({
      measured: true,
      liveliness: 'calm',
      widest: 1920,
      usedBy: ['Dusk window'],
      strip: { cells: 24 },
    })
    expect(source).not.toHaveProperty('analysis')
    expect(source.palette.length).toBeGreaterThan(2)
  })
  it('refuses a question that makes no sense', async () => {
    expect(codeOf(await call('GET', `/api/projects/${project.id}/sources?limit=100000`))).toBe(
      'request/invalid',
    )
  })
})

describe('sources', () => {
  it('of the demonstration carry the flaws they were drawn with, and no others', async () => {
    const telling = new Map(
      (await list('limit=50')).sources.map((source) => [
        source.name,
        source.findings
          .filter((finding) => finding.weight !== 'note')
          .map((finding) => finding.code),
      ]),
    )
    expect(Object.fromEntries(telling)).toMatchObject({
      'aurora-fjord.webm': [],
      'dusk-window.mov': ['title-card'],
      'rain-platform.mp4': ['heavy', 'busy'],
      'archive-reel.mp4': ['mark', 'bars'],
      'tunnel-mouth.mp4': ['black-end', 'hard-cut'],
      'harbour-lights.mp4': ['soft'],
      'first-snow.jpg': ['personal'],
    })
    expect(telling.get('viaduct-crossing.mp4')).toContain('narrow')
    const dusk = (await named('dusk-window')).findings.find(
      (finding) => finding.code === 'title-card',
    )!
    expect(Math.abs(dusk.figure - 1.8)).toBeLessThanOrEqual(2 / 24)
  })
  it('with content that lies there already are not added twice, and come back when they were taken off', async () => {
    const source = await addClip('twice.mp4', 'viaduct-crossing.mp4', otherwise(1))
    const again = await server.stores.shelf.add(
      project.id,
      'another name.mp4',
      source.sha256,
      source.facts,
    )
    expect([again.known, again.source.id, again.source.name]).toEqual([
      true,
      source.id,
      'twice.mp4',
    ])
    await call('POST', '/api/sources/delete', { ids: [source.id] })
    const back = await server.stores.shelf.add(project.id, 'back.mp4', source.sha256, source.facts)
    expect([back.known, back.source.id, back.source.name]).toEqual([false, source.id, 'back.mp4'])
    await call('POST', '/api/sources/delete', { ids: [source.id] })
  })
  it('are taken off all or none, come back by undo, and are forgotten after thirty days', async () => {
    const source = await addClip('gone.mp4', 'viaduct-crossing.mp4', otherwise(2))
    const dusk = await named('dusk-window')
    expect(codeOf(await call('POST', '/api/sources/delete', { ids: [source.id, dusk.id] }))).toBe(
      'source/in-use',
    )
    expect(await names('search=gone')).toEqual(['gone.mp4'])
    expect((await call('POST', '/api/sources/delete', { ids: [source.id] })).status).toBe(204)
    expect([
      await names('search=gone'),
      codeOf(await call('GET', `/api/sources/${source.id}`)),
    ]).toEqual([[], 'source/not-found'])
    await call('POST', '/api/sources/restore', { ids: [source.id] })
    expect(await names('search=gone')).toEqual(['gone.mp4'])
    await call('POST', '/api/sources/delete', { ids: [source.id] })
    await server.stores.space.keep(daysFromNow(29))
    await call('POST', '/api/sources/restore', { ids: [source.id] })
    await call('POST', '/api/sources/delete', { ids: [source.id] })
    await server.stores.space.keep(daysFromNow(31))
    expect(codeOf(await call('POST', '/api/sources/restore', { ids: [source.id] }))).toBe(
      'source/not-found',
    )
  })
  it('can be replaced wherever they are used, one revision each, and undo brings the old one back', async () => {
    const [before, after] = [
      await addClip('old.mp4', 'viaduct-crossing.mp4', otherwise(3)),
      await named('aurora-fjord'),
    ]
    const spot = project.pages[0]!.spots[1]!.id
    const made = (
      await call<BackdropRecord>('POST', `/api/spots/${spot}/backdrops`, {
        name: 'Band',
        sourceId: before.id,
      })
    ).body
    expect(
      (
        await call<{ backdrops: string[] }>('POST', `/api/sources/${before.id}/replace`, {
          withSourceId: after.id,
        })
      ).body,
    ).toEqual({ backdrops: ['Band'] })
    const now = (await call<BackdropRecord>('GET', `/api/backdrops/${made.id}`)).body
    expect([
      now.revision,
      asFootage(now.document).base.material.sourceId,
      now.history.past.length,
    ]).toEqual([2, after.id, 1])
    expect((await call<Source>('GET', `/api/sources/${before.id}`)).body.usedBy).toEqual([])
    const image = await named('first-snow')
    expect(
      codeOf(await call('POST', `/api/sources/${after.id}/replace`, { withSourceId: image.id })),
    ).toBe('source/other-kind')
    await call('DELETE', `/api/backdrops/${made.id}`)
  })
  it('that are a backdrop’s image come back with it, and are not forgotten as long as a revision knows them', async () => {
    const [clip, image] = [
      await addClip('with-still.mp4', 'viaduct-crossing.mp4', otherwise(9)),
      await named('window-seat'),
    ]
    const made = (
      await call<BackdropRecord>('POST', `/api/spots/${project.pages[0]!.spots[1]!.id}/backdrops`, {
        name: 'With an image',
        sourceId: clip.id,
      })
    ).body
    const picture = {
      kind: 'source' as const,
      sourceId: image.id,
      sha256: image.sha256,
      mime: 'image/png',
      bytes: image.facts.bytes,
    }
    const save = (baseRevision: number) =>
      client.save(made, {
        baseRevision,
        label: 'poster',
        document: { ...made.document, poster: { ...made.document.poster, picture } },
      })
    expect((await save(1)).status).toBe(200)
    const refused = await call<{ error: { details: { usedBy: string[] } } }>(
      'POST',
      '/api/sources/delete',
      { ids: [image.id] },
    )
    expect([codeOf(refused), refused.body.error.details.usedBy]).toEqual([
      'source/in-use',
      ['With an image'],
    ])
    expect((await named('window-seat')).usedBy).toEqual(['With an image'])
    expect((await client.save(made, { baseRevision: 2, label: 'undo' })).status).toBe(200)
    expect((await call('POST', '/api/sources/delete', { ids: [image.id] })).status).toBe(204)
    await server.stores.space.keep(new Date(), 0)
    expect((await save(3)).status).toBe(200)
    expect((await named('window-seat')).id).toBe(image.id)
    await call('DELETE', `/api/backdrops/${made.id}`)
  })
  it('come back when undo leads to them, and are not forgotten as long as a revision knows them', async () => {
    const [before, after] = [
      await addClip('undone.mp4', 'viaduct-crossing.mp4', otherwise(4)),
      await named('aurora-fjord'),
    ]
    const made = (
      await call<BackdropRecord>('POST', `/api/spots/${project.pages[0]!.spots[1]!.id}/backdrops`, {
        name: 'Undone',
        sourceId: before.id,
      })
    ).body
    await call('POST', `/api/sources/${before.id}/replace`, { withSourceId: after.id })
    await call('POST', '/api/sources/delete', { ids: [before.id] })
    await server.stores.space.keep(daysFromNow(31))
    const { history } = (await call<BackdropRecord>('GET', `/api/backdrops/${made.id}`)).body
    expect((await client.save(made, { baseRevision: 2, label: 'undo', history })).status).toBe(200)
    expect((await call<Source>('GET', `/api/sources/${before.id}`)).body.usedBy).toEqual(['Undone'])
    await call('DELETE', `/api/backdrops/${made.id}`)
    await call('POST', '/api/sources/delete', { ids: [before.id] })
  })
  it('keep nothing of a repair that broke off', async () => {
    const source = await addClip('broken.mp4', 'viaduct-crossing.mp4', otherwise(5))
    const { Blob, Chunk } = server.database.models
    const blob = await Blob.findOne({ where: { sha256: source.sha256 }, rejectOnEmpty: true })
    // A chunk of its data is lost after it was read: the copy cannot be made whole.
    await Chunk.update({ data: Buffer.alloc(200_000, 7) }, { where: { blobId: blob.id, seq: 0 } })
    const held = await Blob.count()
    const answer = await call('POST', `/api/sources/${source.id}/repairs`, { operation: 'strip' })
    expect([answer.status, codeOf(answer), await Blob.count()]).toEqual([
      422,
      'source/repair',
      held,
    ])
    await call('POST', '/api/sources/delete', { ids: [source.id] })
  })
  it('are made a backdrop of by what they are: footage, an image, or a paint without any', async () => {
    const [clip, image] = [await named('tunnel-mouth'), await named('first-snow')]
    const known: (readonly [string | null, string | null])[] = []
    const made = async (sourceId: string | null) => {
      const answer = await call<BackdropRecord>(
        'POST',
        `/api/spots/${project.pages[0]!.spots[1]!.id}/backdrops`,
        { name: 'Any', sourceId },
      )
      const { pages } = (await call<Project>('GET', `/api/projects/${project.id}`)).body
      const listed = pages[0]!.spots[1]!.backdrops.find(({ id }) => id === answer.body.id)!
      known.push([listed.sourceId, listed.paint?.kind ?? null])
      await call('DELETE', `/api/backdrops/${answer.body.id}`)
      return answer.body.document.base
    }
    const bases = [await made(clip.id), await made(image.id), await made(null)]
    expect(bases.map(({ kind }) => kind)).toEqual(['footage', 'image', 'paint'])
    expect(bases[1]).toMatchObject({ material: { sourceId: image.id } })
    expect(known).toEqual([
      [clip.id, null],
      [image.id, null],
      [null, 'paint'],
    ])
  })
  it('that are images replace one another, and are kept while a backdrop shows them', async () => {
    const [image, other, clip] = [
      await named('first-snow'),
      await named('window-seat'),
      await named('tunnel-mouth'),
    ]
    const made = (
      await call<BackdropRecord>('POST', `/api/spots/${project.pages[0]!.spots[1]!.id}/backdrops`, {
        name: 'Snow',
        sourceId: image.id,
      })
    ).body
    expect(codeOf(await call('POST', '/api/sources/delete', { ids: [image.id] }))).toBe(
      'source/in-use',
    )
    const replace = (withSourceId: string) =>
      call<{ backdrops: string[] }>('POST', `/api/sources/${image.id}/replace`, { withSourceId })
    expect(codeOf(await replace(clip.id))).toBe('source/other-kind')
    expect((await replace(other.id)).body).toEqual({ backdrops: ['Snow'] })
    const { document, revision } = (await call<BackdropRecord>('GET', `/api/backdrops/${made.id}`))
      .body
    expect([document.base, revision]).toMatchObject([{ material: { sourceId: other.id } }, 2])
    await call('DELETE', `/api/backdrops/${made.id}`)
  })
  it('give a new backdrop the part without card, black and cuts', async () => {
    const tunnel = await named('tunnel-mouth')
    const made = (
      await call<BackdropRecord>('POST', `/api/spots/${project.pages[0]!.spots[1]!.id}/backdrops`, {
        name: 'Tunnel',
        sourceId: tunnel.id,
      })
    ).body
    const { cut } = asFootage(made.document).base.timing
    expect([cut.start / cut.timescale, cut.end / cut.timescale]).toEqual([0, 4])
    await call('DELETE', `/api/backdrops/${made.id}`)
  })
})

describe('repairs', () => {
  it('take the sound out in place, keep what was measured and rendered, and can be undone', async () => {
    const before = (await call<Source>('GET', `/api/sources/${(await named('dusk-window')).id}`))
      .body
    const renditions = await server.database.models.Rendition.count()
    const { body: repaired } = await call<Repaired>('POST', `/api/sources/${before.id}/repairs`, {
      operation: 'no-sound',
    })
    expect(repaired.bytesBefore - repaired.bytesAfter).toBeGreaterThan(200_000)
    expect(repaired.source).toMatchObject({
      id: before.id,
      facts: { audio: false, bytes: repaired.bytesAfter },
      analysis: before.analysis,
      strip: before.strip,
    })
    expect((await bytesOf(repaired.source.sha256)).byteLength).toBe(repaired.bytesAfter)
    expect(await server.database.models.Rendition.count()).toBe(renditions * 2)
    const undone = (
      await call<Source>('PUT', `/api/sources/${before.id}/content`, { sha256: repaired.before })
    ).body
    expect([
      undone.sha256,
      undone.facts.kind === 'clip' && undone.facts.audio,
      await server.database.models.Rendition.count(),
    ]).toEqual([before.sha256, true, renditions * 2])
  })
  it('cut a part out as a source of its own, from the key frame before', async () => {
    const tunnel = await named('tunnel-mouth')
    const { body: repaired } = await call<Repaired>('POST', `/api/sources/${tunnel.id}/repairs`, {
      operation: 'cut',
      startMs: 4100,
      endMs: 7000,
    })
    expect([repaired.added, repaired.source.name, repaired.startMs]).toEqual([
      true,
      'tunnel-mouth 4.1–7.0.mp4',
      4000,
    ])
    expect(repaired.source.facts).toMatchObject({ durationMs: 3000 })
    expect((await named('tunnel-mouth.mp4')).sha256).toBe(tunnel.sha256)
    await call('POST', '/api/sources/delete', { ids: [repaired.source.id] })
  })
  it('say what stands against them', async () => {
    const [image, aurora] = [await named('first-snow'), await named('aurora-fjord')]
    expect(
      codeOf(await call('POST', `/api/sources/${image.id}/repairs`, { operation: 'strip' })),
    ).toBe('source/repair')
    const refused = await call<{ error: { message: string } }>(
      'POST',
      `/api/sources/${aurora.id}/repairs`,
      { operation: 'cut', startMs: 5000, endMs: 2000 },
    )
    expect([refused.status, refused.body.error.message]).toEqual([
      422,
      expect.stringContaining('There are no frames between'),
    ])
    expect(
      codeOf(await call('PUT', `/api/sources/${aurora.id}/content`, { sha256: '0'.repeat(64) })),
    ).toBe('source/no-undo')
  })
})

describe('sets of images', () => {
  it('keep the order they are given, leave out what is no image, and lose what is taken off the shelf', async () => {
    // The demonstration’s image backdrop keeps one of them.
    const ids = (await list('kind=image&sort=name')).sources
      .filter(({ usedBy }) => usedBy.length === 0)
      .map((source) => source.id)
    const clip = await named('aurora-fjord')
    const { body: set } = await call<ImageSet>('POST', `/api/projects/${project.id}/sets`, {
      name: 'Order',
      sourceIds: [ids[2], clip.id, ids[0], ids[2], ids[1]],
    })
    expect(set.sourceIds).toEqual([ids[2], ids[0], ids[1]])
    const { body: turned } = await call<ImageSet>('PUT', `/api/sets/${set.id}`, {
      name: 'Turned',
      sourceIds: [ids[1], ids[2]],
    })
    expect(turned).toMatchObject({ name: 'Turned', sourceIds: [ids[1], ids[2]] })
    await call('POST', '/api/sources/delete', { ids: [ids[1]] })
    expect(
      (await call<ImageSet[]>('GET', `/api/projects/${project.id}/sets`)).body.find(
        (each) => each.id === set.id,
      )!.sourceIds,
    ).toEqual([ids[2]])
    await call('POST', '/api/sources/restore', { ids: [ids[1]] })
    expect(
      (await call<ImageSet[]>('GET', `/api/projects/${project.id}/sets`)).body.find(
        (each) => each.id === set.id,
      )!.sourceIds,
    ).toEqual([ids[1], ids[2]])
    expect(await names(`set=${set.id}&sort=name`)).toHaveLength(2)
    expect((await call('DELETE', `/api/sets/${set.id}`)).status).toBe(204)
    expect(codeOf(await call('DELETE', `/api/sets/${set.id}`))).toBe('set/not-found')
    expect((await list('kind=image')).total).toBe(9)
  })
})

describe('drawings', () => {
  it('are sent so that they run nothing when opened by themselves', async () => {
    const map = await named('route-map')
    const answer = await fetch(`${server.url}/media/${map.sha256}?type=image/svg%2Bxml`)
    expect(answer.headers.get('content-type')).toContain('image/svg+xml')
    expect(answer.headers.get('content-security-policy')).toContain('sandbox')
  })
})
