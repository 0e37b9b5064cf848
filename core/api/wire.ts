import { z } from 'zod'
import { backdropSchema } from '../backdrop/BackdropDocument'
import { historySchema } from '../backdrop/history'
import type { MediaFacts } from '../media/probe'

/*
 * What goes over the wire between studio and server: each side parses with these. Ids are UUIDs, times ISO 8601, sizes bytes.
 */

export const idSchema = z.uuid()
const name = z.string().trim().min(1, 'A name is needed.').max(120, 'A name has at most 120 characters.')
const when = z.iso.datetime()
export const sha256Schema = z.string().regex(/^[0-9a-f]{64}$/)

export const heightSchema = z.object({ unit: z.enum(['svh', 'px']), value: z.int().min(10).max(4000) })

const videoFacts = z.object({
  family: z.enum(['h264', 'hevc', 'vp8', 'vp9', 'av1', 'other']),
  codecName: z.string(),
  codec: z.string(),
  displayWidth: z.int(),
  displayHeight: z.int(),
  rotationDeg: z.number(),
  averageFps: z.number(),
  frameCount: z.int(),
  timescale: z.int(),
  durationTicks: z.number(),
  bytesPerSecond: z.number(),
})

export const factsSchema: z.ZodType<MediaFacts> = z.object({
  container: z.enum(['mp4', 'mov', 'webm', 'mkv']),
  bytes: z.int(),
  durationMs: z.number(),
  video: videoFacts,
  audio: z.boolean(),
  indexFirst: z.boolean().nullable(),
})

export const sourceSchema = z.object({
  id: idSchema,
  projectId: idSchema,
  name: z.string(),
  sha256: sha256Schema,
  facts: factsSchema,
  createdAt: when,
  /** Names of the backdrops made from it. */
  usedBy: z.array(z.string()),
})

const backdropSummarySchema = z.object({ id: idSchema, spotId: idSchema, name: z.string(), sourceId: z.string(), updatedAt: when })

export const spotSchema = z.object({
  id: idSchema,
  pageId: idSchema,
  name: z.string(),
  scope: z.enum(['region', 'page']),
  /** What new backdrops here begin with; each may then decide its own. */
  height: heightSchema,
  backdrops: z.array(backdropSummarySchema),
})

export const pageSchema = z.object({ id: idSchema, projectId: idSchema, name: z.string(), spots: z.array(spotSchema) })

export const projectSummarySchema = z.object({
  id: idSchema,
  name: z.string(),
  pages: z.int(),
  sources: z.int(),
  backdrops: z.int(),
  /** The backdrop worked on last, to show on the first screen. */
  latestBackdropId: idSchema.nullable(),
  updatedAt: when,
})

export const projectSchema = z.object({ id: idSchema, name: z.string(), pages: z.array(pageSchema) })

export const backdropRecordSchema = z.object({
  id: idSchema,
  name: z.string(),
  revision: z.int(),
  document: backdropSchema,
  history: historySchema,
  updatedAt: when,
  project: z.object({ id: idSchema, name: z.string() }),
  page: z.object({ id: idSchema, name: z.string() }),
  spot: z.object({ id: idSchema, name: z.string() }),
})

export const revisionSchema = z.object({ revision: z.int(), label: z.string(), createdAt: when })

export const clipFactsSchema = z.object({
  kind: z.literal('clip'),
  type: z.enum(['video/mp4', 'video/webm']),
  codec: z.string(),
  width: z.int(),
  height: z.int(),
  frames: z.int(),
  /** Mean ΔE between the last and first frame over the median between consecutive frames, on composed frames; null without motion. */
  seamRatio: z.number().nullable(),
  /** Seconds the encode took. */
  encodeSeconds: z.number(),
})

export const posterFactsSchema = z.object({
  kind: z.literal('poster'),
  type: z.enum(['image/webp', 'image/jpeg']),
  width: z.int(),
  height: z.int(),
})

export const renditionFactsSchema = z.discriminatedUnion('kind', [clipFactsSchema, posterFactsSchema])

export const renditionSchema = z.object({ key: z.string(), sha256: sha256Schema, bytes: z.int(), facts: renditionFactsSchema })

export const uploadSchema = z.object({ id: z.string(), filename: z.string(), bytes: z.int(), received: z.int(), createdAt: when })

export const configSchema = z.object({ maxUploadBytes: z.int() })

export const errorSchema = z.object({ error: z.object({ code: z.string(), message: z.string(), details: z.unknown().optional() }) })

export const createNamedSchema = z.object({ name })
export const createSpotSchema = z.object({ name, scope: z.enum(['region', 'page']), height: heightSchema })
export const changeSpotSchema = createSpotSchema.partial()
export const createBackdropSchema = z.object({ name, sourceId: idSchema })
export const saveBackdropSchema = z.object({
  baseRevision: z.int().min(0),
  label: z.string().max(120),
  document: backdropSchema,
  history: historySchema,
})
export const lookupRenditionsSchema = z.object({ keys: z.array(z.string().max(400)).max(200) })
export const storeRenditionQuerySchema = z.object({ key: z.string().min(1).max(400), facts: z.string().max(4000) })

export type Source = z.infer<typeof sourceSchema>
export type Spot = z.infer<typeof spotSchema>
export type Page = z.infer<typeof pageSchema>
export type Project = z.infer<typeof projectSchema>
export type ProjectSummary = z.infer<typeof projectSummarySchema>
export type BackdropRecord = z.infer<typeof backdropRecordSchema>
export type BackdropSummary = z.infer<typeof backdropSummarySchema>
export type Rendition = z.infer<typeof renditionSchema>
export type RenditionFacts = z.infer<typeof renditionFactsSchema>
export type ClipFacts = z.infer<typeof clipFactsSchema>
export type UnfinishedUpload = z.infer<typeof uploadSchema>
export type Revision = z.infer<typeof revisionSchema>
