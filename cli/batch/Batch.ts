import { stat } from 'node:fs/promises'
import { join } from 'node:path'
import { setTimeout as sleep } from 'node:timers/promises'
import { z } from 'zod'
import { renditionSchema, type Rendition } from '../../core/api/wire'
import { renderWorkerSchema, workJobsSchema, type WorkJob } from '../../core/api/work'
import { FIRST_DECISIONS, type BackdropDocument } from '../../core/backdrop/BackdropDocument'
import { clipRecipes, posterRecipes, recipeKey, type Recipe } from '../../core/backdrop/recipe'
import { inParts } from '../../core/inParts'
import { bestNames, type EncoderNames } from '../../core/weight/native/bestNames'
import { RenderBrowser } from '../../headless/RenderBrowser'
import { isPassing, type ServerRequests } from '../../node/ServerRequests'
import { MisplacedOptions, UsageError } from '../DeliverOptions'
import { draft, withParticles, type Draft } from '../draft'
import { sayContrast, writeFolder, type MadeFile } from '../writeFolder'
import type { Delivery } from './BatchList'
import { digestOf, type BatchState } from './BatchState'

/** Recipes that are asked for, and keys that are looked up, in one request. */
const MAX_ASKED = 100
/** After those that someone looks at. */
const PRIORITY = 3
const POLL_MS = 2000
/** So often workers with encoders are looked for before there are none. */
const MAX_LOOKS = 30

/** What became of a delivery. */
export interface Outcome {
  readonly name: string
  readonly state: 'delivered' | 'unchanged' | 'queued' | 'failed'
  readonly reason?: string
  /** Whether its copy can be read throughout; null where that is not known. */
  readonly readable?: boolean | null
}

export interface BatchParts {
  readonly requests: ServerRequests
  readonly state: BatchState
  /** Puts a file on the shelf of the project. */
  readonly sendFile: (file: string) => Promise<unknown>
  readonly encoders: 'best' | 'browser'
  readonly say: (line: string) => void
  /** Told when a delivery has come to its end. */
  readonly onOutcome: (outcome: Outcome) => void
  /** Aborted where nobody waits any more. */
  readonly signal: AbortSignal
  readonly pollMs?: number
}

/** A delivery of which all is decided but its encoders. */
interface Drafted {
  readonly delivery: Delivery
  readonly drafted: Draft
  readonly document: BackdropDocument
  readonly digest: string
}
/** A delivery whose files are asked for. */
interface Queued extends Drafted {
  readonly recipes: ReadonlyMap<string, Recipe>
}

/**
 * Deliveries whose files render workers of a server make: each is queued with its sources, and its
 * folder is written here as soon as all of its files are there.
 */
export class Batch {
  private readonly queued = new Map<string, Queued>()
  private readonly made = new Map<string, Rendition>()
  private browser: Promise<RenderBrowser> | null = null
  private lastSaid = ''

  constructor(private readonly parts: BatchParts) {}

  /** Deliveries whose files are not all there. */
  get waiting(): number {
    return this.queued.size
  }

  /**
   * Asks for the files of a delivery; one that was delivered before, and has not changed, is left
   * alone. What cannot be used is an outcome, not an error. Errors: UsageError where nobody there
   * could render; Refusal.
   */
  async queue(delivery: Delivery): Promise<void> {
    const { name } = delivery
    const drafted = await this.orFail(name, () => this.draft(delivery))
    if (!drafted) return
    if (drafted === 'unchanged') return this.parts.onOutcome({ name, state: 'unchanged' })
    const queued = await this.withEncoders(drafted)
    const isSent = await this.orFail(name, () => this.sendSources(queued.drafted))
    if (!isSent) return
    await this.ask([...queued.recipes.values()])
    const { digest, document } = queued
    await this.parts.state.keep(name, { digest, document, isDelivered: false })
    this.queued.set(name, queued)
  }

  /** Asks what has been made; writes the folders that are complete. Errors: Refusal. */
  async collect(): Promise<void> {
    if (this.queued.size === 0) return
    const jobs = await this.look()
    for (const queued of [...this.queued.values()]) await this.goOn(queued, jobs)
    if (this.queued.size > 0) this.sayOnce(wordsOf(this.queued.size, [...jobs.values()]))
  }

  /** Collects until all is delivered, or nobody waits any more. */
  async wait(): Promise<void> {
    while (this.queued.size > 0 && !this.parts.signal.aborted) {
      await this.collect()
      if (this.queued.size > 0) await this.pause()
    }
  }

  /** Lets the browser go. What is queued stays so at the server. */
  async end(): Promise<void> {
    for (const name of this.queued.keys()) this.parts.onOutcome({ name, state: 'queued' })
    await (await this.browser?.catch(() => null))?.stop()
  }

  /** What is decided of a delivery: as before where it was queued before. */
  private async draft(asked: Delivery): Promise<Drafted | 'unchanged'> {
    const [delivery, plain] = await fitting(asked)
    const { name, options } = delivery
    const drafted = withParticles(plain, options)
    const digest = await digestOf(delivery)
    const before = this.parts.state.known(name, digest)
    if (before?.isDelivered && (await isThere(join(options.out, 'manifest.json'))))
      return 'unchanged'
    const say = (line: string): void => this.parts.say(`${name}: ${line}`)
    const settle = async () =>
      drafted.file ? drafted.settle(await this.open(), say) : drafted.document
    return { delivery, drafted, digest, document: before?.document ?? (await settle()) }
  }

  /** With the encoders that files are made by: those of before where they are still there. */
  private async withEncoders(drafted: Drafted): Promise<Queued> {
    const { encoders, present } = await this.encodersThere()
    const { weight } = drafted.document
    const named = Object.values(weight.encoders).filter((name) => name !== null)
    const areThere = named.length > 0 && named.every((name) => present.has(name))
    const document = areThere
      ? drafted.document
      : { ...drafted.document, weight: { ...weight, encoders } }
    const { known, file } = drafted.drafted
    const recipes = file ? [...clipRecipes(document, known), ...posterRecipes(document, known)] : []
    return {
      ...{ ...drafted, document },
      recipes: new Map(recipes.map(({ recipe }) => [recipeKey(recipe), recipe])),
    }
  }

  private async encodersThere(): Promise<{ encoders: EncoderNames; present: Set<string> }> {
    const { requests, encoders } = this.parts
    // A worker that has just started, or starts again, is there in some seconds.
    for (let tried = 1; ; tried++) {
      const workers = await this.answered(() =>
        requests.get('/api/jobs/workers', z.array(renderWorkerSchema)),
      )
      const present = new Set(workers.flatMap((worker) => worker.encoders))
      if (workers.length === 0) this.sayOnce('No render worker is running: waiting for one.')
      if (encoders === 'browser') return { encoders: FIRST_DECISIONS.weight.encoders, present }
      const best = bestNames([...present])
      if (Object.values(best).some((name) => name !== null)) return { encoders: best, present }
      if (tried >= MAX_LOOKS)
        throw new UsageError(
          `No render worker with encoders is running at ${requests.server}. Start one (Work, Add a machine), or choose --encoders browser.`,
        )
      await this.pause()
    }
  }

  private async sendSources({ file, sha256 }: Draft): Promise<true> {
    const { requests, sendFile } = this.parts
    const files = typeof file === 'string' ? { [sha256]: file } : (file ?? {})
    for (const [digest, path] of Object.entries(files))
      if (!(await this.answered(() => requests.has(digest)))) await sendFile(path)
    return true
  }

  private async ask(recipes: readonly Recipe[]): Promise<void> {
    const { requests } = this.parts
    for (const part of inParts(recipes, MAX_ASKED)) {
      const order = { recipes: part, priority: PRIORITY }
      await this.answered(() => requests.post('/api/jobs/request', order, workJobsSchema))
    }
  }

  /** The jobs of files that are not made; keeps those that are. */
  private async look(): Promise<Map<string, WorkJob>> {
    const { requests } = this.parts
    const keys = [...this.queued.values()].flatMap(({ recipes }) => [...recipes.keys()])
    const unmade = (): string[] => [...new Set(keys)].filter((key) => !this.made.has(key))
    const jobs = new Map<string, WorkJob>()
    // Jobs first: one that ends in between is found among what is made.
    for (const part of inParts(unmade(), MAX_ASKED))
      for (const job of await this.answered(() =>
        requests.post('/api/jobs/look', { keys: part }, workJobsSchema),
      ))
        jobs.set(job.key, job)
    for (const part of inParts(unmade(), MAX_ASKED))
      for (const each of await this.answered(() =>
        requests.post('/api/renditions/lookup', { keys: part }, z.array(renditionSchema)),
      ))
        this.made.set(each.key, each)
    return jobs
  }

  private async goOn(queued: Queued, jobs: ReadonlyMap<string, WorkJob>): Promise<void> {
    const { name } = queued.delivery
    const unmade = [...queued.recipes.keys()].filter((key) => !this.made.has(key))
    if (unmade.length === 0) {
      await this.finish(queued)
      this.queued.delete(name)
      return
    }
    const failed = unmade.find((key) => jobs.get(key)?.state === 'failed')
    const cancelled = unmade.find((key) => !jobs.has(key))
    if (failed === undefined && cancelled === undefined) return
    this.queued.delete(name)
    const reason = failed === undefined ? 'It was cancelled under Work.' : jobs.get(failed)!.reason
    this.fail(name, new Error(reason ?? 'It failed.'))
  }

  /** Writes the folder of a delivery whose files are all there. */
  private async finish({ delivery, drafted, document, recipes, digest }: Queued): Promise<void> {
    const { requests, state, onOutcome } = this.parts
    const { name, options } = delivery
    const say = (line: string): void => this.parts.say(`${name}: ${line}`)
    const made = new Map<string, MadeFile>()
    for (const key of recipes.keys()) {
      const rendition = this.made.get(key)!
      const content = await this.answered(() => requests.bytes(rendition.sha256))
      made.set(key, { ...rendition, content })
    }
    const told = await this.orFail(name, async () => {
      await writeFolder(drafted, document, made, options, say)
      const contrast = await sayContrast(await this.open(), drafted, document, say)
      await state.keep(name, { digest, document, isDelivered: true })
      return contrast
    })
    if (!told) return
    onOutcome({ name, state: 'delivered', readable: told.readable })
  }

  /** Asks the server until it answers, or nobody waits any more. Errors: Refusal. */
  private async answered<T>(ask: () => Promise<T>): Promise<T> {
    for (;;) {
      try {
        return await ask()
      } catch (error) {
        if (!isPassing(error) || this.parts.signal.aborted) throw error
        this.sayOnce('The server does not answer. It is asked again until it does.')
        await this.pause()
      }
    }
  }

  private pause(): Promise<void> {
    return pause(this.parts.pollMs ?? POLL_MS, this.parts.signal)
  }

  /** Does something about one delivery; where that fails, it is the delivery's outcome. */
  private async orFail<T>(name: string, work: () => Promise<T>): Promise<T | null> {
    try {
      return await work()
    } catch (error) {
      if (this.parts.signal.aborted) throw error
      this.fail(name, error)
      return null
    }
  }

  private fail(name: string, error: unknown): void {
    const reason = error instanceof Error ? error.message : String(error)
    this.parts.onOutcome({ name, state: 'failed', reason })
  }

  private async open(): Promise<RenderBrowser> {
    const held = await this.browser?.catch(() => null)
    if (held?.isRunning) return held
    await held?.stop().catch(() => undefined)
    this.browser = RenderBrowser.start()
    return this.browser
  }

  private sayOnce(line: string): void {
    if (line !== this.lastSaid) this.parts.say(line)
    this.lastSaid = line
  }
}

/** A draft, without those options for all deliveries that are of no use to this one. */
async function fitting(delivery: Delivery): Promise<[Delivery, Draft]> {
  try {
    return [delivery, await draft(delivery.files, delivery.options)]
  } catch (error) {
    const less = error instanceof MisplacedOptions ? delivery.without(error.options) : null
    if (!less) throw error
    return fitting(await less)
  }
}

const isThere = async (path: string): Promise<boolean> =>
  (await stat(path).catch(() => null)) !== null

function wordsOf(left: number, jobs: readonly WorkJob[]): string {
  const running = jobs.filter(({ state }) => state === 'running').length
  const waiting = jobs.filter(({ state }) => state === 'waiting').length
  return `${left} ${left === 1 ? 'delivery' : 'deliveries'} to go: ${running} files rendering, ${waiting} waiting`
}

/** Waits; resolves at once where nobody waits any more. */
export const pause = (ms: number, signal: AbortSignal): Promise<void> =>
  sleep(ms, undefined, { signal }).catch(() => undefined)
