import { z } from 'zod'
import {
  backdropRecordSchema, changeSpotSchema, configSchema, createBackdropSchema, createNamedSchema, createSpotSchema, idSchema, lookupRenditionsSchema,
  projectSchema, projectSummarySchema, renditionSchema, revisionSchema, saveBackdropSchema, sourceSchema, uploadSchema, type UnfinishedUpload,
} from '../../core/api/wire'
import { manifestJsonSchema } from '../../core/handoff/manifest'
import type { BlobStore } from '../blobs/BlobStore'
import type { Config } from '../config'
import type { Workshop } from '../store/Workshop'
import { route, type Route } from './route'

/** All JSON routes. Files travel by `mediaRoutes`, `handoffRoutes` and the tus server. */
export function apiRoutes(workshop: Workshop, blobs: BlobStore, config: Pick<Config, 'maxUploadBytes'>): Route[] {
  const created = z.object({ id: idSchema })
  const none = { body: null, answer: null } as const
  return [
    route({ method: 'get', path: '/api/health', summary: 'Whether the server and its database answer', body: null, answer: z.object({ ok: z.literal(true) }), handle: async () => {
      await workshop.findRenditions([])
      return { ok: true }
    } }),
    route({ method: 'get', path: '/api/config', summary: 'Limits that hold', body: null, answer: configSchema, handle: async () => ({ maxUploadBytes: config.maxUploadBytes }) }),
    route({ method: 'get', path: '/api/schema/manifest', summary: 'JSON Schema of a handoff’s manifest.json', body: null, answer: z.record(z.string(), z.unknown()), handle: async () => manifestJsonSchema() }),

    route({ method: 'get', path: '/api/projects', summary: 'All projects', body: null, answer: z.array(projectSummarySchema), handle: () => workshop.listProjects() }),
    route({ method: 'post', path: '/api/projects', summary: 'Add a project', body: createNamedSchema, answer: projectSchema, handle: ({ body }) => workshop.createProject(body.name) }),
    route({ method: 'get', path: '/api/projects/:id', summary: 'A project with its pages, spots and backdrops', body: null, answer: projectSchema, handle: ({ id }) => workshop.readProject(id) }),
    route({ method: 'patch', path: '/api/projects/:id', summary: 'Rename a project', body: createNamedSchema, answer: null, handle: ({ id, body }) => workshop.renameProject(id, body.name) }),
    route({ ...none, method: 'delete', path: '/api/projects/:id', summary: 'Delete a project with all in it', handle: ({ id }) => workshop.deleteProject(id) }),
    route({ method: 'post', path: '/api/projects/:id/pages', summary: 'Add a page', body: createNamedSchema, answer: created, handle: ({ id, body }) => workshop.createPage(id, body.name) }),
    route({ method: 'patch', path: '/api/pages/:id', summary: 'Rename a page', body: createNamedSchema, answer: null, handle: ({ id, body }) => workshop.renamePage(id, body.name) }),
    route({ ...none, method: 'delete', path: '/api/pages/:id', summary: 'Delete a page with its spots', handle: ({ id }) => workshop.deletePage(id) }),
    route({ method: 'post', path: '/api/pages/:id/spots', summary: 'Add a spot', body: createSpotSchema, answer: created, handle: ({ id, body }) => workshop.createSpot(id, body) }),
    route({ method: 'patch', path: '/api/spots/:id', summary: 'Change a spot', body: changeSpotSchema, answer: null, handle: ({ id, body }) => workshop.changeSpot(id, body) }),
    route({ ...none, method: 'delete', path: '/api/spots/:id', summary: 'Delete a spot with its backdrops', handle: ({ id }) => workshop.deleteSpot(id) }),

    route({ method: 'get', path: '/api/projects/:id/sources', summary: 'The shelf of a project', body: null, answer: z.array(sourceSchema), handle: ({ id }) => workshop.listSources(id) }),
    route({ method: 'get', path: '/api/projects/:id/uploads', summary: 'Uploads that were begun and not finished', body: null, answer: z.array(uploadSchema), handle: ({ id }) => unfinishedUploads(blobs, id) }),
    route({ method: 'get', path: '/api/sources/:id', summary: 'A source', body: null, answer: sourceSchema, handle: ({ id }) => workshop.readSource(id) }),
    route({ method: 'patch', path: '/api/sources/:id', summary: 'Rename a source', body: createNamedSchema, answer: null, handle: ({ id, body }) => workshop.renameSource(id, body.name) }),
    route({ ...none, method: 'delete', path: '/api/sources/:id', summary: 'Take a source off the shelf', handle: ({ id }) => workshop.deleteSource(id) }),

    route({ method: 'post', path: '/api/spots/:id/backdrops', summary: 'Make a backdrop from a source', body: createBackdropSchema, answer: backdropRecordSchema, handle: ({ id, body }) => workshop.createBackdrop(id, body.name, body.sourceId) }),
    route({ method: 'get', path: '/api/backdrops/:id', summary: 'A backdrop with its document and history', body: null, answer: backdropRecordSchema, handle: ({ id }) => workshop.readBackdrop(id) }),
    route({ method: 'put', path: '/api/backdrops/:id', summary: 'Save the next revision', body: saveBackdropSchema, answer: z.object({ revision: z.int(), updatedAt: z.string() }), handle: ({ id, body }) => workshop.saveBackdrop(id, body) }),
    route({ method: 'patch', path: '/api/backdrops/:id', summary: 'Rename a backdrop', body: createNamedSchema, answer: null, handle: ({ id, body }) => workshop.renameBackdrop(id, body.name) }),
    route({ ...none, method: 'delete', path: '/api/backdrops/:id', summary: 'Delete a backdrop', handle: ({ id }) => workshop.deleteBackdrop(id) }),
    route({ method: 'get', path: '/api/backdrops/:id/revisions', summary: 'Its revisions, newest first', body: null, answer: z.array(revisionSchema), handle: ({ id }) => workshop.listRevisions(id) }),
    route({ method: 'post', path: '/api/renditions/lookup', summary: 'Which recipes are made already', body: lookupRenditionsSchema, answer: z.array(renditionSchema), handle: ({ body }) => workshop.findRenditions(body.keys) }),
  ]
}

async function unfinishedUploads(blobs: BlobStore, projectId: string): Promise<UnfinishedUpload[]> {
  const rows = await blobs.unfinished()
  return rows
    .map((row) => ({ row, metadata: row.metadata as Record<string, string | null> }))
    .filter(({ metadata }) => metadata['projectId'] === projectId)
    .map(({ row, metadata }) => ({ id: row.id, filename: metadata['filename'] ?? 'a file', bytes: row.size, received: row.received, createdAt: row.createdAt.toISOString() }))
}
