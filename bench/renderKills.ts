import { spawn, type ChildProcess } from 'node:child_process'
import { once } from 'node:events'
import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { runBatch } from '../cli/batch/runBatch'
import type { Outcome } from '../cli/batch/Batch'
import { manifestSchema } from '../core/handoff/manifest'
import { probeLine } from '../cli/probe'
import type { NewToken } from '../core/api/access'
import { inProject } from '../node/projectRoot'
import {
  createCluster,
  killCluster,
  removeCluster,
  startCluster,
  urlOf,
  type Cluster,
} from '../scripts/lib/postgres.mjs'
import { openDatabase } from '../server/store/database'
import { descendants, killAtOnce } from '../server/testing/processes'
import { TestClient } from '../server/testing/TestClient'
import { Namespaces } from './Namespaces'
import { RunningServer } from './runningServer'

/*
 * Deliveries by real render workers while processes are killed at random: workers, their browsers
 * and encoders, servers, the database, and lines. Whether every folder is whole in the
 * end, nothing was made twice, and nothing is left over.
 */

const TOKEN = `tln_${'k'.repeat(43)}`
/** Seconds between two kills, at least and at most. */
const EVERY = [4, 10] as const
/** A line is cut for so long: its worker counts as gone then. */
const LINE_SECONDS = 25
const CLIPS = ['viaduct-crossing.mp4', 'harbour-lights.mp4', 'aurora-fjord.webm', 'dusk-window.mov']
const IMAGES = ['first-snow.jpg', 'cabin-berth.jpg']
const ENCODERS = /x264|vpxenc|SvtAv1EncApp|aomenc/

const pause = (ms: number): Promise<void> => new Promise((resolve) => setTimeout(resolve, ms))

/** Whether there was any. */
function killAll(pids: readonly number[]): boolean {
  pids.forEach(killAtOnce)
  return pids.length > 0
}

/** What can be killed. */
class Victims {
  readonly counts = new Map<string, number>()

  constructor(
    private readonly servers: readonly RunningServer[],
    private readonly workers: readonly ChildProcess[],
    private readonly cluster: Cluster,
    private readonly namespaces: Namespaces | null,
  ) {}

  /** Kills something; says what. */
  async one(): Promise<void> {
    const index = Math.floor(Math.random() * this.workers.length)
    const worker = this.workers[index]!.pid!
    const kinds: Record<string, () => boolean | Promise<boolean>> = {
      worker: () => killAll(descendants(worker, /renderWorker\.js/)),
      browser: () => killAll(descendants(worker, /chromium/)),
      encoder: () => killAll(descendants(worker, ENCODERS)),
      server: async () => {
        const server = pick(this.servers)
        await server.kill()
        await server.run()
        return true
      },
      database: async () => {
        await killCluster(this.cluster)
        startCluster(this.cluster)
        return true
      },
    }
    const { namespaces } = this
    if (namespaces)
      kinds['line'] = async () => {
        namespaces.cut(index)
        await pause(1000 * LINE_SECONDS)
        namespaces.mend(index)
        return true
      }
    const kind = pick(Object.keys(kinds))
    if (await kinds[kind]!()) this.counts.set(kind, (this.counts.get(kind) ?? 0) + 1)
  }
}

const pick = <T>(all: readonly T[]): T => all[Math.floor(Math.random() * all.length)]!

/** A list of so many deliveries, of which no two make the same files. */
const listOf = (count: number): object => ({
  telonBatch: 1,
  project: 'Vesperline',
  options: { width: 320 },
  deliveries: Array.from({ length: count }, (_, index) => {
    const isClip = index % 5 !== 4
    const name = isClip ? CLIPS[index % CLIPS.length]! : IMAGES[index % IMAGES.length]!
    const options = isClip
      ? { start: 0.2 * Math.floor(index / 5), end: 0.2 * Math.floor(index / 5) + 2, budget: 90 }
      : { budget: 30 + index }
    return { files: [inProject(`demo/files/${name}`)], out: `out/${index}`, options }
  }),
})

/** The files of a folder that are not what its manifest says; all of them where it has none. */
async function damaged(folder: string): Promise<string[]> {
  const text = await readFile(join(folder, 'manifest.json'), 'utf8').catch(() => null)
  if (text === null) return [`${folder}: no manifest`]
  const wrong: string[] = []
  for (const path of manifestSchema.parse(JSON.parse(text)).files) {
    const bytes = await readFile(join(folder, path)).catch(() => null)
    if (!bytes || bytes.byteLength === 0) wrong.push(`${folder}/${path} is missing`)
    else if (/\.(mp4|webm)$/.test(path) && !(await probeLine(join(folder, path), path)).ok)
      wrong.push(`${folder}/${path} is no clip`)
  }
  return wrong
}

/** `count` deliveries by `workerCount` workers and two servers, while things are killed. */
export async function measureRenderKills(count: number, workerCount: number): Promise<void> {
  const cluster = await createCluster(`telon-render-kills-${Date.now().toString(36)}`)
  const namespaces = Namespaces.open(workerCount)
  const env = {
    TELON_WORKER_TOKEN: TOKEN,
    // Nobody but the namespaces reaches that address.
    ...(namespaces && { HOST: namespaces.address, TELON_BEHIND_PROXY: '1' }),
  }
  const servers = await Promise.all([1, 2].map(() => RunningServer.start(urlOf(cluster), env)))
  const folder = await mkdtemp(join(tmpdir(), 'telon-kills-'))
  await writeFile(join(folder, 'list.json'), JSON.stringify(listOf(count)))
  const { body: token } = await new TestClient(servers[0]!).call<NewToken>('POST', '/api/tokens', {
    name: 'Kills',
  })
  const workers = Array.from({ length: workerCount }, (_, index) => {
    const [command, ...words] = [
      ...(namespaces?.within(index) ?? []),
      ...[process.execPath, inProject('scripts/renderWorker.mjs')],
      ...['--server', servers[index % 2]!.url],
    ]
    return spawn(command!, words, {
      env: { ...process.env, TELON_WORKER_TOKEN: TOKEN, TMPDIR: folder },
      stdio: 'ignore',
    })
  })
  const victims = new Victims(servers, workers, cluster, namespaces)
  const ending = new AbortController()
  const killing = (async () => {
    // The first ones take long to be there.
    await pause(15_000)
    while (!ending.signal.aborted) {
      await victims.one()
      const [least, most] = EVERY
      await pause(1000 * (least + Math.random() * (most - least)))
    }
  })()
  const start = performance.now()
  const outcomes = new Map<string, Outcome>()
  let calls = 0
  while (calls < 10 && [...outcomes.values()].filter(isDone).length < count) {
    calls += 1
    await runBatch(
      join(folder, 'list.json'),
      {
        ...{ server: servers[0]!.url, token: token.secret, encoders: 'best', wait: true },
      },
      ending.signal,
      (line) => process.stderr.write(`${line}\n`),
      (outcome) => outcomes.set(outcome.name, outcome),
    ).catch((error: unknown) => process.stderr.write(`${String(error)}\n`))
    // A file whose encoder was killed twice fails with a reason: called again, it is tried again.
  }
  const seconds = (performance.now() - start) / 1000
  ending.abort()
  await killing
  const wrong = (
    await Promise.all(
      Array.from({ length: count }, (_, index) => damaged(join(folder, `out/${index}`))),
    )
  ).flat()
  const database = await openDatabase(urlOf(cluster))
  const number = async (sql: string): Promise<number> =>
    (await database.query<{ count: number }>(`SELECT count(*)::integer AS count ${sql}`))[0]!.count
  const [jobs, queued] = [await number('FROM render_jobs'), await number('FROM telon_queue.job')]
  console.log(
    [
      `${count} deliveries, ${workerCount} workers${namespaces ? ' in network namespaces' : ''}, two servers: ${[...outcomes.values()].filter(isDone).length} delivered in ${seconds.toFixed(0)} s, the list called ${calls} ${calls === 1 ? 'time' : 'times'}`,
      `killed: ${[...victims.counts].map(([kind, times]) => `${kind} ${times}`).join(', ')}`,
      `${wrong.length} files missing or damaged, ${jobs} jobs and ${queued} entries of the queue left`,
      ...wrong,
      ...[...outcomes.values()].filter((each) => !isDone(each)).map((each) => JSON.stringify(each)),
    ].join('\n'),
  )
  for (const worker of workers) {
    worker.kill('SIGTERM')
    if (worker.exitCode === null) await once(worker, 'exit')
  }
  for (const server of servers) await server.stop()
  await database.close()
  namespaces?.close()
  await removeCluster(cluster)
  await rm(folder, { recursive: true, force: true })
}

const isDone = ({ state }: Outcome): boolean => state === 'delivered' || state === 'unchanged'
