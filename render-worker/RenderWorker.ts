import { probeOf, recipeKey, type ProbeRecipe, type Recipe } from '../core/backdrop/recipe'
import type { TakenJob, WorkerFacts, WorkStep } from '../core/api/work'
import { cutText } from '../core/bounded'
import type { ProbeFacts } from '../core/weight/ProbeFacts'
import { KeptFrames } from '../encoders/KeptFrames'
import { EncoderKilled } from '../encoders/runEncoder'
import { renderFile, type Encoders } from '../encoders/renderFile'
import { DISK_FULL, isDiskFull } from '../encoders/scratchFolder'
import { RenderBrowser } from '../headless/RenderBrowser'
import { JobClock, Pace, type TimedStep } from './Pace'
import { Refusal } from '../node/ServerRequests'
import type { ServerLink } from './ServerLink'
import type { SourceCache } from './SourceCache'

/** The server is told that the worker is there, and how far it is. */
const HELLO_EVERY_MS = 5000
const PROGRESS_EVERY_MS = 1000
/** A server that does not answer is asked again after so long. */
const AGAIN_MS = 2000
/** A question for a job is answered later than this where there is none. */
const SOON_MS = 1000
/** A machine that could not do a job takes none for so long: another one takes it meanwhile. */
const REST_MS = 5000
/** Without work for so long, browser and frames are let go. */
const IDLE_MS = 60_000
/** A browser that ends in the middle of a job is started once more. */
const MAX_BROWSERS = 2
const MAX_REASON = 1000

/** What a worker works with; tests replace the browser. */
export interface WorkerParts {
  readonly link: ServerLink
  readonly sources: SourceCache
  readonly encoders: Encoders
  readonly facts: WorkerFacts
  readonly say: (line: string) => void
  readonly restMs?: number
  readonly startBrowser?: (signal: AbortSignal) => Promise<RenderBrowser>
}

/** Takes jobs from a server, one after another, renders their files and stores them there. */
export class RenderWorker {
  private readonly stopping = new AbortController()
  private readonly frames = new KeptFrames()
  private readonly pace = new Pace()
  private browser: RenderBrowser | null = null
  /** Files that this machine could not make and gave back; the second time they fail. */
  private readonly gaveBack = new Set<string>()
  /** What the server said last, so that it is said once. */
  private lastSaid = ''

  constructor(private readonly parts: WorkerParts) {}

  /**
   * Works until it is stopped. Rejects with a Refusal where the server does not want it: another
   * version, a token that is not known.
   */
  async run(): Promise<void> {
    const { signal } = this.stopping
    await this.greet()
    // Where it is not heard, or refused, the next question for a job finds out.
    const greeting = setInterval(() => {
      const { link, facts } = this.parts
      link.hello({ ...facts, speeds: this.pace.speeds() }).catch(() => undefined)
    }, HELLO_EVERY_MS)
    let idle: NodeJS.Timeout | undefined
    try {
      while (!signal.aborted) {
        const job = await this.next()
        if (!job) {
          idle ??= setTimeout(() => void this.letGo(), IDLE_MS)
          continue
        }
        clearTimeout(idle)
        idle = undefined
        await this.work(job)
      }
    } finally {
      clearInterval(greeting)
      clearTimeout(idle)
      const { link, facts } = this.parts
      await Promise.all([this.letGo(), link.goodbye(facts.id).catch(() => undefined)])
    }
  }

  /** Ends it: the job at hand goes back to the queue. */
  stop(): void {
    this.stopping.abort()
  }

  /** Says hello until the server hears it. */
  private async greet(): Promise<void> {
    const { link, facts } = this.parts
    for (;;) {
      try {
        await link.hello(facts)
        return this.sayOnce(
          `Ready for jobs, with ${facts.encoders.join(', ') || 'the browser’s encoders'}.`,
        )
      } catch (error) {
        if (error instanceof Refusal && UNWANTED.has(error.code)) throw error
        if (this.stopping.signal.aborted) return
        this.sayOnce(unansweredWords(error))
        await this.pause()
      }
    }
  }

  private async next(): Promise<TakenJob | null> {
    const start = performance.now()
    try {
      const job = await this.parts.link.take(this.parts.facts.id, this.stopping.signal)
      // A server that stops answers at once.
      if (!job && performance.now() - start < SOON_MS) await this.pause()
      return job
    } catch (error) {
      if (this.stopping.signal.aborted) return null
      if (error instanceof Refusal && error.code === 'work/unknown-worker') await this.greet()
      else if (error instanceof Refusal && UNWANTED.has(error.code)) throw error
      await this.pause()
      return null
    }
  }

  private async work({ jobId, recipe }: TakenJob): Promise<void> {
    const { link, facts, say } = this.parts
    const own = { workerId: facts.id, jobId }
    // Aborted where the worker stops, or the job is no longer its own.
    const abort = new AbortController()
    const stop = (): void => abort.abort()
    this.stopping.signal.addEventListener('abort', stop)
    const telling = new Telling((told) => link.progress({ ...own, ...told }), stop)
    try {
      await this.render(recipe, abort.signal, telling)
      await link.finished(own.workerId, jobId)
      say(`${nameOf(recipe)}: done`)
    } catch (error) {
      if (telling.isLost) return say(`${nameOf(recipe)}: no longer wanted`)
      const reason = cutText(wordsOf(error), MAX_REASON)
      const key = recipeKey(recipe)
      const isForAnother = isOfMachine(error, reason) && !this.gaveBack.has(key)
      const again = this.stopping.signal.aborted || isOnTheWay(error) || isForAnother
      say(`${nameOf(recipe)}: ${again ? 'given back. ' : ''}${reason}`)
      await link
        .failed({ ...own, reason, again })
        .catch(() => say('The server does not answer; it gives the job to another worker.'))
      this.gaveBack.delete(key)
      if (isForAnother) await this.rest(key)
    } finally {
      telling.end()
      this.stopping.signal.removeEventListener('abort', stop)
    }
  }

  private async render(
    recipe: Recipe | ProbeRecipe,
    signal: AbortSignal,
    telling: Telling,
  ): Promise<void> {
    const { link, sources, encoders } = this.parts
    telling.tell('sources', 0, () => ({ done: 0, secondsLeft: null }))
    const files = await sources.filesOf(digestsOf(recipe), signal)
    const probe = recipe.kind === 'clip' ? await this.probeFor(recipe) : null
    const clock = new JobClock(this.pace, recipe, () => performance.now() / 1000)
    const first = recipe.kind === 'poster' ? 'pass' : 'frames'
    const tell = (step: TimedStep, done: number, pass: number): void => {
      clock.at(step, done, pass)
      telling.tell(step, pass, () => clock.at(step, done, pass))
    }
    tell(first, 0, 0)
    const made = await this.inBrowser(signal, (browser) =>
      renderFile(browser, encoders, files, recipe, {
        ...{ signal, probe, frames: this.frames },
        onStep: tell,
      }),
    )
    clock.end()
    signal.throwIfAborted()
    telling.tell('storing', 0, () => ({ done: 1, secondsLeft: 0 }))
    if (recipe.kind === 'clip' && made.probe && !probe) {
      const probed = probeOf(recipe)
      const text = new TextEncoder().encode(JSON.stringify(made.probe))
      // The chart shows it; the file is as good without.
      await link.store(probed, made.probe, text).catch(() => undefined)
    }
    await link.store(recipe, made.facts, made.bytes)
  }

  private async probeFor(recipe: Recipe): Promise<ProbeFacts | null> {
    if (recipe.kind === 'poster') return null
    const facts = await this.parts.link.factsOf(probeOf(recipe)).catch(() => null)
    return facts?.kind === 'probe' ? facts : null
  }

  /** Works in the browser; where that ends by itself, once more in another one. */
  private async inBrowser<T>(
    signal: AbortSignal,
    work: (browser: RenderBrowser) => Promise<T>,
  ): Promise<T> {
    const start = this.parts.startBrowser ?? ((ended) => RenderBrowser.start(undefined, ended))
    for (let tried = 1; ; tried++) {
      // The browser's own encoders know no signal.
      const stop = (): void => void this.endBrowser()
      signal.addEventListener('abort', stop)
      try {
        this.browser ??= await start(signal)
        return await work(this.browser)
      } catch (error) {
        signal.throwIfAborted()
        if (this.browser?.isRunning) throw error
        if (tried >= MAX_BROWSERS)
          throw new BrowserEnded(`The browser ended ${tried} times.`, { cause: error })
        await this.endBrowser()
      } finally {
        signal.removeEventListener('abort', stop)
      }
    }
  }

  /** Another machine may do what this one could not; and so may this one with room and memory. */
  private async rest(key: string): Promise<void> {
    this.gaveBack.add(key)
    await this.letGo()
    await this.pause(this.parts.restMs ?? REST_MS)
  }

  private async endBrowser(): Promise<void> {
    const { browser } = this
    this.browser = null
    await browser?.stop().catch(() => undefined)
  }

  private async letGo(): Promise<void> {
    await Promise.all([this.endBrowser(), this.frames.clear()])
  }

  private pause(ms = AGAIN_MS): Promise<void> {
    if (this.stopping.signal.aborted) return Promise.resolve()
    return new Promise((resolve) => {
      const timer = setTimeout(resolve, ms)
      this.stopping.signal.addEventListener('abort', () => {
        clearTimeout(timer)
        resolve()
      })
    })
  }

  private sayOnce(line: string): void {
    if (line !== this.lastSaid) this.parts.say(line)
    this.lastSaid = line
  }
}

/** The browser of this machine does not stay. */
class BrowserEnded extends Error {
  override readonly name = 'BrowserEnded'
}

/** Whether another machine might do it: this one lacks room or memory, or things were killed. */
const isOfMachine = (error: unknown, reason: string): boolean =>
  error instanceof BrowserEnded || error instanceof EncoderKilled || reason === DISK_FULL

/** Refusals after which another try would end the same way. */
const UNWANTED: ReadonlySet<string> = new Set(['work/version', 'access/token', 'access/worker'])

/** Progress as it is told. */
interface Told {
  readonly step: WorkStep
  readonly pass: number
  readonly done: number
  readonly secondsLeft: number | null
}

/** Tells the server how far a job is: not too often, the latest, and that it goes on. */
class Telling {
  /** Whether the job is no longer this worker's. */
  isLost = false
  private latest: (() => Told) | null = null
  private step: WorkStep | null = null
  private readonly timer: NodeJS.Timeout

  constructor(
    private readonly send: (told: Told) => Promise<boolean>,
    private readonly onLost: () => void,
  ) {
    this.timer = setInterval(() => void this.flush(), PROGRESS_EVERY_MS)
  }

  /** `now` is asked each time that it is told: time passes also where a step tells nothing. */
  tell(step: WorkStep, pass: number, now: () => Pick<Told, 'done' | 'secondsLeft'>): void {
    const isNew = this.step !== step
    this.step = step
    this.latest = () => ({ step, pass, ...now() })
    if (isNew) void this.flush()
  }

  end(): void {
    clearInterval(this.timer)
  }

  private async flush(): Promise<void> {
    if (!this.latest || this.isLost) return
    // A server that is away may be back before the worker counts as gone.
    const goOn = await this.send(this.latest()).catch(() => true)
    if (goOn || this.isLost) return
    this.isLost = true
    this.onLost()
  }
}

/** The contents that a recipe is made from. */
function digestsOf(recipe: Recipe | ProbeRecipe): string[] {
  const own = [...recipe.sequence.inputs]
  if (recipe.kind === 'poster') {
    if (recipe.picture.kind === 'source') own.push(recipe.picture.sha256)
    recipe.shared?.pictures.forEach(({ sequence }) => own.push(...sequence.inputs))
  }
  return [...new Set(own)]
}

/** Why a file cannot be made, in words that help. */
function wordsOf(error: unknown): string {
  if (isDiskFull(error)) return DISK_FULL
  return (error instanceof Error ? error.message : String(error)) || 'It failed.'
}

/** Why a server is not heard, as far as it is known. */
function unansweredWords(error: unknown): string {
  const { cause } = error as { cause?: { code?: unknown } }
  const code = typeof cause?.code === 'string' ? cause.code : ''
  if (/CERT|SIGNATURE/.test(code))
    return `The server’s certificate is not trusted here (${code}). Set NODE_EXTRA_CA_CERTS to the file of the authority that signed it, and start the render worker again.`
  return `The server does not answer${code && ` (${code})`}. It is asked again until it does.`
}

/** Whether the server could not be reached for a while: that says nothing of the job. */
const isOnTheWay = (error: unknown): boolean =>
  error instanceof Error && (error.message === 'fetch failed' || error.name === 'TimeoutError')

/** A job in words, for the log. */
const nameOf = (recipe: Recipe | ProbeRecipe): string =>
  `${recipe.kind} ${recipe.kind === 'poster' ? recipe.format : recipe.family} ${recipe.width} × ${recipe.height}`
