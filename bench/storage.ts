import { asFootage } from '../core/testing/samples'
import { randomBytes } from 'node:crypto'
import { readFileSync } from 'node:fs'
import { request } from 'node:http'
import pg from 'pg'
import type { Project, Rendition } from '../core/api/wire'
import { TestClient } from '../server/testing/TestClient'
import { paddedClip, readClip } from '../server/testing/clip'
import { paddedProof, type Made } from './paddedProof'
import { RunningServer } from './runningServer'

/*
 * How fast files go in and out, against what the same PostgreSQL does with bare statements in the
 * same run: rows of 1 MiB through bound parameters, and `substring` on the column. The server runs
 * in a process of its own, as in production.
 */

const MIB = 1024 * 1024
const PART_BYTES = 16 * MIB
const LARGE_BYTES = 214_000_000
const MANY = 30
const MANY_BYTES = 12_000_000
const TURNS = 3

const megabytesPerSecond = (bytes: number, ms: number): number => bytes / 1000 / ms
const median = (values: readonly number[]): number =>
  [...values].sort((a, b) => a - b)[values.length >> 1]!

/** Runs all measurements and prints them; ends with an error where a ratio is missed. */
export async function measureStorage(demoFiles: string): Promise<void> {
  const server = await RunningServer.start()
  const failures: string[] = []
  const check = (name: string, ratio: number, atLeast: number): void => {
    const told = `${name}: ratio ${ratio.toFixed(2)} (at least ${atLeast})`
    console.log(told)
    if (ratio < atLeast) failures.push(told)
  }
  try {
    const client = new TestClient(server)
    const project = await client.makeProject('Bench')
    const clip = await readClip()
    const large = paddedClip(clip, LARGE_BYTES - clip.byteLength, 7)
    const small = paddedClip(clip, MANY_BYTES - clip.byteLength, 9)
    const bareRates: number[] = []
    const oneRates: number[] = []
    const manyRates: number[] = []
    for (let turn = 0; turn < TURNS; turn++) {
      bareRates.push(await bareInserts(server.databaseUrl))
      const file = varied(large, turn)
      oneRates.push(
        megabytesPerSecond(file.byteLength, await uploadTime(server.url, project, file)),
      )
      const files = Array.from({ length: MANY }, (_, file) =>
        varied(small, MANY * turn + file + 100),
      )
      const start = performance.now()
      await Promise.all(files.map((file) => uploadTime(server.url, project, file)))
      manyRates.push(megabytesPerSecond(MANY * MANY_BYTES, performance.now() - start))
    }
    const [bare, one, many] = [median(bareRates), median(oneRates), median(manyRates)]
    console.log(`bare bound inserts of 1 MiB: ${bare.toFixed(0)} MB/s`)
    console.log(
      `one upload of ${(LARGE_BYTES / 1e6).toFixed(0)} MB: ${one.toFixed(1)} MB/s, checked and shelved`,
    )
    check('one upload against bare inserts', one / bare, 0.5)
    console.log(
      `${MANY} uploads of ${(MANY_BYTES / 1e6).toFixed(0)} MB at once: ${many.toFixed(1)} MB/s together`,
    )
    check(`${MANY} uploads at once against bare inserts`, many / bare, 0.5)

    const sha256 = (await client.shelfOf(project.id, 'sort=bytes'))[0]!.sha256
    const reads = await readsAgainstBare(server, sha256)
    console.log(
      `reading it back: ${reads.rate.toFixed(0)} MB/s; bare reads of 1 MiB: ${reads.bareRate.toFixed(0)} MB/s`,
    )
    check('reading against bare reads', reads.rate / reads.bareRate, 0.8)
    const times = reads.rangeMs / reads.substringMs
    console.log(
      `a range of one byte: ${reads.rangeMs.toFixed(2)} ms; bare substring: ${reads.substringMs.toFixed(2)} ms`,
    )
    console.log(`a small range against a bare substring: ${times.toFixed(1)} times (at most 10)`)
    if (times > 10) failures.push('small ranges')
    console.log(
      `memory of the server until here: at most ${peakMegabytes(server.pid).toFixed(0)} MB resident`,
    )
    await renditionsAtOnce(demoFiles)
  } finally {
    await server.stop()
  }
  if (failures.length > 0) throw new Error(`missed: ${failures.join('; ')}`)
}

/**
 * The memory that a server of its own takes while four finished files of 60 MB are handed in at
 * once, and fetched.
 */
async function renditionsAtOnce(demoFiles: string): Promise<void> {
  const server = await RunningServer.start()
  try {
    const client = new TestClient(server)
    const { backdrop } = await client.makeBackdrop(await readClip())
    const made = await Promise.all(
      Array.from({ length: 4 }, (_, number) =>
        paddedProof(demoFiles, asFootage(backdrop.document), 60_000_000, number),
      ),
    )
    // Preparing them took long: connections that the server has closed in between must be
    // recognised as closed.
    await new Promise((resolve) => setTimeout(resolve, 200))
    const before = peakMegabytes(server.pid)
    const kept = await Promise.all(made.map((each) => handIn(client, each)))
    const taken = peakMegabytes(server.pid)
    await Promise.all(kept.map((each) => download(server.url, each.sha256)))
    const sent = peakMegabytes(server.pid)
    const [first, then, last] = [before, taken, sent].map((peak) => peak.toFixed(0))
    console.log(
      `four finished files of 60 MB at once: ${first} MB resident before, at most ${then} MB while taken, ${last} MB when sent`,
    )
  } finally {
    await server.stop()
  }
}

async function handIn(client: TestClient, { recipe, facts, bytes }: Made): Promise<Rendition> {
  const announced = { recipe, facts, bytes: bytes.byteLength }
  const { body } = await client.call<{ id: string }>('POST', '/api/renditions', announced)
  const answer = await client.fetch(`/api/renditions/${body.id}`, {
    method: 'PUT',
    headers: { 'Content-Type': 'application/octet-stream' },
    body: new Uint8Array(bytes),
  })
  if (!answer.ok) throw new Error(`answered ${answer.status}: ${await answer.text()}`)
  return (await answer.json()) as Rendition
}

/** The same bytes with another end, so that content is new every time. */
function varied(bytes: Buffer, mark: number): Buffer {
  const copy = Buffer.from(bytes)
  copy.writeUInt32BE(mark, copy.byteLength - 4)
  return copy
}

/** Milliseconds from the first byte until the file is on the shelf. */
async function uploadTime(url: string, project: Project, bytes: Buffer): Promise<number> {
  const client = new TestClient({ url })
  const start = performance.now()
  const begun = await client.beginUpload(bytes.byteLength, 'bench.mp4', project.id)
  const location = begun.headers.get('location')!
  for (let offset = 0; offset < bytes.byteLength; offset += PART_BYTES) {
    await patch(new URL(location, url), url, offset, bytes.subarray(offset, offset + PART_BYTES))
  }
  return performance.now() - start
}

/** A part by plain HTTP: what `fetch` adds on this side is no part of the measurement. */
function patch(target: URL, origin: string, offset: number, part: Buffer): Promise<void> {
  const headers = {
    Origin: origin,
    'Tus-Resumable': '1.0.0',
    'Upload-Offset': String(offset),
    'Content-Type': 'application/offset+octet-stream',
    'Content-Length': part.byteLength,
  }
  return new Promise((resolve, reject) => {
    const sent = request(target, { method: 'PATCH', headers }, (answer) => {
      answer.resume()
      answer.on('end', () =>
        answer.statusCode === 204 ? resolve() : reject(new Error(`answered ${answer.statusCode}`)),
      )
    })
    sent.on('error', reject)
    sent.end(part)
  })
}

/** Milliseconds for a file, or a range of it. */
function download(url: string, sha256: string, range?: string): Promise<number> {
  const start = performance.now()
  return new Promise((resolve, reject) => {
    const sent = request(
      `${url}/media/${sha256}`,
      { headers: range ? { Range: range } : {} },
      (answer) => {
        answer.on('data', () => undefined)
        answer.on('end', () => resolve(performance.now() - start))
      },
    )
    sent.on('error', reject)
    sent.end()
  })
}

/**
 * How fast the same database takes 200 rows of 1 MiB through bound parameters on one connection, in
 * MB/s.
 */
async function bareInserts(url: string): Promise<number> {
  const client = await connected(url)
  await client.query('CREATE TABLE bare (id uuid, seq integer, data bytea, PRIMARY KEY (id, seq))')
  await client.query('ALTER TABLE bare ALTER COLUMN data SET STORAGE EXTERNAL')
  const data = randomBytes(MIB)
  const id = crypto.randomUUID()
  const start = performance.now()
  for (let seq = 0; seq < 200; seq++)
    await client.query('INSERT INTO bare VALUES ($1, $2, $3)', [id, seq, data])
  const ms = performance.now() - start
  await client.query('DROP TABLE bare')
  await client.end()
  return megabytesPerSecond(200 * MIB, ms)
}

async function connected(url: string): Promise<pg.Client> {
  const client = new pg.Client(url)
  await client.connect()
  return client
}

interface Reads {
  /** MB/s. */
  readonly rate: number
  readonly bareRate: number
  readonly rangeMs: number
  readonly substringMs: number
}

/**
 * A file as the server sends it, against bare statements on the same rows. They alternate, so that
 * other work of the database (a checkpoint after all those uploads) slows both.
 */
async function readsAgainstBare(server: RunningServer, sha256: string): Promise<Reads> {
  const bare = await connected(server.databaseUrl)
  const { rows } = await bare.query<{ id: string; size: string }>(
    'SELECT id, size FROM blobs WHERE sha256 = $1',
    [sha256],
  )
  const { id, size } = rows[0]!
  const chunks = Math.floor(Number(size) / MIB)
  const wholeMs: number[] = []
  const bareWholeMs: number[] = []
  for (let turn = 0; turn < 7; turn++) {
    wholeMs.push(await download(server.url, sha256))
    const start = performance.now()
    for (let seq = 0; seq < chunks; seq++) {
      await bare.query('SELECT data FROM chunks WHERE blob_id = $1 AND seq = $2', [id, seq])
    }
    bareWholeMs.push(performance.now() - start)
  }
  const rangeMs: number[] = []
  const substringMs: number[] = []
  for (let turn = 0; turn < 1000; turn++) {
    const seq = (turn * 37) % chunks
    const at = (turn * 5000) % MIB
    rangeMs.push(await download(server.url, sha256, `bytes=${seq * MIB + at}-${seq * MIB + at}`))
    const start = performance.now()
    await bare.query(
      'SELECT substring(data FROM $3::int FOR 1) AS part FROM chunks WHERE blob_id = $1 AND seq = $2',
      [id, seq, at + 1],
    )
    substringMs.push(performance.now() - start)
  }
  await bare.end()
  return {
    rate: megabytesPerSecond(Number(size), median(wholeMs)),
    bareRate: megabytesPerSecond(chunks * MIB, median(bareWholeMs)),
    rangeMs: median(rangeMs),
    substringMs: median(substringMs),
  }
}

/** Peak memory of a process, as the kernel reports it. */
function peakMegabytes(pid: number): number {
  const status = readFileSync(`/proc/${pid}/status`, 'utf8')
  return Number(/VmHWM:\s+(\d+) kB/.exec(status)?.[1] ?? 0) / 1024
}
