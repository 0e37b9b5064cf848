import { z } from 'zod'
import {
  contentSchema,
  createNamedSchema,
  repairedSchema,
  repairSchema,
  replaceSchema,
  saveSetSchema,
  shelfPageSchema,
  shelfQuerySchema,
  sourceIdsSchema,
  sourceSchema,
  imageSetSchema,
  storeAnalysisSchema,
  uploadSchema,
} from '../../../core/api/wire'
import { text } from '../../../core/bounded'
import type { BlobStore } from '../../blobs/BlobStore'
import type { Backdrops } from '../../store/Backdrops'
import type { Repairs } from '../../store/Repairs'
import type { Shelf } from '../../store/Shelf'
import type { UploadStore } from '../../uploads/UploadStore'
import { route, type Route } from '../route'

const none = { body: null, answer: null } as const

interface Parts {
  readonly shelf: Shelf
  readonly repairs: Repairs
  readonly backdrops: Backdrops
  readonly blobs: BlobStore
  readonly uploads: UploadStore
}

/** Sets of images. */
function setRoutes({ shelf }: Pick<Parts, 'shelf'>): Route[] {
  return [
    route({
      method: 'get',
      path: '/api/projects/:id/sets',
      summary: 'Sets of images, in order',
      body: null,
      answer: z.array(imageSetSchema).max(10_000),
      handle: ({ id }) => shelf.listSets(id),
    }),
    route({
      method: 'post',
      path: '/api/projects/:id/sets',
      summary: 'Add a set of images',
      body: saveSetSchema,
      answer: imageSetSchema,
      handle: ({ id, body }) => shelf.createSet(id, body),
    }),
    route({
      method: 'put',
      path: '/api/sets/:id',
      summary: 'Name a set, and put these images in it in this order',
      body: saveSetSchema,
      answer: imageSetSchema,
      handle: ({ id, body }) => shelf.saveSet(id, body),
    }),
    route({
      ...none,
      method: 'delete',
      path: '/api/sets/:id',
      summary: 'Delete a set; its images stay',
      handle: ({ id }) => shelf.deleteSet(id),
    }),
  ]
}

/** Uploads under way. */
function uploadRoutes({ uploads }: Pick<Parts, 'uploads'>): Route[] {
  return [
    route({
      method: 'get',
      path: '/api/projects/:id/uploads',
      summary: 'Uploads that were begun and not finished',
      body: null,
      answer: z.array(uploadSchema).max(500),
      handle: ({ id }) => uploads.unfinished(id),
    }),
  ]
}

/** What changes a source’s content, or its place in backdrops. */
function changeRoutes({ repairs, backdrops }: Pick<Parts, 'repairs' | 'backdrops'>): Route[] {
  return [
    route({
      method: 'post',
      path: '/api/sources/:id/repairs',
      summary: 'Repair a clip without encoding it anew',
      body: repairSchema,
      answer: repairedSchema,
      handle: ({ id, body }) => repairs.repair(id, body),
    }),
    route({
      method: 'put',
      path: '/api/sources/:id/content',
      summary: 'Put stored content back, as undoing a repair does',
      body: contentSchema,
      answer: sourceSchema,
      handle: ({ id, body }) => repairs.putContent(id, body.sha256),
    }),
    route({
      method: 'post',
      path: '/api/sources/:id/replace',
      summary: 'Use another clip wherever this one is used',
      body: replaceSchema,
      answer: z.object({ backdrops: z.array(text(120)).max(10_000) }),
      handle: ({ id, body }) => backdrops.replaceSource(id, body.withSourceId),
    }),
  ]
}

/** Sources. */
function sourceRoutes({ shelf, blobs }: Pick<Parts, 'shelf' | 'blobs'>): Route[] {
  return [
    route({
      method: 'get',
      path: '/api/projects/:id/sources',
      summary: 'A part of a project’s shelf, filtered and sorted',
      body: null,
      query: shelfQuerySchema,
      answer: shelfPageSchema,
      handle: ({ id, query }) => shelf.list(id, query),
    }),
    route({
      method: 'get',
      path: '/api/sources/:id',
      summary: 'A source',
      body: null,
      answer: sourceSchema,
      handle: ({ id }) => shelf.read(id),
    }),
    route({
      method: 'patch',
      path: '/api/sources/:id',
      summary: 'Rename a source',
      body: createNamedSchema,
      answer: null,
      handle: ({ id, body }) => shelf.rename(id, body.name),
    }),
    route({
      method: 'put',
      path: '/api/sources/:id/analysis',
      summary: 'Keep what a source’s frames told, with its filmstrip',
      body: storeAnalysisSchema,
      answer: sourceSchema,
      handle: async ({ id, body: { analysis, stripBase64, cells } }) => {
        // Asked first: a filmstrip of a source that has gone need not be stored.
        await shelf.rowOf(id)
        const strip =
          stripBase64 === '' ? null : await blobs.put(Buffer.from(stripBase64, 'base64'))
        return shelf.storeAnalysis(id, analysis, strip, cells)
      },
    }),
    route({
      method: 'post',
      path: '/api/sources/delete',
      summary: 'Take sources off the shelf, all or none; for thirty days they can come back',
      body: sourceIdsSchema,
      answer: null,
      handle: ({ body }) => shelf.remove(body.ids),
    }),
    route({
      method: 'post',
      path: '/api/sources/restore',
      summary: 'Bring sources back to the shelf',
      body: sourceIdsSchema,
      answer: null,
      handle: ({ body }) => shelf.restore(body.ids),
    }),
  ]
}

/** The shelf: sources, sets and uploads under way. */
export function shelfRoutes(parts: Parts): Route[] {
  return [
    ...sourceRoutes(parts),
    ...changeRoutes(parts),
    ...setRoutes(parts),
    ...uploadRoutes(parts),
  ]
}
