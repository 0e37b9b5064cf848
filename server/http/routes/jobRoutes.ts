import { z } from 'zod'
import {
  failedWorkSchema,
  finishedWorkSchema,
  goodbyeSchema,
  goOnSchema,
  helloSchema,
  renderWorkerSchema,
  requestWorkSchema,
  takenJobSchema,
  takeWorkSchema,
  workJobsSchema,
  workKeysSchema,
  workFilesSchema,
  workOverviewSchema,
  workProgressSchema,
  workStatesSchema,
} from '../../../core/api/work'
import type { RenderWork } from '../../jobs/RenderWork'
import type { JobWaits } from '../../jobs/JobWaits'
import { route, type Route } from '../route'

/** Files that render workers make: what the studio asks, and what workers do. */
export function jobRoutes(work: RenderWork, waits: JobWaits): Route[] {
  return [...studioRoutes(work), ...workerRoutes(work, waits)]
}

function studioRoutes(work: RenderWork): Route[] {
  return [
    route({
      method: 'post',
      path: '/api/jobs/request',
      summary: 'Ask for files by render workers; the same file asked for again is one job',
      body: requestWorkSchema,
      answer: workJobsSchema,
      handle: ({ body }) => work.request(body.recipes, body.priority),
    }),
    route({
      method: 'post',
      path: '/api/jobs/look',
      summary:
        'The jobs of files that are asked for and not made; changes come by /api/jobs/events',
      body: workKeysSchema,
      answer: workJobsSchema,
      handle: ({ body }) => work.look(body.keys),
    }),
    route({
      method: 'post',
      path: '/api/jobs/cancel',
      summary: 'Files that are no longer wanted',
      body: workKeysSchema,
      answer: null,
      handle: ({ body }) => work.cancel(body.keys),
    }),
    route({
      method: 'post',
      path: '/api/jobs/retry',
      summary: 'Failed files once more, as they were asked for',
      body: workKeysSchema,
      answer: workJobsSchema,
      handle: ({ body }) => work.retry(body.keys),
    }),
    route({
      method: 'post',
      path: '/api/jobs/cancel-all',
      summary: 'All files of some states are no longer wanted; how many there were',
      body: workStatesSchema,
      answer: workFilesSchema,
      handle: async ({ body }) => ({ files: await work.cancelAll(body.states) }),
    }),
    route({
      method: 'post',
      path: '/api/jobs/retry-all',
      summary: 'All failed files once more, as they were asked for; how many there were',
      body: null,
      answer: workFilesSchema,
      handle: async () => ({ files: await work.retryAll() }),
    }),
    route({
      method: 'get',
      path: '/api/jobs',
      summary: 'What runs where, what waits in which order, what failed and why, and the workers',
      body: null,
      answer: workOverviewSchema,
      handle: () => work.overview(),
    }),
    route({
      method: 'get',
      path: '/api/jobs/workers',
      summary: 'Render workers that are there, with their encoders',
      body: null,
      answer: z.array(renderWorkerSchema).max(10_000),
      handle: () => work.workers(),
    }),
  ]
}

function workerRoutes(work: RenderWork, waits: JobWaits): Route[] {
  return [
    route({
      method: 'post',
      path: '/api/jobs/hello',
      summary: 'A render worker says that it is there; every five seconds',
      body: helloSchema,
      answer: null,
      handle: ({ body }) => work.hello(body),
    }),
    route({
      method: 'post',
      path: '/api/jobs/goodbye',
      summary: 'A render worker stops; what it has goes to others',
      body: goodbyeSchema,
      answer: null,
      handle: ({ body }) => work.goodbye(body.workerId),
    }),
    route({
      method: 'post',
      path: '/api/jobs/take',
      summary: 'The next job that a worker can do; null where none comes within some seconds',
      body: takeWorkSchema,
      answer: takenJobSchema.nullable(),
      handle: ({ body, ctx }) => waits.take(body.workerId, ctx.res),
    }),
    route({
      method: 'post',
      path: '/api/jobs/progress',
      summary: 'How far a worker is; whether the job is still its own',
      body: workProgressSchema,
      answer: goOnSchema,
      handle: async ({ body }) => ({ goOn: await work.progress(body) }),
    }),
    route({
      method: 'post',
      path: '/api/jobs/finished',
      summary: 'The file of a job is stored',
      body: finishedWorkSchema,
      answer: null,
      handle: ({ body }) => work.finish(body.workerId, body.jobId),
    }),
    route({
      method: 'post',
      path: '/api/jobs/failed',
      summary: 'The file of a job cannot be made, or not by this worker',
      body: failedWorkSchema,
      answer: null,
      handle: ({ body }) => work.fail(body),
    }),
  ]
}
