import { createHash } from 'node:crypto'
import { createReadStream } from 'node:fs'
import { open, stat } from 'node:fs/promises'
import * as tus from 'tus-js-client'
import { ZodError, type ZodType } from 'zod'
import { errorSchema } from '../core/api/wire'

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
/** Bytes are sent in parts of so many; without any taken for so long, the line counts as cut. */
const PART_BYTES = 16 * 1024 * 1024
const STALL_MS = 60_000
/** Tries of a request whose answer decides about a finished file, and the wait between them. */
const TRIES = 6
const AGAIN_MS = 2000

/** Refusals that pass by themselves. */
const PASSING: ReadonlySet<string> = new Set(['database/unavailable', 'server/stopping'])
/** What a proxy answers while its server is away. */
const OF_PROXIES = /^http\/(429|5\d\d)$/

/** Whether the same request may succeed a moment later: it failed on the way, or so it is told. */
export const isPassing = (error: unknown): boolean =>
  error instanceof Refusal
    ? PASSING.has(error.code) || OF_PROXIES.test(error.code)
    : error instanceof Error && !(error instanceof ZodError)

/** Requests of programs to a server, with a token. Errors: Refusal; what fetch throws. */
export class ServerRequests {
  constructor(
    readonly server: string,
    private readonly token: string,
    private readonly againMs = AGAIN_MS,
  ) {}

  get<T>(path: string, schema: ZodType<T>): Promise<T> {
    return this.send('GET', path, null, schema, ANSWER_MS)
  }

  post<T>(path: string, body: unknown, schema: ZodType<T>, signal?: AbortSignal): Promise<T> {
    return this.send('POST', path, JSON.stringify(body), schema, ANSWER_MS, signal)
  }

  /**
   * Sends bytes to where the server expects them (tus 1.0), from where it was interrupted: what has
   * arrived is not sent again.
   */
  sendBytes(path: string, bytes: Uint8Array<ArrayBuffer>): Promise<void> {
    return this.again(() => this.sendRest(path, bytes))
  }

  /** Whether the server has content of a digest. */
  async has(sha256: string): Promise<boolean> {
    const answer = await fetch(new URL(`/media/${sha256}`, this.server), {
      ...{ method: 'HEAD', headers: this.headers, signal: AbortSignal.timeout(ANSWER_MS) },
    })
    if (answer.ok || answer.status === 404) return answer.ok
    throw await refusalOf(answer)
  }

  /** Content by its digest, with which it is compared. */
  async bytes(sha256: string): Promise<Buffer> {
    const answer = await fetch(new URL(`/media/${sha256}`, this.server), {
      headers: this.headers,
      signal: AbortSignal.timeout(STORE_MS),
    })
    if (!answer.ok) throw await refusalOf(answer)
    const bytes = Buffer.from(await answer.arrayBuffer())
    if (createHash('sha256').update(bytes).digest('hex') === sha256) return bytes
    throw new Error(`The file ${sha256} arrived damaged.`)
  }

  /**
   * Fetches content to a file: what is there of it already is not fetched again, and the whole is
   * compared with its digest.
   */
  async fetchTo(sha256: string, path: string, signal: AbortSignal): Promise<void> {
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
  async again<T>(work: () => Promise<T>, signal?: AbortSignal): Promise<T> {
    for (let tried = 1; ; tried++) {
      try {
        return await work()
      } catch (error) {
        if (!isPassing(error) || tried >= TRIES || signal?.aborted) throw error
        await new Promise((resolve) => setTimeout(resolve, this.againMs))
      }
    }
  }

  /** What a request is recognized by. */
  get headers(): Record<string, string> {
    return { Authorization: `Bearer ${this.token}` }
  }

  private sendRest(path: string, bytes: Uint8Array<ArrayBuffer>): Promise<void> {
    return new Promise((resolve, reject) => {
      // A line that is cut says nothing.
      const stalled = setTimeout(() => {
        void sending.abort()
        reject(new Error('The server took no bytes for a minute.'))
      }, STALL_MS)
      const end = (settle: () => void): void => {
        clearTimeout(stalled)
        settle()
      }
      const sending = new tus.Upload(Buffer.from(bytes.buffer, bytes.byteOffset, bytes.length), {
        uploadUrl: new URL(path, this.server).href,
        chunkSize: PART_BYTES,
        retryDelays: null,
        headers: this.headers,
        onProgress: () => void stalled.refresh(),
        onError: (error) => end(() => reject(refusalOfUpload(error) ?? error)),
        onSuccess: () => end(resolve),
      })
      sending.start()
    })
  }

  private async send<T>(
    method: string,
    path: string,
    body: string | null,
    schema: ZodType<T>,
    ms: number,
    signal?: AbortSignal,
  ): Promise<T> {
    const limit = AbortSignal.timeout(ms)
    const answer = await fetch(new URL(path, this.server), {
      method,
      body,
      headers: {
        ...this.headers,
        ...(body === null ? {} : { 'Content-Type': 'application/json' }),
      },
      signal: signal ? AbortSignal.any([signal, limit]) : limit,
    })
    if (!answer.ok) throw await refusalOf(answer)
    const text = await answer.text()
    return schema.parse(text === '' ? null : JSON.parse(text))
  }
}

async function refusalOf(answer: Response): Promise<Refusal> {
  return refusalFrom(answer.status, await answer.text().catch(() => ''))
}

/** What the server said of an upload; null where it said nothing. */
function refusalOfUpload(error: Error | tus.DetailedError): Refusal | null {
  const answer = 'originalResponse' in error ? error.originalResponse : null
  return answer ? refusalFrom(answer.getStatus(), answer.getBody()) : null
}

function refusalFrom(status: number, body: string): Refusal {
  const told = errorSchema.safeParse(parseJson(body))
  return told.success
    ? new Refusal(told.data.error.code, told.data.error.message)
    : new Refusal(`http/${status}`, `The server answered ${status}.`)
}

function parseJson(text: string): unknown {
  try {
    return JSON.parse(text) as unknown
  } catch {
    return null
  }
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
