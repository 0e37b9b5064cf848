import type { BackdropRecord, Project, ShelfPage, Source, SourceCard } from '../../core/api/wire'
import type { TestServer } from './testServer'

const TUS = { 'Tus-Resumable': '1.0.0' }

/** An answer with its body read: JSON where it says so, else text. */
export interface Answer<T = unknown> {
  readonly status: number
  readonly body: T
  readonly headers: Headers
}

/** The code of an error's answer. */
export const codeOf = (answer: { readonly body: unknown }): string =>
  (answer.body as { error?: { code?: string } } | null)?.error?.code ?? 'no error'

/**
 * Talks to a test server as the studio's page does: every write comes from the server's own origin.
 */
export class TestClient {
  readonly server: Pick<TestServer, 'url'>

  constructor(server: Pick<TestServer, 'url'>) {
    this.server = server
  }

  get origin(): Record<string, string> {
    return { Origin: this.server.url }
  }

  fetch(
    path: string,
    init: RequestInit & { headers?: Record<string, string> } = {},
  ): Promise<Response> {
    return fetch(new URL(path, this.server.url), {
      ...init,
      headers: { ...this.origin, ...init.headers },
    })
  }

  async call<T = unknown>(
    method: string,
    path: string,
    body?: unknown,
    headers: Record<string, string> = {},
  ): Promise<Answer<T>> {
    const json: Record<string, string> =
      body === undefined ? {} : { 'Content-Type': 'application/json' }
    const answer = await this.fetch(path, {
      method,
      headers: { ...json, ...headers },
      ...(body === undefined
        ? {}
        : { body: typeof body === 'string' ? body : JSON.stringify(body) }),
    })
    const text = await answer.text()
    const isJson = text !== '' && answer.headers.get('content-type')?.includes('json')
    return {
      status: answer.status,
      body: (isJson ? JSON.parse(text) : text) as T,
      headers: answer.headers,
    }
  }

  beginUpload(bytes: number, filename: string, projectId: string): Promise<Response> {
    const metadata = Object.entries({ filename, projectId }).map(
      ([name, value]) => `${name} ${Buffer.from(value).toString('base64')}`,
    )
    return this.fetch('/api/uploads', {
      method: 'POST',
      headers: { ...TUS, 'Upload-Length': String(bytes), 'Upload-Metadata': metadata.join(',') },
    })
  }

  sendPart(
    location: string,
    offset: number,
    part: Uint8Array,
    headers: Record<string, string> = {},
  ): Promise<Response> {
    return this.fetch(location, {
      method: 'PATCH',
      headers: {
        ...TUS,
        'Upload-Offset': String(offset),
        'Content-Type': 'application/offset+octet-stream',
        ...headers,
      },
      body: new Uint8Array(part),
    })
  }

  head(location: string): Promise<Response> {
    return this.fetch(location, { method: 'HEAD', headers: TUS })
  }

  cancelUpload(location: string): Promise<Response> {
    return this.fetch(location, { method: 'DELETE', headers: TUS })
  }

  async upload(projectId: string, bytes: Uint8Array, filename: string): Promise<Source> {
    const begun = await this.beginUpload(bytes.byteLength, filename, projectId)
    const sent = await this.sendPart(begun.headers.get('location')!, 0, bytes)
    if (sent.status !== 204)
      throw new Error(`the upload was answered ${sent.status}: ${await sent.text()}`)
    return (await this.call<Source>('GET', `/api/sources/${sent.headers.get('x-source-id')}`)).body
  }

  async makeProject(name = 'Vesperline'): Promise<Project> {
    return (await this.call<Project>('POST', '/api/projects', { name })).body
  }

  async shelfOf(projectId: string, query = ''): Promise<SourceCard[]> {
    return (await this.call<ShelfPage>('GET', `/api/projects/${projectId}/sources?${query}`)).body
      .sources
  }

  async makeBackdrop(
    clip: Uint8Array,
    projectName?: string,
  ): Promise<{ project: Project; source: Source; backdrop: BackdropRecord }> {
    const project = await this.makeProject(projectName)
    const source = await this.upload(project.id, clip, 'viaduct.mp4')
    const spot = project.pages[0]!.spots[0]!.id
    const made = await this.call<BackdropRecord>('POST', `/api/spots/${spot}/backdrops`, {
      name: 'Viaduct',
      sourceId: source.id,
    })
    return { project, source, backdrop: made.body }
  }

  /** Saves a document as the next revision after `backdrop`'s. */
  save<T = { revision: number }>(
    backdrop: Pick<BackdropRecord, 'id' | 'revision' | 'document' | 'history'>,
    changes: Partial<{
      baseRevision: number
      saveId: string
      label: string
      document: unknown
      history: unknown
    }> = {},
  ): Promise<Answer<T>> {
    const { id, revision, document, history } = backdrop
    return this.call<T>('PUT', `/api/backdrops/${id}`, {
      baseRevision: revision,
      saveId: crypto.randomUUID(),
      label: 'change',
      document,
      history,
      ...changes,
    })
  }
}
