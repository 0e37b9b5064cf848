import { z } from 'zod'
import {
  announcedRenditionSchema,
  announceRenditionSchema,
  backdropRecordSchema,
  createBackdropSchema,
  createNamedSchema,
  lookupRenditionsSchema,
  openRevisionSchema,
  renditionSchema,
  revisionSchema,
  saveBackdropSchema,
} from '../../../core/api/wire'
import { bestNames } from '../../../core/weight/native/bestNames'
import type { RenderWork } from '../../jobs/RenderWork'
import type { Backdrops } from '../../store/Backdrops'
import type { Renditions } from '../../store/Renditions'
import { route, type Route } from '../route'

/** Backdrops with their revisions, and the files that are rendered for them. */
export function backdropRoutes(
  backdrops: Backdrops,
  renditions: Renditions,
  work: RenderWork,
): Route[] {
  return [
    route({
      method: 'post',
      path: '/api/spots/:id/backdrops',
      summary: 'Create a backdrop from a source, or a slideshow from several images',
      body: createBackdropSchema,
      answer: backdropRecordSchema,
      handle: async ({ id, body }) => {
        const workers = await work.workers()
        return backdrops.create(id, body, bestNames(workers.flatMap(({ encoders }) => encoders)))
      },
    }),
    route({
      method: 'get',
      path: '/api/backdrops/:id',
      summary: 'A backdrop with its document and history',
      body: null,
      answer: backdropRecordSchema,
      handle: ({ id }) => backdrops.read(id),
    }),
    route({
      method: 'put',
      path: '/api/backdrops/:id',
      summary: 'Save the next revision; the same save sent again is one revision',
      body: saveBackdropSchema,
      answer: revisionSchema.pick({ revision: true }).extend({ updatedAt: z.iso.datetime() }),
      handle: ({ id, body }) => backdrops.save(id, body),
    }),
    route({
      method: 'patch',
      path: '/api/backdrops/:id',
      summary: 'Rename a backdrop',
      body: createNamedSchema,
      answer: null,
      handle: ({ id, body }) => backdrops.rename(id, body.name),
    }),
    route({
      method: 'delete',
      path: '/api/backdrops/:id',
      summary: 'Delete a backdrop',
      body: null,
      answer: null,
      handle: ({ id }) => backdrops.delete(id),
    }),
    route({
      method: 'get',
      path: '/api/backdrops/:id/revisions',
      summary: 'Its kept revisions, newest first',
      body: null,
      answer: z.array(revisionSchema).max(2000),
      handle: ({ id }) => backdrops.listRevisions(id),
    }),
    route({
      method: 'get',
      path: '/api/backdrops/:id/revisions/:revision',
      summary: 'One revision with its document',
      body: null,
      answer: openRevisionSchema,
      handle: ({ id, revision }) => backdrops.readRevision(id, revision),
    }),
    route({
      method: 'post',
      path: '/api/renditions/lookup',
      summary: 'Which recipes are rendered already',
      body: lookupRenditionsSchema,
      answer: z.array(renditionSchema).max(300),
      handle: ({ body }) => renditions.find(body.keys),
    }),
    route({
      method: 'post',
      path: '/api/renditions',
      summary: 'Announce a finished file; its bytes follow under the id that is answered',
      body: announceRenditionSchema,
      answer: announcedRenditionSchema,
      handle: ({ body }) => renditions.announce(body),
    }),
  ]
}
