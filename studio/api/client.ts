import { z, type ZodType } from 'zod'
import {
  announcedRenditionSchema, backdropRecordSchema, configSchema, errorSchema, isClip, mendedSchema, projectSchema, projectSummarySchema, renditionSchema, shelfPageSchema, sourceSchema, stillSetSchema, uploadSchema,
  type BackdropRecord, type BackdropSave, type ClipCard, type Mended, type MendRequest, type Project, type ProjectSummary, type Rendition, type RenditionFacts, type ShelfPage, type ShelfQuery, type Source,
  type SourceCard, type Spot, type StillSet, type UnfinishedUpload,
} from '../../core/api/wire'
import type { AnyRecipe } from '../../core/api/recipes'
import { settingsSchema, type ProjectSettings } from '../../core/api/settings'
import type { Analysis } from '../../core/material/Analysis'

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
  readSettings: (id: string): Promise<ProjectSettings> => send('GET', `/api/projects/${id}/settings`, settingsSchema),
  writeSettings: (id: string, settings: ProjectSettings) => send('PUT', `/api/projects/${id}/settings`, null, settings),
  deleteProject: (id: string) => send('DELETE', `/api/projects/${id}`, null),
  createPage: (projectId: string, name: string) => send('POST', `/api/projects/${projectId}/pages`, created, { name }),
  renamePage: (id: string, name: string) => send('PATCH', `/api/pages/${id}`, null, { name }),
  deletePage: (id: string) => send('DELETE', `/api/pages/${id}`, null),
  createSpot: (pageId: string, spot: Pick<Spot, 'name' | 'scope' | 'height'>) => send('POST', `/api/pages/${pageId}/spots`, created, spot),
  changeSpot: (id: string, change: Partial<Pick<Spot, 'name' | 'scope' | 'height'>>) => send('PATCH', `/api/spots/${id}`, null, change),
  deleteSpot: (id: string) => send('DELETE', `/api/spots/${id}`, null),
  listSources: (projectId: string, query: Partial<ShelfQuery>): Promise<ShelfPage> =>
    send('GET', `/api/projects/${projectId}/sources?${new URLSearchParams(Object.entries(query).map(([name, value]) => [name, String(value)]))}`, shelfPageSchema),
  /** Every clip of a project, as cards. */
  async listClips(projectId: string): Promise<ClipCard[]> {
    const all: SourceCard[] = []
    for (;;) {
      const page = await api.listSources(projectId, { kind: 'clip', offset: all.length, limit: 200 })
      all.push(...page.sources)
      if (page.sources.length === 0 || all.length >= page.total) return all.filter(isClip)
    }
  },
  readSource: (id: string): Promise<Source> => send('GET', `/api/sources/${id}`, sourceSchema),
  storeAnalysis: (id: string, analysis: Analysis, cells: number, strip: Uint8Array): Promise<Source> =>
    send('PUT', `/api/sources/${id}/analysis`, sourceSchema, { analysis, cells, stripBase64: toBase64(strip) }),
  mendSource: (id: string, request: MendRequest): Promise<Mended> => send('POST', `/api/sources/${id}/mends`, mendedSchema, request),
  putContent: (id: string, sha256: string): Promise<Source> => send('PUT', `/api/sources/${id}/content`, sourceSchema, { sha256 }),
  replaceSource: (id: string, withSourceId: string): Promise<{ backdrops: string[] }> => send('POST', `/api/sources/${id}/replace`, z.object({ backdrops: z.array(z.string()) }), { withSourceId }),
  deleteSources: (ids: readonly string[]) => send('POST', '/api/sources/delete', null, { ids }),
  restoreSources: (ids: readonly string[]) => send('POST', '/api/sources/restore', null, { ids }),
  listSets: (projectId: string): Promise<StillSet[]> => send('GET', `/api/projects/${projectId}/sets`, z.array(stillSetSchema)),
  createSet: (projectId: string, set: { name: string; sourceIds: readonly string[] }): Promise<StillSet> => send('POST', `/api/projects/${projectId}/sets`, stillSetSchema, set),
  saveSet: (id: string, set: { name: string; sourceIds: readonly string[] }): Promise<StillSet> => send('PUT', `/api/sets/${id}`, stillSetSchema, set),
  deleteSet: (id: string) => send('DELETE', `/api/sets/${id}`, null),
  listUploads: (projectId: string): Promise<UnfinishedUpload[]> => send('GET', `/api/projects/${projectId}/uploads`, z.array(uploadSchema)),
  renameSource: (id: string, name: string) => send('PATCH', `/api/sources/${id}`, null, { name }),
  createBackdrop: (spotId: string, name: string, sourceId: string): Promise<BackdropRecord> => send('POST', `/api/spots/${spotId}/backdrops`, backdropRecordSchema, { name, sourceId }),
  readBackdrop: (id: string): Promise<BackdropRecord> => send('GET', `/api/backdrops/${id}`, backdropRecordSchema),
  renameBackdrop: (id: string, name: string) => send('PATCH', `/api/backdrops/${id}`, null, { name }),
  deleteBackdrop: (id: string) => send('DELETE', `/api/backdrops/${id}`, null),
  saveBackdrop: (id: string, save: BackdropSave, keepalive = false): Promise<{ revision: number; updatedAt: string }> =>
    // Browsers refuse bodies over 64 KiB that are to outlive their page: a longer history is sent the plain way.
    send('PUT', `/api/backdrops/${id}`, z.object({ revision: z.int(), updatedAt: z.string() }), save, { keepalive: keepalive && JSON.stringify(save).length < 60_000 }),
  findRenditions: (keys: readonly string[]): Promise<Rendition[]> => send('POST', '/api/renditions/lookup', z.array(renditionSchema), { keys }),
  /** Hands a finished file in: announced with its recipe first, so that nothing is sent that is there already. */
  async storeRendition(recipe: AnyRecipe, facts: RenditionFacts, bytes: Uint8Array<ArrayBuffer>): Promise<Rendition> {
    const announcement = { recipe, facts, bytes: bytes.byteLength }
    const { id, rendition } = await send('POST', '/api/renditions', announcedRenditionSchema, announcement)
    if (rendition) return rendition
    const headers = { 'Content-Type': 'application/octet-stream' }
    return send('PUT', `/api/renditions/${id}`, renditionSchema, undefined, { body: bytes, headers })
  },
}

function toBase64(bytes: Uint8Array): string {
  let text = ''
  for (let at = 0; at < bytes.byteLength; at += 0x8000) text += String.fromCharCode(...bytes.subarray(at, at + 0x8000))
  return btoa(text)
}

/** The address of a stored file. */
export function mediaUrl(sha256: string, type?: string): string {
  // A plus in a query stands for a space.
  return `/media/${sha256}${type ? `?type=${type.replace('+', '%2B')}` : ''}`
}

/** The sentence to show for anything that was thrown. */
export function messageOf(error: unknown): string {
  return error instanceof Error ? error.message : 'Something unexpected went wrong. Reload the page.'
}
