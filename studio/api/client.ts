import { z, type ZodType } from 'zod'
import {
  backdropRecordSchema, configSchema, errorSchema, projectSchema, projectSummarySchema, renditionSchema, sourceSchema, uploadSchema,
  type BackdropRecord, type Project, type ProjectSummary, type Rendition, type RenditionFacts, type Source, type Spot, type UnfinishedUpload,
} from '../../core/api/wire'
import type { BackdropDocument } from '../../core/backdrop/BackdropDocument'
import type { History } from '../../core/backdrop/history'

/** A request that failed, with the server's code and sentence. */
export class RequestError extends Error {
  override readonly name = 'RequestError'
  readonly code: string
  readonly details: unknown

  constructor(code: string, message: string, details?: unknown) {
    super(message)
    this.code = code
    this.details = details
  }
}

async function send<T>(method: string, url: string, schema: ZodType<T> | null, body?: unknown, init: RequestInit = {}): Promise<T> {
  const json = body === undefined ? {} : { body: JSON.stringify(body), headers: { 'Content-Type': 'application/json' } }
  const answer = await fetch(url, { method, ...json, ...init }).catch(() => {
    throw new RequestError('server/unreachable', 'The server does not answer. Check that Telon is still running, then try again.')
  })
  if (!answer.ok) {
    const told = errorSchema.safeParse(await answer.json().catch(() => null))
    if (told.success) throw new RequestError(told.data.error.code, told.data.error.message, told.data.error.details)
    throw new RequestError('server/fault', `The server answered ${answer.status}. Try again.`)
  }
  return schema === null ? (undefined as T) : schema.parse(await answer.json())
}

const created = z.object({ id: z.string() })

/** The server's routes as functions. Each throws `RequestError`. */
export const api = {
  config: () => send('GET', '/api/config', configSchema),
  listProjects: (): Promise<ProjectSummary[]> => send('GET', '/api/projects', z.array(projectSummarySchema)),
  createProject: (name: string): Promise<Project> => send('POST', '/api/projects', projectSchema, { name }),
  readProject: (id: string): Promise<Project> => send('GET', `/api/projects/${id}`, projectSchema),
  renameProject: (id: string, name: string) => send('PATCH', `/api/projects/${id}`, null, { name }),
  deleteProject: (id: string) => send('DELETE', `/api/projects/${id}`, null),
  createPage: (projectId: string, name: string) => send('POST', `/api/projects/${projectId}/pages`, created, { name }),
  renamePage: (id: string, name: string) => send('PATCH', `/api/pages/${id}`, null, { name }),
  deletePage: (id: string) => send('DELETE', `/api/pages/${id}`, null),
  createSpot: (pageId: string, spot: Pick<Spot, 'name' | 'scope' | 'height'>) => send('POST', `/api/pages/${pageId}/spots`, created, spot),
  changeSpot: (id: string, change: Partial<Pick<Spot, 'name' | 'scope' | 'height'>>) => send('PATCH', `/api/spots/${id}`, null, change),
  deleteSpot: (id: string) => send('DELETE', `/api/spots/${id}`, null),
  listSources: (projectId: string): Promise<Source[]> => send('GET', `/api/projects/${projectId}/sources`, z.array(sourceSchema)),
  listUploads: (projectId: string): Promise<UnfinishedUpload[]> => send('GET', `/api/projects/${projectId}/uploads`, z.array(uploadSchema)),
  renameSource: (id: string, name: string) => send('PATCH', `/api/sources/${id}`, null, { name }),
  deleteSource: (id: string) => send('DELETE', `/api/sources/${id}`, null),
  createBackdrop: (spotId: string, name: string, sourceId: string): Promise<BackdropRecord> => send('POST', `/api/spots/${spotId}/backdrops`, backdropRecordSchema, { name, sourceId }),
  readBackdrop: (id: string): Promise<BackdropRecord> => send('GET', `/api/backdrops/${id}`, backdropRecordSchema),
  renameBackdrop: (id: string, name: string) => send('PATCH', `/api/backdrops/${id}`, null, { name }),
  deleteBackdrop: (id: string) => send('DELETE', `/api/backdrops/${id}`, null),
  saveBackdrop: (id: string, save: { baseRevision: number; label: string; document: BackdropDocument; history: History }, keepalive = false) =>
    // Browsers refuse bodies over 64 KiB that are to outlive their page: a longer history is sent the plain way.
    send('PUT', `/api/backdrops/${id}`, z.object({ revision: z.int(), updatedAt: z.string() }), save, { keepalive: keepalive && JSON.stringify(save).length < 60_000 }),
  findRenditions: (keys: readonly string[]): Promise<Rendition[]> => send('POST', '/api/renditions/lookup', z.array(renditionSchema), { keys }),
  storeRendition: (key: string, facts: RenditionFacts, bytes: Uint8Array<ArrayBuffer>): Promise<Rendition> =>
    send('PUT', `/api/renditions?${new URLSearchParams({ key, facts: JSON.stringify(facts) })}`, renditionSchema, undefined, {
      body: bytes, headers: { 'Content-Type': 'application/octet-stream' },
    }),
}

/** The address of a stored file. */
export function mediaUrl(sha256: string, type?: string): string {
  return `/media/${sha256}${type ? `?type=${type}` : ''}`
}

/** The sentence to show for anything that was thrown. */
export function messageOf(error: unknown): string {
  return error instanceof Error ? error.message : 'Something unexpected went wrong. Reload the page.'
}
