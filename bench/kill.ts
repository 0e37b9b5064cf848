import { asFootage } from '../core/testing/samples'
import { createHash, randomInt } from 'node:crypto'
import { pino } from 'pino'
import type { BackdropRecord, Project, Rendition, Source, SourceCard } from '../core/api/wire'
import { recipeKey } from '../core/backdrop/recipe'
import {
  createCluster,
  killCluster,
  processesOf,
  removeCluster,
  startCluster,
  urlOf,
  type Cluster,
} from '../scripts/lib/postgres.mjs'
import { ApiError } from '../server/ApiError'
import { openDatabase, type Database } from '../server/store/database'
import { createStores } from '../server/store/stores'
import { paddedClip, readClip } from '../server/testing/clip'
import { TestClient } from '../server/testing/TestClient'
import { paddedProof, type Made } from './paddedProof'
import { RunningServer } from './runningServer'
import { evenScrim } from '../core/scrim/Scrim'

/*
 * The server, the database, one of its connections, or all of it at once is killed (SIGKILL) at
 * random moments while files are uploaded and finished, a backdrop is saved, and finished files are
 * handed in. Clients do what the studio does: they repeat what was not acknowledged. Afterwards
 * everything acknowledged must be there, once and exactly.
 */

const ROUNDS = 60
const UPLOAD_BYTES = 5_000_000
const LAST_PART_BYTES = 1_000
const RENDITION_BYTES = 3_000_000
const SAVES = 25
const DAY_MS = 86_400_000

type Victim = 'server' | 'database' | 'one connection' | 'both'
const VICTIMS: readonly Victim[] = [
  'server',
  'database',
  'server',
  'one connection',
  'server',
  'database',
  'both',
  'server',
  'database',
  'server',
]
type Step = 'uploading' | 'finishing' | 'saving' | 'handing in'

/**
 * Runs all rounds and prints the results; fails at the first file or edit that is lost, doubled or
 * incomplete.
 */
export async function measureKills(files: string): Promise<void> {
  const cluster = await createCluster(`telon-kill-${Date.now().toString(36)}`)
  const server = await RunningServer.start(urlOf(cluster))
  try {
    await new KillRun(cluster, server, await readClip(), files).run()
  } finally {
    await server.stop()
    await removeCluster(cluster)
  }
}

class KillRun {
  private readonly client: TestClient
  private readonly underWay = new Map<Step, number>()
  private readonly caught = new Map<Step, number>()
  private readonly deaths = new Map<Victim, number>()
  private repeated = 0
  private project!: Project
  private backdrop!: BackdropRecord
  /** The demonstration, and what the rounds begin with. */
  private before!: Counts
  private readonly cluster: Cluster
  private readonly server: RunningServer
  private readonly clip: Buffer
  private readonly files: string

  constructor(cluster: Cluster, server: RunningServer, clip: Buffer, files: string) {
    this.cluster = cluster
    this.server = server
    this.clip = clip
    this.files = files
    this.client = new TestClient(server)
  }

  async run(): Promise<void> {
    const { project, backdrop } = await this.client.makeBackdrop(this.clip)
    this.project = project
    this.backdrop = backdrop
    const database = await openDatabase(this.server.databaseUrl)
    this.before = await countAll(database)
    await database.close()
    const start = performance.now()
    await this.work(0)
    const undisturbedMs = performance.now() - start
    console.log(`a round without a kill takes ${undisturbedMs.toFixed(0)} ms`)
    for (let round = 1; round <= ROUNDS; round++) {
      const victim = VICTIMS[round % VICTIMS.length]!
      await Promise.all([
        this.work(round),
        this.killAfter(randomInt(Math.ceil(undisturbedMs)), victim),
      ])
    }
    console.log(
      `${ROUNDS} kills: ${[...this.deaths].map(([victim, count]) => `${victim} ${count}`).join(', ')}`,
    )
    console.log(
      `under way at the moment of a kill: ${[...this.caught].map(([step, count]) => `${step} ${count}`).join(', ')}`,
    )
    console.log(`requests repeated by the clients: ${this.repeated}`)
    // The last one started frees space just now, as every server does at its start.
    await this.server.stop()
    await this.checkEverything()
  }

  /** One round of everything; resolves when all of it is acknowledged and found stored. */
  private async work(round: number): Promise<void> {
    const large = paddedClip(this.clip, UPLOAD_BYTES, 2 * round)
    const other = paddedClip(this.clip, UPLOAD_BYTES, 2 * round + 1)
    const twin = (
      await this.repeat(() =>
        this.client.call<Project>('POST', '/api/projects', { name: `Twin ${round}` }),
      )
    ).body
    await Promise.all([
      this.upload(large, this.project, `large-${round}.mp4`),
      this.upload(other, this.project, `other-${round}.mp4`),
      // The same content at the same time.
      this.upload(large, twin, `twin-${round}.mp4`),
      this.saves(round),
      this.handIn(
        await paddedProof(this.files, asFootage(this.backdrop.document), RENDITION_BYTES, round),
      ),
    ])
  }

  private async killAfter(ms: number, victim: Victim): Promise<void> {
    await new Promise((resolve) => setTimeout(resolve, ms))
    for (const [step, count] of this.underWay)
      if (count > 0) this.caught.set(step, (this.caught.get(step) ?? 0) + 1)
    this.deaths.set(victim, (this.deaths.get(victim) ?? 0) + 1)
    const pid = this.server.pid
    if (victim === 'one connection') process.kill(processesOf(this.cluster).at(-1)!, 'SIGKILL')
    if (victim === 'server' || victim === 'both') await this.server.kill()
    if (victim === 'database' || victim === 'both') {
      await killCluster(this.cluster)
      startCluster(this.cluster)
    }
    if (victim === 'server' || victim === 'both') await this.server.run()
    else if (!this.server.isRunning || this.server.pid !== pid)
      throw new Error('the server did not survive its database')
  }

  /** Repeats a request until it is answered with success, as the studio's stores do. */
  private async repeat<T extends { readonly status: number }>(send: () => Promise<T>): Promise<T> {
    for (let attempt = 0; attempt < 400; attempt++) {
      const answer = await send().catch(() => null)
      if (answer && answer.status < 300) return answer
      if (answer && ![409, 423, 503].includes(answer.status))
        throw new Error(`answered ${answer.status}: ${JSON.stringify(answer)}`)
      this.repeated += 1
      await new Promise((resolve) => setTimeout(resolve, 50))
    }
    throw new Error('no success in 400 attempts')
  }

  private async during<T>(step: Step, work: () => Promise<T>): Promise<T> {
    this.underWay.set(step, (this.underWay.get(step) ?? 0) + 1)
    try {
      return await work()
    } finally {
      this.underWay.set(step, this.underWay.get(step)! - 1)
    }
  }

  private async upload(bytes: Buffer, project: Project, name: string): Promise<void> {
    const begun = await this.repeat(() =>
      this.client.beginUpload(bytes.byteLength, name, project.id),
    )
    const location = begun.headers.get('location')!
    const last = bytes.byteLength - LAST_PART_BYTES
    let sourceId: string | null = null
    while (sourceId === null) {
      const head = await this.repeat(() => this.client.head(location))
      sourceId = head.headers.get('x-source-id')
      if (sourceId !== null) break
      const offset = Number(head.headers.get('upload-offset'))
      const [step, end] =
        offset < last ? (['uploading', last] as const) : (['finishing', bytes.byteLength] as const)
      const sent = await this.during(step, () =>
        this.client.sendPart(location, offset, bytes.subarray(offset, end)).catch(() => null),
      )
      sourceId = sent?.headers.get('x-source-id') ?? null
      if (sent?.status !== 204) this.repeated += 1
      await sent?.arrayBuffer().catch(() => undefined)
    }
    const sha256 = createHash('sha256').update(bytes).digest('hex')
    const { body } = await this.repeat(() =>
      this.client.call<Source>('GET', `/api/sources/${sourceId}`),
    )
    expectEqual(`${name} on the shelf`, body.sha256, sha256)
    const shelf = await this.repeat(() =>
      this.client.call<{ sources: SourceCard[] }>(
        'GET',
        `/api/projects/${project.id}/sources?limit=100`,
      ),
    )
    expectEqual(
      `${name} once`,
      shelf.body.sources.filter((source) => source.sha256 === sha256).length,
      1,
    )
  }

  private async saves(round: number): Promise<void> {
    for (let turn = 0; turn < SAVES; turn++) {
      const { document } = this.backdrop
      const changed = {
        ...document,
        scrim: evenScrim('#14101c', (round * SAVES + turn) / 10_000),
      }
      const save = {
        saveId: crypto.randomUUID(),
        label: `strength ${round}.${turn}`,
        document: changed,
      }
      const answer = await this.during('saving', () =>
        this.repeat(() => this.client.save(this.backdrop, save)),
      )
      expectEqual('revision of a save', answer.body.revision, this.backdrop.revision + 1)
      this.backdrop = { ...this.backdrop, document: changed, revision: answer.body.revision }
    }
    const { body } = await this.repeat(() =>
      this.client.call<BackdropRecord>('GET', `/api/backdrops/${this.backdrop.id}`),
    )
    expectEqual(
      'the document',
      [body.revision, body.document.scrim.layers[0]!.strength],
      [this.backdrop.revision, this.backdrop.document.scrim.layers[0]!.strength],
    )
  }

  private async handIn({ recipe, facts, bytes }: Made): Promise<void> {
    const kept = await this.during('handing in', () => this.untilKept({ recipe, facts, bytes }))
    expectEqual('the key of a finished file', kept.key, recipeKey(recipe))
    const file = await this.repeat(async () => {
      const answer = await this.client.fetch(`/media/${kept.sha256}`)
      // A kill in the middle of the answer cuts it off: then it is asked for again, as a page does.
      return { status: answer.status, bytes: Buffer.from(await answer.arrayBuffer()) }
    })
    const sha256 = createHash('sha256').update(file.bytes).digest('hex')
    expectEqual('a finished file', sha256, createHash('sha256').update(bytes).digest('hex'))
  }

  private async untilKept({ recipe, facts, bytes }: Made): Promise<Rendition> {
    for (;;) {
      const begun = await this.repeat(() =>
        this.client.call<{ id: string | null; rendition: Rendition | null }>(
          'POST',
          '/api/renditions',
          { recipe, facts, bytes: bytes.byteLength },
        ),
      )
      if (begun.body.rendition) return begun.body.rendition
      const put = {
        method: 'PUT',
        headers: { 'Content-Type': 'application/octet-stream' },
        body: new Uint8Array(bytes),
      }
      const answer = await this.client
        .fetch(`/api/renditions/${begun.body.id}`, put)
        .catch(() => null)
      const text = await answer?.text().catch(() => null)
      if (answer?.status === 200 && text) return JSON.parse(text) as Rendition
      if (answer && ![200, 409, 503].includes(answer.status))
        throw new Error(`answered ${answer.status}: ${text}`)
      this.repeated += 1
      await new Promise((resolve) => setTimeout(resolve, 50))
    }
  }

  /** Reads everything the database holds, without the server. */
  private async checkEverything(): Promise<void> {
    const database = await openDatabase(this.server.databaseUrl)
    const stores = createStores(database, pino({ level: 'error' }))
    const found = await countAll(database)
    const rounds = ROUNDS + 1
    const { before } = this
    expectEqual('what is there', found, {
      sources: before.sources + 3 * rounds,
      renditions: before.renditions + rounds,
      // Two of the three uploads of a round are of equal content.
      files: before.files + 2 * rounds + rounds,
      revisions: before.revisions + SAVES * rounds,
    })
    expectEqual('revision', this.backdrop.revision, 1 + SAVES * rounds)
    const wrong = await countOf(
      database,
      `SELECT count(*) FROM (SELECT blobs.id FROM blobs LEFT JOIN chunks ON chunks.blob_id = blobs.id GROUP BY blobs.id
      HAVING blobs.received <> coalesce(sum(octet_length(chunks.data)), 0)
      OR (blobs.sha256 IS NOT NULL AND blobs.received <> blobs.size)) AS wrong`,
    )
    expectEqual('files whose rows are not their chunks', wrong, 0)
    const blobs = await database.query<{ id: string; sha256: string; size: string }>(
      'SELECT id, sha256, size FROM blobs WHERE sha256 IS NOT NULL',
    )
    for (const { id, sha256, size } of blobs) {
      expectEqual('a stored file', await stores.blobs.rehash({ id, size: Number(size) }), sha256)
    }
    const bytes = blobs.reduce((sum, { size }) => sum + Number(size), 0)
    console.log(
      `nothing is lost, doubled or half: ${found.sources} sources, ` +
        `${found.renditions} finished files, ${found.revisions} revisions`,
    )
    console.log(
      `all ${blobs.length} files read again (${(bytes / 1e6).toFixed(0)} MB): each digest is right`,
    )
    // An upload whose creation was not answered was created again: the first one is removed after
    // its grace period.
    const abandoned = await countOf(database, 'SELECT count(*) FROM blobs WHERE sha256 IS NULL')
    await whenFree(() => stores.space.keep(new Date(Date.now() + 31 * DAY_MS)))
    expectEqual(
      'abandoned files',
      await countOf(database, 'SELECT count(*) FROM blobs WHERE sha256 IS NULL'),
      0,
    )
    console.log(
      `${abandoned} broken-off uploads, which clients had begun anew, were freed after their thirty days`,
    )
    await stores.prober.close()
    await database.close()
  }
}

/** The database of a killed server may hold its lock for a moment. */
async function whenFree<T>(work: () => Promise<T>): Promise<T> {
  for (;;) {
    try {
      return await work()
    } catch (error) {
      if (!(error instanceof ApiError && error.code === 'space/busy')) throw error
      await new Promise((resolve) => setTimeout(resolve, 500))
    }
  }
}

interface Counts {
  readonly sources: number
  readonly renditions: number
  readonly files: number
  readonly revisions: number
}

async function countAll(database: Database): Promise<Counts> {
  return {
    sources: await countOf(database, 'SELECT count(*) FROM sources'),
    renditions: await countOf(database, 'SELECT count(*) FROM renditions'),
    files: await countOf(database, 'SELECT count(*) FROM blobs WHERE sha256 IS NOT NULL'),
    revisions: await countOf(database, 'SELECT count(*) FROM revisions'),
  }
}

async function countOf(database: Database, sql: string): Promise<number> {
  const [row] = await database.query<{ count: string }>(sql)
  return Number(row!.count)
}

function expectEqual(what: string, actual: unknown, expected: unknown): void {
  const [found, wanted] = [JSON.stringify(actual), JSON.stringify(expected)]
  if (found !== wanted) throw new Error(`${what}: ${found}, expected ${wanted}`)
}
