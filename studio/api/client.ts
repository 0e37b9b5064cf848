import { z, type ZodType } from 'zod'
import {
  apiTokenSchema,
  newTokenSchema,
  sessionSchema,
  type ApiToken,
  type NewToken,
  type TokenUse,
  type Session,
} from '../../core/api/access'
import type { AnyRecipe } from '../../core/api/recipes'
import { settingsSchema, type ProjectSettings, type SettingsChange } from '../../core/api/settings'
import {
  freeingSchema,
  spaceReportSchema,
  type FreeingState,
  type SpaceReport,
} from '../../core/api/space'
import {
  renderWorkerSchema,
  workJobsSchema,
  workOverviewSchema,
  type SeenWorker,
  type WorkJob,
  type WorkOverview,
  type WorkStates,
  workFilesSchema,
} from '../../core/api/work'
import { slowRunsSchema, type SlowOrder, type SlowRuns } from '../../core/api/slowMachines'
import {
  announcedRenditionSchema,
  backdropRecordSchema,
  configSchema,
  errorSchema,
  isClip,
  repairedSchema,
  openRevisionSchema,
  projectSchema,
  projectSummarySchema,
  renditionSchema,
  revisionSchema,
  shelfPageSchema,
  sourceSchema,
  imageSetSchema,
  uploadSchema,
  type BackdropOrder,
  type BackdropRecord,
  type BackdropSave,
  type ClipCard,
  type Repaired,
  type RepairRequest,
  type OpenRevision,
  type Project,
  type ProjectSummary,
  type Rendition,
  type RenditionFacts,
  type Revision,
  type ShelfPage,
  type ShelfQuery,
  type Source,
  type SourceCard,
  type Spot,
  type ImageSet,
  type UnfinishedUpload,
} from '../../core/api/wire'
import type { ProbeRecipe, Recipe } from '../../core/backdrop/recipe'
import type { Analysis } from '../../core/material/Analysis'
import { noteAnswer } from './answers'

/** A request that failed, with the server's code and sentence. */
export class RequestError extends Error {
  override readonly name = 'RequestError'
  readonly code: string
  /** 0 where no answer came. */
  readonly status: number
  readonly details: unknown

  constructor(code: string, message: string, status = 0, details?: unknown) {
    super(message)
    this.code = code
    this.status = status
    this.details = details
  }

  /**
   * Whether the same request may succeed later: no answer, a server or database that is away, a
   * sign-in that is missing.
   */
  get isPassing(): boolean {
    return (
      this.status === 0 ||
      this.status >= 500 ||
      this.status === 401 ||
      this.status === 423 ||
      this.status === 429
    )
  }
}

const UNREACHABLE = 'The server does not answer. Check that Telon is still running, then try again.'

/** The answer to a request, if it is a good one; throws `RequestError` for all others. */
async function answerTo(
  method: string,
  url: string,
  body?: unknown,
  init: RequestInit = {},
): Promise<Response> {
  const json =
    body === undefined
      ? {}
      : { body: JSON.stringify(body), headers: { 'Content-Type': 'application/json' } }
  const answer = await fetch(url, { method, ...json, ...init }).catch(() => {
    throw new RequestError('server/unreachable', UNREACHABLE)
  })
  const told = answer.ok ? null : errorSchema.safeParse(await answer.json().catch(() => null))
  // A wrong password is answered to whoever asks; it is not that a session has expired.
  const isSignIn = url === '/api/session'
  noteAnswer(isSignIn ? 200 : answer.status, answer.headers.get('Telon-Version'))
  if (answer.ok) return answer
  if (told?.success) {
    const { code, message, details } = told.data.error
    throw new RequestError(code, message, answer.status, details)
  }
  throw new RequestError(
    'server/fault',
    `The server answered ${answer.status}. Try again.`,
    answer.status,
  )
}

async function send<T>(
  method: string,
  url: string,
  schema: ZodType<T> | null,
  body?: unknown,
  init: RequestInit = {},
): Promise<T> {
  const answer = await answerTo(method, url, body, init)
  return schema === null ? (undefined as T) : schema.parse(await answer.json())
}

const created = z.object({ id: z.string() })
const saved = z.object({ revision: z.int(), updatedAt: z.string() })

/** Browsers refuse bodies over 64 KiB that are to outlive their page. */
const MAX_KEEPALIVE = 60_000

/** The server's routes as functions. Each throws `RequestError`. */
export const api = {
  config: () => send('GET', '/api/config', configSchema),
  readSession: (): Promise<Session> => send('GET', '/api/session', sessionSchema),
  signIn: (password: string) => send('POST', '/api/session', null, { password }),
  signOut: () => send('DELETE', '/api/session', null),
  listTokens: (): Promise<ApiToken[]> => send('GET', '/api/tokens', z.array(apiTokenSchema)),
  createToken: (name: string, use: TokenUse): Promise<NewToken> =>
    send('POST', '/api/tokens', newTokenSchema, { name, use }),
  revokeToken: (id: string) => send('DELETE', `/api/tokens/${id}`, null),
  readSpace: (): Promise<SpaceReport> => send('GET', '/api/space', spaceReportSchema),
  startFreeing: (withoutGrace: boolean): Promise<FreeingState> =>
    send('POST', '/api/space/freeing', freeingSchema, { withoutGrace }),
  cancelFreeing: () => send('DELETE', '/api/space/freeing', null),

  listProjects: (): Promise<ProjectSummary[]> =>
    send('GET', '/api/projects', z.array(projectSummarySchema)),
  createProject: (name: string): Promise<Project> =>
    send('POST', '/api/projects', projectSchema, { name }),
  readProject: (id: string): Promise<Project> => send('GET', `/api/projects/${id}`, projectSchema),
  renameProject: (id: string, name: string) => send('PATCH', `/api/projects/${id}`, null, { name }),
  readSettings: (id: string): Promise<ProjectSettings> =>
    send('GET', `/api/projects/${id}/settings`, settingsSchema),
  changeSettings: (id: string, change: SettingsChange): Promise<ProjectSettings> =>
    send('PATCH', `/api/projects/${id}/settings`, settingsSchema, change),
  deleteProject: (id: string) => send('DELETE', `/api/projects/${id}`, null),
  createPage: (projectId: string, name: string) =>
    send('POST', `/api/projects/${projectId}/pages`, created, { name }),
  renamePage: (id: string, name: string) => send('PATCH', `/api/pages/${id}`, null, { name }),
  deletePage: (id: string) => send('DELETE', `/api/pages/${id}`, null),
  createSpot: (pageId: string, spot: Pick<Spot, 'name' | 'scope' | 'height'>) =>
    send('POST', `/api/pages/${pageId}/spots`, created, spot),
  changeSpot: (id: string, change: Partial<Pick<Spot, 'name' | 'scope' | 'height'>>) =>
    send('PATCH', `/api/spots/${id}`, null, change),
  deleteSpot: (id: string) => send('DELETE', `/api/spots/${id}`, null),

  listSources: (projectId: string, query: Partial<ShelfQuery>): Promise<ShelfPage> => {
    const entries = Object.entries(query).filter(([, value]) => value !== undefined)
    const params = new URLSearchParams(entries.map(([name, value]) => [name, String(value)]))
    return send('GET', `/api/projects/${projectId}/sources?${params}`, shelfPageSchema)
  },
  /** Every clip of a project, as cards. */
  async listClips(projectId: string): Promise<ClipCard[]> {
    const all: SourceCard[] = []
    for (;;) {
      const page = await api.listSources(projectId, {
        kind: 'clip',
        offset: all.length,
        limit: 200,
      })
      all.push(...page.sources)
      if (page.sources.length === 0 || all.length >= page.total) return all.filter(isClip)
    }
  },
  readSource: (id: string): Promise<Source> => send('GET', `/api/sources/${id}`, sourceSchema),
  storeAnalysis: (
    id: string,
    analysis: Analysis,
    cells: number,
    strip: Uint8Array,
  ): Promise<Source> =>
    send('PUT', `/api/sources/${id}/analysis`, sourceSchema, {
      analysis,
      cells,
      stripBase64: toBase64(strip),
    }),
  /** A text file of a backdrop's folder, as it is delivered. */
  readFolderText: async (id: string, path: string): Promise<string> =>
    (await answerTo('GET', `/handoff/${id}/site/${path}`)).text(),
  trySlowMachines: (order: SlowOrder, signal: AbortSignal): Promise<SlowRuns> =>
    send('POST', '/api/particles/slow-machines', slowRunsSchema, order, { signal }),
  repairSource: (id: string, request: RepairRequest): Promise<Repaired> =>
    send('POST', `/api/sources/${id}/repairs`, repairedSchema, request),
  putContent: (id: string, sha256: string): Promise<Source> =>
    send('PUT', `/api/sources/${id}/content`, sourceSchema, { sha256 }),
  replaceSource: (id: string, withSourceId: string): Promise<{ backdrops: string[] }> =>
    send('POST', `/api/sources/${id}/replace`, z.object({ backdrops: z.array(z.string()) }), {
      withSourceId,
    }),
  deleteSources: (ids: readonly string[]) => send('POST', '/api/sources/delete', null, { ids }),
  restoreSources: (ids: readonly string[]) => send('POST', '/api/sources/restore', null, { ids }),
  renameSource: (id: string, name: string) => send('PATCH', `/api/sources/${id}`, null, { name }),
  listSets: (projectId: string): Promise<ImageSet[]> =>
    send('GET', `/api/projects/${projectId}/sets`, z.array(imageSetSchema)),
  createSet: (
    projectId: string,
    { name, sourceIds }: { name: string; sourceIds: readonly string[] },
  ): Promise<ImageSet> =>
    send('POST', `/api/projects/${projectId}/sets`, imageSetSchema, { name, sourceIds }),
  saveSet: (
    id: string,
    { name, sourceIds }: { name: string; sourceIds: readonly string[] },
  ): Promise<ImageSet> => send('PUT', `/api/sets/${id}`, imageSetSchema, { name, sourceIds }),
  deleteSet: (id: string) => send('DELETE', `/api/sets/${id}`, null),
  listUploads: (projectId: string): Promise<UnfinishedUpload[]> =>
    send('GET', `/api/projects/${projectId}/uploads`, z.array(uploadSchema)),

  discardUpload: (id: string) =>
    send('DELETE', `/api/uploads/${id}`, null, undefined, {
      headers: { 'Tus-Resumable': '1.0.0' },
    }),

  createBackdrop: (spotId: string, order: BackdropOrder): Promise<BackdropRecord> =>
    send('POST', `/api/spots/${spotId}/backdrops`, backdropRecordSchema, order),
  readBackdrop: (id: string): Promise<BackdropRecord> =>
    send('GET', `/api/backdrops/${id}`, backdropRecordSchema),
  renameBackdrop: (id: string, name: string) =>
    send('PATCH', `/api/backdrops/${id}`, null, { name }),
  deleteBackdrop: (id: string) => send('DELETE', `/api/backdrops/${id}`, null),
  saveBackdrop: (
    id: string,
    save: BackdropSave,
    keepalive = false,
  ): Promise<z.infer<typeof saved>> =>
    send('PUT', `/api/backdrops/${id}`, saved, save, {
      // A longer history is sent the plain way; what is not answered is sent again when the studio
      // opens next.
      keepalive: keepalive && JSON.stringify(save).length < MAX_KEEPALIVE,
    }),
  listRevisions: (id: string): Promise<Revision[]> =>
    send('GET', `/api/backdrops/${id}/revisions`, z.array(revisionSchema)),
  readRevision: (id: string, revision: number): Promise<OpenRevision> =>
    send('GET', `/api/backdrops/${id}/revisions/${revision}`, openRevisionSchema),

  requestWork: (recipes: readonly (Recipe | ProbeRecipe)[], priority: number): Promise<WorkJob[]> =>
    send('POST', '/api/jobs/request', workJobsSchema, { recipes, priority }),
  lookWork: (keys: readonly string[]): Promise<WorkJob[]> =>
    send('POST', '/api/jobs/look', workJobsSchema, { keys }),
  cancelWork: (keys: readonly string[]) => send('POST', '/api/jobs/cancel', null, { keys }),
  retryWork: (keys: readonly string[]): Promise<WorkJob[]> =>
    send('POST', '/api/jobs/retry', workJobsSchema, { keys }),
  cancelAllWork: (states: WorkStates): Promise<z.infer<typeof workFilesSchema>> =>
    send('POST', '/api/jobs/cancel-all', workFilesSchema, { states }),
  retryAllWork: (): Promise<z.infer<typeof workFilesSchema>> =>
    send('POST', '/api/jobs/retry-all', workFilesSchema),
  readWork: (): Promise<WorkOverview> => send('GET', '/api/jobs', workOverviewSchema),
  listRenderWorkers: (): Promise<SeenWorker[]> =>
    send('GET', '/api/jobs/workers', z.array(renderWorkerSchema)),

  findRenditions: (keys: readonly string[]): Promise<Rendition[]> =>
    send('POST', '/api/renditions/lookup', z.array(renditionSchema), { keys }),
  /**
   * Hands a finished file in: announced with its recipe first, so that nothing is sent that is
   * there already.
   */
  async storeRendition(
    recipe: AnyRecipe,
    facts: RenditionFacts,
    bytes: Uint8Array<ArrayBuffer>,
  ): Promise<Rendition> {
    const announcement = { recipe, facts, bytes: bytes.byteLength }
    const { id, rendition } = await send(
      'POST',
      '/api/renditions',
      announcedRenditionSchema,
      announcement,
    )
    if (rendition) return rendition
    const headers = { 'Content-Type': 'application/octet-stream' }
    return send('PUT', `/api/renditions/${id}`, renditionSchema, undefined, {
      body: bytes,
      headers,
    })
  },
}

/** The server as the stores see it; tests put another in its place. */
export type Api = typeof api

function toBase64(bytes: Uint8Array): string {
  let text = ''
  for (let at = 0; at < bytes.byteLength; at += 0x8000)
    text += String.fromCharCode(...bytes.subarray(at, at + 0x8000))
  return btoa(text)
}

/** The address of a stored file. */
export function mediaUrl(sha256: string, type?: string): string {
  // A plus in a query means a space.
  return `/media/${sha256}${type ? `?type=${type.replace('+', '%2B')}` : ''}`
}

/** The sentence to show for anything that was thrown. */
export function messageOf(error: unknown): string {
  return error instanceof Error
    ? error.message
    : 'Something unexpected went wrong. Reload the page.'
}
