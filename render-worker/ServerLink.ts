import { z } from 'zod'
import { announcedRenditionSchema, renditionSchema, type RenditionFacts } from '../core/api/wire'
import {
  goOnSchema,
  takenJobSchema,
  type FailedWork,
  type TakenJob,
  type WorkerFacts,
  type WorkProgress,
} from '../core/api/work'
import { recipeKey, type ProbeRecipe, type Recipe } from '../core/backdrop/recipe'
import { Refusal, ServerRequests } from '../node/ServerRequests'

const GOODBYE_MS = 2000
/** A file that is not expected any more; answers to HEAD have no code of their own. */
const GONE: ReadonlySet<string> = new Set(['rendition/not-found', 'http/404'])

/**
 * What a render worker says to its server, over HTTP only. Requests that fail on the way are sent
 * again where that does no harm. Errors: Refusal; what fetch throws.
 */
export class ServerLink {
  private readonly requests: ServerRequests

  constructor(server: string, token: string, againMs?: number) {
    this.requests = new ServerRequests(server, token, againMs)
  }

  hello(facts: WorkerFacts): Promise<null> {
    return this.requests.post('/api/jobs/hello', facts, z.null())
  }

  /** The worker stops; the server may be gone by then, so that it waits little for an answer. */
  goodbye(workerId: string): Promise<null> {
    const signal = AbortSignal.timeout(GOODBYE_MS)
    return this.requests.post('/api/jobs/goodbye', { workerId }, z.null(), signal)
  }

  /** The next job; null where none came. */
  take(workerId: string, signal: AbortSignal): Promise<TakenJob | null> {
    return this.requests.post('/api/jobs/take', { workerId }, takenJobSchema.nullable(), signal)
  }

  /** Whether the job is still this worker's. */
  async progress(told: WorkProgress): Promise<boolean> {
    return (await this.requests.post('/api/jobs/progress', told, goOnSchema)).goOn
  }

  finished(workerId: string, jobId: string): Promise<null> {
    return this.requests.again(() =>
      this.requests.post('/api/jobs/finished', { workerId, jobId }, z.null()),
    )
  }

  failed(told: FailedWork): Promise<null> {
    return this.requests.again(() => this.requests.post('/api/jobs/failed', told, z.null()))
  }

  /** The facts of a probe that is stored; null where there is none. */
  async factsOf(recipe: ProbeRecipe): Promise<RenditionFacts | null> {
    const found = await this.requests.again(() =>
      this.requests.post(
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
    const announced = { recipe, facts, bytes: bytes.byteLength }
    for (let tried = 1; ; tried++) {
      const { id } = await this.requests.again(() =>
        this.requests.post('/api/renditions', announced, announcedRenditionSchema),
      )
      if (id === null) return
      try {
        return await this.requests.sendBytes(`/api/renditions/${id}`, bytes)
      } catch (error) {
        // It was kept, and that was not heard; or it was swept meanwhile. The announcement tells.
        if (tried > 1 || !(error instanceof Refusal && GONE.has(error.code))) throw error
      }
    }
  }

  /** Fetches a source to a file, from where it was interrupted. */
  fetchSource(sha256: string, path: string, signal: AbortSignal): Promise<void> {
    return this.requests.fetchTo(sha256, path, signal)
  }
}
