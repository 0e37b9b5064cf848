import type { TakenJob, WorkJob } from '../core/api/work'
import { proofRecipe, recipeKey, type ProbeRecipe } from '../core/backdrop/recipe'
import { inventBackdrop, knownAs, PROBE_FACTS } from '../core/testing/samples'
import { inProject } from '../node/projectRoot'
import { versionOf } from '../node/version'
import { Refusal } from '../node/ServerRequests'
import { ServerLink } from '../render-worker/ServerLink'
import { TestClient } from '../server/testing/TestClient'
import { openDatabase } from '../server/store/database'
import { makeDatabase } from '../server/testing/testServer'
import { RunningServer } from './runningServer'

/*
 * Many render workers that only pretend to encode, over HTTP against two servers of one database,
 * some of which end in the middle of a job: how many jobs a minute, and whether any is lost, made
 * twice or left over. The servers have processes of their own; the workers share this one.
 */

const TOKEN = `tln_${'f'.repeat(43)}`
const X264 = 'x264 0.164.3095'
/** Seconds that a job takes, at least and at most. */
const SECONDS = [2, 8] as const
/** Share of jobs in the middle of which their worker ends without a word. */
const CRASHES = 0.03
const HELLO_MS = 5000
const PROGRESS_MS = 1000
const REQUESTED_AT_ONCE = 100

const SEQUENCE = proofRecipe(
  inventBackdrop(),
  knownAs({ sha256: 'a'.repeat(64), width: 1280, height: 720 }),
)!.sequence
/** A recipe of its own for each number. */
const recipe = (number: number): ProbeRecipe => ({
  ...{ kind: 'probe', sequence: SEQUENCE, copyBlur: null, family: 'h264', noiseReduction: 0 },
  ...{ width: 2 + 2 * (number % 1900), height: 2 + 2 * Math.floor(number / 1900), encoder: X264 },
})

const pause = (ms: number): Promise<void> => new Promise((resolve) => setTimeout(resolve, ms))

/** What the fleet has done so far. */
class Fleet {
  crashes = 0
  /** How often each job was stored by a worker that was still asked for it. */
  readonly made = new Map<string, number>()
  private readonly ending = new AbortController()

  constructor(
    private readonly servers: readonly string[],
    private readonly version: string,
  ) {}

  /** Works as one machine, in place of which another one comes when it ends. */
  async machine(number: number): Promise<void> {
    const { signal } = this.ending
    for (let life = 0; !signal.aborted; life++) {
      const server = this.servers[(number + life) % this.servers.length]!
      await this.worker(new ServerLink(server, TOKEN), `machine-${number}`).catch(
        (error: unknown) => {
          if (!signal.aborted && !(error instanceof Refusal)) throw error
        },
      )
    }
  }

  end(): void {
    this.ending.abort()
  }

  /** One worker, until it crashes. */
  private async worker(link: ServerLink, name: string): Promise<void> {
    const { signal } = this.ending
    const facts = {
      ...{ id: crypto.randomUUID(), name, version: this.version, encoders: [X264] },
      ...{ machine: 'pretended', speeds: [] },
    }
    await link.hello(facts)
    const greeting = setInterval(() => void link.hello(facts).catch(() => undefined), HELLO_MS)
    try {
      while (!signal.aborted) {
        const job = await link.take(facts.id, signal)
        if (job && !(await this.render(link, facts.id, job))) return
      }
    } finally {
      clearInterval(greeting)
    }
  }

  /** Whether it has survived the job. */
  private async render(link: ServerLink, workerId: string, job: TakenJob): Promise<boolean> {
    const { jobId } = job
    const [least, most] = SECONDS
    const ms = 1000 * (least + Math.random() * (most - least))
    const crashesAt = Math.random() < CRASHES ? Math.random() * ms : Infinity
    for (let spent = 0; spent < ms; spent += PROGRESS_MS) {
      if (spent >= crashesAt) {
        this.crashes += 1
        return false
      }
      const told = {
        step: 'pass',
        pass: 0,
        done: spent / ms,
        secondsLeft: (ms - spent) / 1000,
      } as const
      if (!(await link.progress({ workerId, jobId, ...told }))) return true
      await pause(Math.min(PROGRESS_MS, ms - spent))
    }
    await link.store(
      job.recipe as ProbeRecipe,
      PROBE_FACTS,
      new TextEncoder().encode(JSON.stringify(PROBE_FACTS)),
    )
    await link.finished(workerId, jobId)
    const key = recipeKey(job.recipe)
    this.made.set(key, (this.made.get(key) ?? 0) + 1)
    return true
  }
}

/** `workers` machines render `jobs` files. */
export async function measureFleet(workers: number, jobs: number): Promise<void> {
  const made = await makeDatabase()
  const env = { TELON_WORKER_TOKEN: TOKEN }
  const servers = await Promise.all([1, 2].map(() => RunningServer.start(made.url, env)))
  const database = await openDatabase(made.url)
  const count = async (sql: string, values: readonly unknown[] = []): Promise<number> =>
    (
      await database.query<{ count: number }>(`SELECT count(*)::integer AS count ${sql}`, values)
    )[0]!.count
  const version = await versionOf(inProject('dist'))
  const urls = servers.map(({ url }) => url)
  const fleet = new Fleet(urls, version)
  const client = new TestClient(servers[0]!)
  const recipes = Array.from({ length: jobs }, (_, number) => recipe(number))
  const before = servers.map((server) => server.usage().seconds)
  const start = performance.now()
  const machines = Array.from({ length: workers }, (_, number) => fleet.machine(number))
  for (let at = 0; at < jobs; at += REQUESTED_AT_ONCE)
    await client.call<WorkJob[]>('POST', '/api/jobs/request', {
      recipes: recipes.slice(at, at + REQUESTED_AT_ONCE),
      priority: 5,
    })
  const askedSeconds = (performance.now() - start) / 1000
  let left = jobs
  let half = 0
  while (left > 0) {
    await pause(1000)
    left = await count('FROM render_jobs')
    if (!half && left <= jobs / 2) half = (performance.now() - start) / 1000
  }
  const seconds = (performance.now() - start) / 1000
  const used = servers.map((server) => server.usage())
  fleet.end()
  await Promise.all(machines)
  const keys = recipes.map(recipeKey)
  const stored = await count('FROM renditions WHERE key = ANY($1::text[])', [keys])
  const queued = await count('FROM telon_queue.job')
  const twice = [...fleet.made.values()].filter((times) => times > 1).length
  const cores = used.map(({ seconds: spent }, index) => (spent - before[index]!) / seconds)
  const own = process.cpuUsage()
  console.log(
    [
      `${workers} workers, two servers, ${jobs} jobs of ${SECONDS.join(' to ')} s: asked for in ${askedSeconds.toFixed(1)} s, all made after ${seconds.toFixed(0)} s, ${((jobs / seconds) * 60).toFixed(0)} a minute (the first half ${((jobs / 2 / half) * 60).toFixed(0)})`,
      `${fleet.crashes} crashes, ${stored} files, ${jobs - stored} lost, ${twice} finished twice, ${queued} left in the queue`,
      `servers: ${cores.map((each) => each.toFixed(2)).join(' and ')} cores, ${used.map(({ bytes }) => (bytes / 1e6).toFixed(0)).join(' and ')} MB; workers together ${((own.user + own.system) / 1e6 / seconds).toFixed(2)} cores`,
    ].join('\n'),
  )
  await database.close()
  for (const server of servers) await server.stop()
  await made.drop()
}
