import { z } from 'zod'
import { amount, count, idSchema, share, text, whenSchema } from '../bounded'
import { FAMILIES } from '../weight/families'
import { encoderNameSchema } from '../weight/native/encoderName'
import { MAX_KEY } from './renditions'
import { renderedRecipeSchema } from './recipes'

/*
 * Files that are rendered by a render worker: a process of its own, on this machine or another. A
 * file has one job, whoever asks for it: it is named by the key of its recipe.
 */

const MAX_KEYS = 300
/** A reason is one or two sentences. */
const MAX_REASON = 1000
const MAX_PASSES = 20

/** What a worker is doing of a job. */
export const workStepSchema = z.enum(['sources', 'frames', 'probe', 'pass', 'storing'])
export type WorkStep = z.infer<typeof workStepSchema>

const key = text(MAX_KEY)

/** A job as those who wait for it see it. */
export const workJobSchema = z.object({
  key,
  /** `done` and `cancelled` are told once, when it happens. */
  state: z.enum(['waiting', 'running', 'failed', 'cancelled', 'done']),
  /** Null while it waits. */
  step: workStepSchema.nullable(),
  /** Number of the pass, from 0. */
  pass: count(MAX_PASSES),
  /** Share of the whole job. */
  done: share(),
  /** Seconds until it is finished, by the worker's own speed; null where it cannot tell. */
  secondsLeft: amount().nullable(),
  /** Name of the worker that renders it. */
  worker: text(100).nullable(),
  /** Why it failed, and what helps. */
  reason: text(MAX_REASON).nullable(),
})
export type WorkJob = z.infer<typeof workJobSchema>

/** Files to be rendered. Higher priority comes first. */
export const requestWorkSchema = z.object({
  recipes: z.array(renderedRecipeSchema).min(1).max(100),
  priority: count(9).default(5),
})
export const workKeysSchema = z.object({ keys: z.array(key).max(MAX_KEYS) })
export const workJobsSchema = z.array(workJobSchema).max(MAX_KEYS)

/** All files of some states; `retry-all` is for those that failed. */
export const workStatesSchema = z.object({
  states: z
    .array(z.enum(['waiting', 'running', 'failed']))
    .min(1)
    .max(3),
})
export type WorkStates = z.infer<typeof workStatesSchema>['states']
export const workFilesSchema = z.object({ files: count() })

/** A render worker as it presents itself. */
export const helloSchema = z.object({
  id: idSchema,
  /** The machine's name. */
  name: text(100).min(1),
  /** The version of Telon that it runs. */
  version: text(100).min(1),
  encoders: z.array(encoderNameSchema).max(20),
  /** Its processors, in words. */
  machine: text(200).default(''),
  /** Megapixels a second of passes at full effort, by the jobs it has done. */
  speeds: z
    .array(z.object({ encoder: encoderNameSchema.nullable(), megapixels: amount() }))
    .max(20)
    .default(() => []),
})
export type WorkerFacts = z.infer<typeof helloSchema>

/** What is known of all jobs by number. */
const workCountsSchema = z.object({ waiting: count(), running: count(), failed: count() })

/** A job as it is listed: whose file, and what of it. */
export const listedJobSchema = workJobSchema.extend({
  /** Names of the sources that the file is made of, and a project that has them. */
  sources: z.array(text(300)).max(100),
  projectId: idSchema.nullable(),
  file: z.object({
    kind: z.enum(['clip', 'proof', 'poster', 'probe']),
    /** Of a clip or a probe its family, of a poster its format. */
    format: z.enum([...FAMILIES, 'avif', 'webp', 'jpeg', 'svg']),
    width: count(),
    height: count(),
    /** Null for the encoder of the worker's browser. */
    encoder: encoderNameSchema.nullable(),
  }),
})
export type ListedJob = z.infer<typeof listedJobSchema>

/** A render worker that has lately been heard of. */
export const renderWorkerSchema = helloSchema.extend({
  seenAt: whenSchema,
  /** Whether it has a job. */
  renders: z.boolean(),
})
export type SeenWorker = z.infer<typeof renderWorkerSchema>

/** What runs where, what waits, what failed: the first jobs of each, and the workers. */
export const workOverviewSchema = z.object({
  counts: workCountsSchema,
  jobs: z.array(listedJobSchema).max(1000),
  workers: z.array(renderWorkerSchema).max(10_000),
})
export type WorkOverview = z.infer<typeof workOverviewSchema>

export const takeWorkSchema = z.object({ workerId: idSchema })
/** A worker that stops. */
export const goodbyeSchema = takeWorkSchema
/** A job that a worker has taken. */
export const takenJobSchema = z.object({ jobId: idSchema, recipe: renderedRecipeSchema })
export type TakenJob = z.infer<typeof takenJobSchema>

const ofJob = { workerId: idSchema, jobId: idSchema }
export const finishedWorkSchema = z.object(ofJob)
export const workProgressSchema = z.object({
  ...ofJob,
  ...workJobSchema.pick({ pass: true, done: true, secondsLeft: true }).shape,
  step: workStepSchema,
})
export type WorkProgress = z.infer<typeof workProgressSchema>
/** Whether the job is still this worker's; otherwise it stops. */
export const goOnSchema = z.object({ goOn: z.boolean() })
export const failedWorkSchema = z.object({
  ...ofJob,
  reason: text(MAX_REASON).min(1),
  /** Whether another worker shall take it: this one stops. */
  again: z.boolean(),
})
export type FailedWork = z.infer<typeof failedWorkSchema>
