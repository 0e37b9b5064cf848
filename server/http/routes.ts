import { settingsSchema } from '../../core/api/settings'
import { z } from 'zod'
import {
  backdropRecordSchema, changeSpotSchema, configSchema, contentSchema, createBackdropSchema, createNamedSchema, createSpotSchema, idSchema, lookupRenditionsSchema, mendedSchema,
  mendSchema, projectSchema, projectSummarySchema, renditionSchema, replaceSchema, revisionSchema, saveBackdropSchema, saveSetSchema, shelfPageSchema, shelfQuerySchema, sourceIdsSchema,
  sourceSchema, stillSetSchema, storeAnalysisSchema, uploadSchema, type UnfinishedUpload,
} from '../../core/api/wire'
import { manifestJsonSchema } from '../../core/handoff/manifest'
import type { BlobStore } from '../blobs/BlobStore'
import type { Config } from '../config'
import type { Shelf } from '../store/Shelf'
import type { Workshop } from '../store/Workshop'
import { route, type Route } from './route'

/** All JSON routes. Files travel by `mediaRoutes`, `handoffRoutes` and the tus server. */
export function apiRoutes(workshop: Workshop, shelf: Shelf, blobs: BlobStore, config: Pick<Config, 'maxUploadBytes'>): Route[] {
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
    route({ method: 'get', path: '/api/projects/:id/settings', summary: 'What a project decides for all its backdrops', body: null, answer: settingsSchema, handle: ({ id }) => workshop.readSettings(id) }),
    route({ method: 'put', path: '/api/projects/:id/settings', summary: 'Change what a project decides for all its backdrops', body: settingsSchema, answer: null, handle: ({ id, body }) => workshop.writeSettings(id, body) }),
    route({ ...none, method: 'delete', path: '/api/projects/:id', summary: 'Delete a project with all in it', handle: ({ id }) => workshop.deleteProject(id) }),
    route({ method: 'post', path: '/api/projects/:id/pages', summary: 'Add a page', body: createNamedSchema, answer: created, handle: ({ id, body }) => workshop.createPage(id, body.name) }),
    route({ method: 'patch', path: '/api/pages/:id', summary: 'Rename a page', body: createNamedSchema, answer: null, handle: ({ id, body }) => workshop.renamePage(id, body.name) }),
    route({ ...none, method: 'delete', path: '/api/pages/:id', summary: 'Delete a page with its spots', handle: ({ id }) => workshop.deletePage(id) }),
    route({ method: 'post', path: '/api/pages/:id/spots', summary: 'Add a spot', body: createSpotSchema, answer: created, handle: ({ id, body }) => workshop.createSpot(id, body) }),
    route({ method: 'patch', path: '/api/spots/:id', summary: 'Change a spot', body: changeSpotSchema, answer: null, handle: ({ id, body }) => workshop.changeSpot(id, body) }),
    route({ ...none, method: 'delete', path: '/api/spots/:id', summary: 'Delete a spot with its backdrops', handle: ({ id }) => workshop.deleteSpot(id) }),

    route({ method: 'get', path: '/api/projects/:id/sources', summary: 'A part of a project’s shelf, filtered and sorted', body: null, query: shelfQuerySchema, answer: shelfPageSchema, handle: ({ id, query }) => shelf.list(id, query) }),
    route({ method: 'get', path: '/api/projects/:id/sets', summary: 'Sets of stills, in order', body: null, answer: z.array(stillSetSchema), handle: ({ id }) => shelf.listSets(id) }),
    route({ method: 'post', path: '/api/projects/:id/sets', summary: 'Add a set of stills', body: saveSetSchema, answer: stillSetSchema, handle: ({ id, body }) => shelf.createSet(id, body) }),
    route({ method: 'put', path: '/api/sets/:id', summary: 'Name a set, and put these stills in it in this order', body: saveSetSchema, answer: stillSetSchema, handle: ({ id, body }) => shelf.saveSet(id, body) }),
    route({ ...none, method: 'delete', path: '/api/sets/:id', summary: 'Delete a set; its stills stay', handle: ({ id }) => shelf.deleteSet(id) }),
    route({ method: 'get', path: '/api/projects/:id/uploads', summary: 'Uploads that were begun and not finished', body: null, answer: z.array(uploadSchema), handle: ({ id }) => unfinishedUploads(blobs, id) }),
    route({ method: 'get', path: '/api/sources/:id', summary: 'A source', body: null, answer: sourceSchema, handle: ({ id }) => shelf.read(id) }),
    route({ method: 'patch', path: '/api/sources/:id', summary: 'Rename a source', body: createNamedSchema, answer: null, handle: ({ id, body }) => shelf.rename(id, body.name) }),
    route({ method: 'put', path: '/api/sources/:id/analysis', summary: 'Keep what a source’s frames told, with its filmstrip', body: storeAnalysisSchema, answer: sourceSchema, handle: async ({ id, body }) =>
      shelf.storeAnalysis(id, body.analysis, body.stripBase64 === '' ? null : await blobs.put(Buffer.from(body.stripBase64, 'base64')), body.cells) }),
    route({ method: 'post', path: '/api/sources/:id/mends', summary: 'Mend a clip without encoding it anew', body: mendSchema, answer: mendedSchema, handle: ({ id, body }) => shelf.mend(id, body, blobs) }),
    route({ method: 'put', path: '/api/sources/:id/content', summary: 'Put stored content back, as undoing a mend does', body: contentSchema, answer: sourceSchema, handle: ({ id, body }) => shelf.putContent(id, body.sha256, blobs) }),
    route({ method: 'post', path: '/api/sources/:id/replace', summary: 'Use another clip wherever this one is used', body: replaceSchema, answer: z.object({ backdrops: z.array(z.string()) }), handle: ({ id, body }) => shelf.replace(id, body.withSourceId) }),
    route({ method: 'post', path: '/api/sources/delete', summary: 'Take sources off the shelf, all or none; for a week they can come back', body: sourceIdsSchema, answer: null, handle: ({ body }) => shelf.remove(body.ids) }),
    route({ method: 'post', path: '/api/sources/restore', summary: 'Bring sources back to the shelf', body: sourceIdsSchema, answer: null, handle: ({ body }) => shelf.restore(body.ids) }),

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
