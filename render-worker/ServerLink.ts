import { createHash } from 'node:crypto'
import { createReadStream } from 'node:fs'
import { open, stat } from 'node:fs/promises'
import { z, type ZodType } from 'zod'
import {
  announcedRenditionSchema,
  errorSchema,
  renditionSchema,
  type RenditionFacts,
} from '../core/api/wire'
import {
  goOnSchema,
  takenJobSchema,
  type FailedWork,
  type TakenJob,
  type WorkerFacts,
  type WorkProgress,
} from '../core/api/work'
import { recipeKey, type ProbeRecipe, type Recipe } from '../core/backdrop/recipe'

/** A refusal of the server, in its own words. */
export class Refusal extends Error {
  override readonly name = 'Refusal'
  constructor(
    readonly code: string,
    message: string,
  ) {
    super(message)
  }
}

/** Requests that take nothing long; a question for a job waits for one. */
const ANSWER_MS = 30_000
const STORE_MS = 300_000
/** Tries of a request whose answer decides about a finished file, and the wait between them. */
const TRIES = 6
const AGAIN_MS = 2000

/**
 * What a render worker says to its server, over HTTP only. Requests that fail on the way are sent
 * again where that does no harm. Errors: Refusal; what fetch throws.
 */
export class ServerLink {
  constructor(
    private readonly server: string,
    private readonly token: string,
    private readonly againMs = AGAIN_MS,
  ) {}

  hello(facts: WorkerFacts): Promise<null> {
    return this.post('/api/jobs/hello', facts, z.null())
  }

  /** The next job; null where none came. */
  take(workerId: string, signal: AbortSignal): Promise<TakenJob | null> {
    return this.post('/api/jobs/take', { workerId }, takenJobSchema.nullable(), signal)
  }

  /** Whether the job is still this worker's. */
  async progress(told: WorkProgress): Promise<boolean> {
    return (await this.post('/api/jobs/progress', told, goOnSchema)).goOn
  }

  finished(workerId: string, jobId: string): Promise<null> {
    return this.again(() => this.post('/api/jobs/finished', { workerId, jobId }, z.null()))
  }

  failed(told: FailedWork): Promise<null> {
    return this.again(() => this.post('/api/jobs/failed', told, z.null()))
  }

  /** The facts of a probe that is stored; null where there is none. */
  async factsOf(recipe: ProbeRecipe): Promise<RenditionFacts | null> {
    const found = await this.again(() =>
      this.post(
        '/api/renditions/lookup',
        { keys: [recipeKey(recipe)] },
        z.array(renditionSchema).max(1),
      ),
    )
    return found[0]?.facts ?? null
  }

  /** Stores a finished file, unless it is there already. */
  async store(
    recipe: Recipe | ProbeRecipe,
    facts: RenditionFacts,
    bytes: Uint8Array<ArrayBuffer>,
  ): Promise<void> {
    await this.again(async () => {
      const announced = { recipe, facts, bytes: bytes.byteLength }
      const { id } = await this.post('/api/renditions', announced, announcedRenditionSchema)
      if (id !== null)
        await this.send('PUT', `/api/renditions/${id}`, bytes, renditionSchema, STORE_MS)
    })
  }

  /**
   * Fetches a source to a file: what is there of it already is not fetched again, and the whole is
   * compared with its digest.
   */
  async fetchSource(sha256: string, path: string, signal: AbortSignal): Promise<void> {
    await this.again(async () => {
      const held = (await stat(path).catch(() => null))?.size ?? 0
      const answer = await fetch(new URL(`/media/${sha256}`, this.server), {
        headers: { ...this.headers, ...(held > 0 ? { Range: `bytes=${held}-` } : {}) },
        signal,
      })
      // Nothing is left to be fetched.
      const isWhole = answer.status === 416
      if (!answer.ok && !isWhole) throw await refusalOf(answer)
      if (!isWhole) await append(path, answer, answer.status === 206)
      if ((await digestOf(path)) === sha256) return
      await (await open(path, 'w')).close()
      throw new Error(`The source ${sha256} arrived damaged.`)
    }, signal)
  }

  /** Sends again what failed on the way, or what the server could not do at the moment. */
  private async again<T>(work: () => Promise<T>, signal?: AbortSignal): Promise<T> {
    for (let tried = 1; ; tried++) {
      try {
        return await work()
      } catch (error) {
        const isFinal = error instanceof Refusal && !PASSING.has(error.code)
        if (isFinal || tried >= TRIES || signal?.aborted) throw error
        await new Promise((resolve) => setTimeout(resolve, this.againMs))
      }
    }
  }

  private get headers(): Record<string, string> {
    return { Authorization: `Bearer ${this.token}` }
  }

  private post<T>(
    path: string,
    body: unknown,
    schema: ZodType<T>,
    signal?: AbortSignal,
  ): Promise<T> {
    return this.send('POST', path, JSON.stringify(body), schema, ANSWER_MS, signal)
  }

  private async send<T>(
    method: string,
    path: string,
    body: string | Uint8Array<ArrayBuffer>,
    schema: ZodType<T>,
    ms: number,
    signal?: AbortSignal,
  ): Promise<T> {
    const type = typeof body === 'string' ? 'application/json' : 'application/octet-stream'
    const limit = AbortSignal.timeout(ms)
    const answer = await fetch(new URL(path, this.server), {
      method,
      body,
      headers: { ...this.headers, 'Content-Type': type },
      signal: signal ? AbortSignal.any([signal, limit]) : limit,
    })
    if (!answer.ok) throw await refusalOf(answer)
    const text = await answer.text()
    return schema.parse(text === '' ? null : JSON.parse(text))
  }
}

/** Refusals that pass by themselves. */
const PASSING: ReadonlySet<string> = new Set(['database/unavailable', 'server/stopping'])

async function refusalOf(answer: Response): Promise<Refusal> {
  const body: unknown = await answer.json().catch(() => null)
  const told = errorSchema.safeParse(body)
  return told.success
    ? new Refusal(told.data.error.code, told.data.error.message)
    : new Refusal(`http/${answer.status}`, `The server answered ${answer.status}.`)
}

async function append(path: string, answer: Response, isRest: boolean): Promise<void> {
  const file = await open(path, isRest ? 'a' : 'w')
  try {
    for await (const part of answer.body as unknown as AsyncIterable<Uint8Array>)
      await file.write(part)
  } finally {
    await file.close()
  }
}

async function digestOf(path: string): Promise<string> {
  const hash = createHash('sha256')
  for await (const part of createReadStream(path)) hash.update(part as Buffer)
  return hash.digest('hex')
}
