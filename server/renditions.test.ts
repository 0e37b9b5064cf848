import { readFile } from 'node:fs/promises'
import { Readable } from 'node:stream'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { AnyRecipe } from '../core/api/recipes'
import type {
  BackdropRecord,
  ClipFacts,
  PosterFacts,
  Rendition,
  RenditionFacts,
  Source,
} from '../core/api/wire'
import {
  posterRecipes,
  probeOf,
  proofRecipe,
  recipeKey,
  type ClipRecipe,
  type PosterRecipe,
} from '../core/backdrop/recipe'
import { sequenceFrom, type FootageSequence } from '../core/kinds/footage/footageSequence'
import { encodeTrace } from '../core/loop/FrameTrace'
import { knownAs, asFootage } from '../core/testing/samples'
import { madeSchema, seedDemo } from '../demo/seedDemo'
import { codeOf, TestClient } from './testing/TestClient'
import { startTestServer, type TestServer } from './testing/testServer'

/*
 * Real files of the demonstration, handed in as a worker hands them in; each is damaged or told
 * wrongly in one way.
 */

let server: TestServer
let client: TestClient
let proof: { recipe: ClipRecipe; facts: ClipFacts; bytes: Buffer }
let poster: { recipe: PosterRecipe; facts: PosterFacts; bytes: Buffer }
beforeAll(async () => {
  server = await startTestServer({ prepare: seedDemo })
  client = new TestClient(server)
  const [project] = (await client.call<{ latestBackdropId: string }[]>('GET', '/api/projects')).body
  const document = asFootage(
    (await client.call<BackdropRecord>('GET', `/api/backdrops/${project!.latestBackdropId}`)).body
      .document,
  )
  const source = (
    await client.call<Source>('GET', `/api/sources/${document.base.material.sourceId}`)
  ).body
  const from = knownAs({ sha256: source.sha256, width: 1920, height: 1080 }, source.id)
  const file = (name: string): Promise<Buffer> =>
    readFile(new URL(`../demo/files/${name}`, import.meta.url))
  const made = madeSchema.parse(JSON.parse((await file('made.json')).toString()))
  const factsOf = <T>(recipe: AnyRecipe): { facts: T; file: string } => {
    const found = made.find((each) => each.key === recipeKey(recipe))!
    return { facts: found.facts as T, file: found.file! }
  }
  const recipe = proofRecipe(document, from)!
  const told = factsOf<ClipFacts>(recipe)
  proof = { recipe, facts: told.facts, bytes: await file(told.file) }
  const webp = posterRecipes(document, from).find((each) => each.recipe.format === 'webp')!.recipe
  const kept = factsOf<PosterFacts>(webp)
  poster = { recipe: webp, facts: kept.facts, bytes: await file(kept.file) }
  await server.database.query('DELETE FROM renditions RETURNING key')
})
afterAll(() => server.stop())

async function handIn(
  recipe: AnyRecipe,
  facts: RenditionFacts,
  bytes: Uint8Array,
  announced = bytes.byteLength,
) {
  const begun = await client.call<{ id: string | null; rendition: Rendition | null }>(
    'POST',
    '/api/renditions',
    { recipe, facts, bytes: announced },
  )
  if (begun.status !== 200 || begun.body.id === null) return begun
  const answer = await client.fetch(`/api/renditions/${begun.body.id}`, {
    method: 'PUT',
    headers: { 'Content-Type': 'application/octet-stream' },
    body: new Uint8Array(bytes),
  })
  return { status: answer.status, body: (await answer.json()) as unknown }
}
const sequenceOf = ({ sequence }: ClipRecipe): FootageSequence => sequence as FootageSequence
/** The proof's recipe with a loop of another length. */
function atSpeed(speed: number): ClipRecipe {
  const sequence = sequenceOf(proof.recipe)
  const loop = { ...sequence.loop, speed }
  return { ...proof.recipe, sequence: sequenceFrom({ ...sequence, loop }) }
}
const blobs = (): Promise<number> => server.database.models.Blob.count()

describe('a finished file', () => {
  it('is kept under its recipe where it is what the recipe says, once', async () => {
    for (const { recipe, facts, bytes } of [proof, poster]) {
      const kept = await handIn(recipe, facts, bytes)
      expect([kept.status, (kept.body as Rendition).key]).toEqual([200, recipeKey(recipe)])
      const again = await handIn(recipe, facts, bytes)
      expect(again.body).toMatchObject({ id: null, rendition: { key: recipeKey(recipe) } })
    }
  })
  it('is kept once when two hand it in at the same moment', async () => {
    const sequence = sequenceFrom({ ...sequenceOf(proof.recipe), sourceSha256: 'c'.repeat(64) })
    const recipe = { ...proof.recipe, sequence }
    const both = await Promise.all([1, 2, 3].map(() => handIn(recipe, proof.facts, proof.bytes)))
    expect(both.map((answer) => answer.status)).toEqual([200, 200, 200])
    expect(
      await server.database.models.Rendition.count({ where: { key: recipeKey(recipe) } }),
    ).toBe(1)
  })
  it.each<[string, () => [AnyRecipe, RenditionFacts, Uint8Array], string]>([
    [
      'no file at all',
      () => [atSpeed(2), proof.facts, Buffer.from('anything')],
      'rendition/mismatch',
    ],
    [
      'a file that ends early',
      () => [atSpeed(0.5), proof.facts, proof.bytes.subarray(0, 4000)],
      'rendition/mismatch',
    ],
    [
      'a clip where a poster is expected',
      () => [{ ...poster.recipe, maxBytes: 1 }, poster.facts, proof.bytes],
      'rendition/mismatch',
    ],
    [
      'a clip of other pixels',
      () => [
        { ...proof.recipe, width: 320, height: 180 },
        { ...proof.facts, width: 320, height: 180 },
        proof.bytes,
      ],
      'rendition/mismatch',
    ],
    [
      'a clip of other frames',
      () => [atSpeed(4), { ...proof.facts, frames: 12 }, proof.bytes],
      'rendition/mismatch',
    ],
    [
      'a clip of another codec',
      () => [{ ...proof.recipe, family: 'av1' }, proof.facts, proof.bytes],
      'rendition/mismatch',
    ],
    [
      'another container',
      () => [
        {
          ...proof.recipe,
          family: 'vp9',
          sequence: sequenceFrom({ ...sequenceOf(proof.recipe), loops: false }),
        },
        { ...proof.facts, type: 'video/webm' },
        proof.bytes,
      ],
      'rendition/mismatch',
    ],
    [
      'facts of another kind',
      () => [{ ...proof.recipe, noiseReduction: 0.1 }, poster.facts, proof.bytes],
      'rendition/mismatch',
    ],
    [
      'a codec that the bitstream does not name',
      () => [
        { ...proof.recipe, noiseReduction: 0.2 },
        { ...proof.facts, codec: 'avc1.640033' },
        proof.bytes,
      ],
      'rendition/mismatch',
    ],
    [
      'a poster in another format',
      () => [
        { ...poster.recipe, format: 'jpeg' },
        { ...poster.facts, type: 'image/jpeg' },
        poster.bytes,
      ],
      'rendition/mismatch',
    ],
    [
      'a poster of other pixels',
      () => [{ ...poster.recipe, width: 10, height: 10 }, poster.facts, poster.bytes],
      'rendition/mismatch',
    ],
    [
      'a trace that is none',
      () => [
        { kind: 'trace', sourceSha256: 'd'.repeat(64) },
        { kind: 'trace', moments: 3 },
        Buffer.from('TLTR'),
      ],
      'rendition/mismatch',
    ],
    [
      'more frames than a schema allows',
      () => [proof.recipe, { ...proof.facts, frames: 1e300 }, proof.bytes],
      'request/invalid',
    ],
    [
      'a recipe with a size that no picture has',
      () => [{ ...proof.recipe, width: 1e9 }, proof.facts, proof.bytes],
      'request/invalid',
    ],
  ])('is refused where it is %s, and nothing of it stays', async (_, make, code) => {
    const held = await blobs()
    const [recipe, facts, bytes] = make()
    const answer = await handIn(recipe, facts, bytes)
    expect([codeOf(answer), await blobs()]).toEqual([code, held])
  })
  it('is refused where its bytes are fewer or more than announced', async () => {
    const held = await blobs()
    const recipe = { ...proof.recipe, noiseReduction: 0.3 }
    expect(
      (await handIn(recipe, proof.facts, proof.bytes, proof.bytes.byteLength + 1)).status,
    ).toBe(400)
    expect(
      (await handIn(recipe, proof.facts, proof.bytes, proof.bytes.byteLength - 1)).status,
    ).toBe(413)
    expect(await blobs()).toBe(held)
  })
  it('that was never announced is not taken', async () => {
    const answer = await client.fetch('/api/renditions/7b1f8c1e-0000-4000-8000-000000000009', {
      method: 'PUT',
      body: 'x',
    })
    expect(answer.status).toBe(404)
  })
  it('may be a trace, or what a probe told', async () => {
    const trace = encodeTrace({
      seconds: Float64Array.from([0, 0.1]),
      cells: new Uint8Array(2 * 32 * 18 * 3),
    })
    const sourceSha256 = 'e'.repeat(64)
    expect(
      (await handIn({ kind: 'trace', sourceSha256 }, { kind: 'trace', moments: 2 }, trace)).status,
    ).toBe(200)
    const facts: RenditionFacts = {
      kind: 'probe',
      steering: 'quantizer',
      bounds: { finest: 0, coarsest: 255 },
      anchorEvery: null,
      parts: [],
      frames: 48,
      seconds: 2,
      points: [{ setting: 100, keyBytes: 9000, frameBytes: 500, ssim: 0.97, psnr: 40 }],
    }
    expect(
      (await handIn(probeOf(proof.recipe), facts, Buffer.from(JSON.stringify(facts)))).status,
    ).toBe(200)
    const other = { ...probeOf(proof.recipe), noiseReduction: 0.4 }
    expect(codeOf(await handIn(other, facts, Buffer.from('{}')))).toBe('rendition/mismatch')
  })
})

describe('a file that comes by tus', () => {
  const TUS = { 'Tus-Resumable': '1.0.0', 'Content-Type': 'application/offset+octet-stream' }
  const announce = async (recipe: AnyRecipe, bytes: number): Promise<string> => {
    const answer = await client.call<{ id: string }>('POST', '/api/renditions', {
      ...{ recipe, facts: proof.facts, bytes },
    })
    return `/api/renditions/${answer.body.id}`
  }
  const patch = (path: string, offset: number, bytes: Uint8Array): Promise<Response> =>
    client.fetch(path, {
      method: 'PATCH',
      headers: { ...TUS, 'Upload-Offset': String(offset) },
      body: new Uint8Array(bytes),
    })
  const head = async (path: string): Promise<[number, string | null]> => {
    const answer = await client.fetch(path, { method: 'HEAD', headers: TUS })
    return [answer.status, answer.headers.get('Upload-Offset')]
  }
  const isKept = async (recipe: AnyRecipe): Promise<boolean> =>
    (await server.stores.renditions.find([recipeKey(recipe)])).length > 0
  const recipeOf = (noiseReduction: number): ClipRecipe => ({ ...proof.recipe, noiseReduction })

  it('goes on where it was interrupted, and is kept with its last byte', async () => {
    const recipe = recipeOf(0.5)
    const { bytes } = proof
    const path = await announce(recipe, bytes.byteLength)
    expect((await patch(path, 0, bytes.subarray(0, 4000))).status).toBe(204)
    expect(await head(path)).toEqual([200, '4000'])
    expect((await patch(path, 3000, bytes.subarray(3000))).status).toBe(409)
    expect(await isKept(recipe)).toBe(false)
    expect((await patch(path, 4000, bytes.subarray(4000))).status).toBe(204)
    expect(await isKept(recipe)).toBe(true)
    expect((await head(path))[0]).toBe(404)
  })

  it('is kept by the next question, where the server ended after its last byte', async () => {
    const recipe = recipeOf(0.6)
    const { bytes } = proof
    const path = await announce(recipe, bytes.byteLength)
    await server.stores.blobs.append(path.split('/').at(-1)!, 0, Readable.from([bytes]))
    expect(await head(path)).toEqual([200, String(bytes.byteLength)])
    expect(await isKept(recipe)).toBe(true)
  })

  it('is refused where it is not what its recipe says, and nothing of it stays', async () => {
    const held = await blobs()
    const path = await announce(recipeOf(0.7), 8)
    const answer = await patch(path, 0, Buffer.from('anything'))
    expect([answer.status, codeOf({ body: await answer.json() })]).toEqual([
      422,
      'rendition/mismatch',
    ])
    expect([await blobs(), (await head(path))[0]]).toEqual([held, 404])
  })

  it('takes no more bytes than were announced', async () => {
    const path = await announce(recipeOf(0.8), 8)
    expect((await patch(path, 0, Buffer.from('more than 8'))).status).toBe(413)
  })

  it('was announced', async () => {
    const path = '/api/renditions/7b1f8c1e-0000-4000-8000-000000000009'
    expect((await patch(path, 0, Buffer.from('x'))).status).toBe(404)
    expect((await patch('/api/renditions/any', 0, Buffer.from('x'))).status).toBe(404)
  })
})
