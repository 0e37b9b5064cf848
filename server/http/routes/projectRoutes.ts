import { z } from 'zod'
import { settingsChangeSchema, settingsSchema } from '../../../core/api/settings'
import {
  changeSpotSchema,
  createNamedSchema,
  createSpotSchema,
  idSchema,
  projectSchema,
  projectSummarySchema,
} from '../../../core/api/wire'
import type { Projects } from '../../store/Projects'
import { route, type Route } from '../route'

const created = z.object({ id: idSchema })
const none = { body: null, answer: null } as const

/** Spots. */
function spotRoutes(projects: Projects): Route[] {
  return [
    route({
      method: 'post',
      path: '/api/pages/:id/spots',
      summary: 'Add a spot',
      body: createSpotSchema,
      answer: created,
      handle: ({ id, body }) => projects.createSpot(id, body),
    }),
    route({
      method: 'patch',
      path: '/api/spots/:id',
      summary: 'Change a spot',
      body: changeSpotSchema,
      answer: null,
      handle: ({ id, body }) => projects.changeSpot(id, body),
    }),
    route({
      ...none,
      method: 'delete',
      path: '/api/spots/:id',
      summary: 'Delete a spot with its backdrops',
      handle: ({ id }) => projects.deleteSpot(id),
    }),
  ]
}

/** Pages. */
function pageRoutes(projects: Projects): Route[] {
  return [
    route({
      method: 'post',
      path: '/api/projects/:id/pages',
      summary: 'Add a page',
      body: createNamedSchema,
      answer: created,
      handle: ({ id, body }) => projects.createPage(id, body.name),
    }),
    route({
      method: 'patch',
      path: '/api/pages/:id',
      summary: 'Rename a page',
      body: createNamedSchema,
      answer: null,
      handle: ({ id, body }) => projects.renamePage(id, body.name),
    }),
    route({
      ...none,
      method: 'delete',
      path: '/api/pages/:id',
      summary: 'Delete a page with its spots',
      handle: ({ id }) => projects.deletePage(id),
    }),
  ]
}

/** Projects themselves, with their settings. */
function ownRoutes(projects: Projects): Route[] {
  return [
    route({
      method: 'get',
      path: '/api/projects',
      summary: 'All projects',
      body: null,
      answer: z.array(projectSummarySchema).max(10_000),
      handle: () => projects.list(),
    }),
    route({
      method: 'post',
      path: '/api/projects',
      summary: 'Add a project',
      body: createNamedSchema,
      answer: projectSchema,
      handle: ({ body }) => projects.create(body.name),
    }),
    route({
      method: 'get',
      path: '/api/projects/:id',
      summary: 'A project with its pages, spots and backdrops',
      body: null,
      answer: projectSchema,
      handle: ({ id }) => projects.read(id),
    }),
    route({
      method: 'patch',
      path: '/api/projects/:id',
      summary: 'Rename a project',
      body: createNamedSchema,
      answer: null,
      handle: ({ id, body }) => projects.rename(id, body.name),
    }),
    route({
      method: 'get',
      path: '/api/projects/:id/settings',
      summary: 'What a project decides for all its backdrops',
      body: null,
      answer: settingsSchema,
      handle: ({ id }) => projects.readSettings(id),
    }),
    route({
      method: 'patch',
      path: '/api/projects/:id/settings',
      summary: 'Change some of what a project decides for all its backdrops',
      body: settingsChangeSchema,
      answer: settingsSchema,
      handle: ({ id, body }) => projects.changeSettings(id, body),
    }),
    route({
      ...none,
      method: 'delete',
      path: '/api/projects/:id',
      summary: 'Delete a project with all in it',
      handle: ({ id }) => projects.delete(id),
    }),
  ]
}

/** Projects, pages and spots. */
export function projectRoutes(projects: Projects): Route[] {
  return [...ownRoutes(projects), ...pageRoutes(projects), ...spotRoutes(projects)]
}
