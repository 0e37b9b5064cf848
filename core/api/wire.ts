import { z } from 'zod'
import { backdropSchema } from '../backdrop/BackdropDocument'
import { historySchema } from '../backdrop/history'
import {
  amount,
  count,
  idSchema,
  nameSchema,
  pixels,
  sha256Schema,
  share,
  text,
  whenSchema,
} from '../bounded'
import { paintSchema } from '../kinds/paint/Paint'
import { SLIDE_COUNT } from '../kinds/slideshow/Slideshow'
import { analysisSchema } from '../material/Analysis'
import type { MediaFacts } from '../media/probe'
import { factsSchema, findingSchema } from './facts'

/*
 * Data between studio and server: each side parses with these schemas. Ids are UUIDs, times ISO
 * 8601, sizes bytes. Facts of files are in `facts.ts`, finished files in `renditions.ts`.
 */

export { fileNameSchema, idSchema } from '../bounded'
export { clipSourceSchema, factsSchema, isClip } from './facts'
export * from './renditions'

const name = nameSchema
const when = whenSchema

export const heightSchema = z.object({
  unit: z.enum(['svh', 'px']),
  value: z.int().min(10).max(4000),
})

export const sourceSchema = z.object({
  id: idSchema,
  projectId: idSchema,
  name: text(255),
  sha256: sha256Schema,
  facts: factsSchema,
  createdAt: when,
  /** Names of the backdrops that use it. */
  usedBy: z.array(text(120)).max(10_000),
  /** Null until its frames were measured. */
  analysis: analysisSchema.nullable(),
  /** Its findings, the most serious first. */
  findings: z.array(findingSchema).max(100),
  /** Its filmstrip: one image of cells side by side; null until measured. */
  strip: z.object({ sha256: sha256Schema, cells: z.int().min(1).max(1000) }).nullable(),
})

/** A source as the shelf's list shows it: without the long curves. */
export const sourceCardSchema = sourceSchema.omit({ analysis: true }).extend({
  measured: z.boolean(),
  liveliness: z.enum(['calm', 'lively', 'busy']).nullable(),
  /** The widest screen, in device pixels, that it covers at full sharpness. */
  widest: pixels(),
  palette: z.array(z.object({ hex: z.string().max(9), share: share() })).max(16),
})

/** A query of the shelf: a part of it, filtered and sorted by the server. */
export const shelfQuerySchema = z.object({
  search: text(120).default(''),
  kind: z.enum(['all', 'clip', 'image']).default('all'),
  orientation: z.enum(['all', 'landscape', 'portrait', 'square']).default('all'),
  liveliness: z.enum(['all', 'calm', 'lively', 'busy']).default('all'),
  /** Only what covers a screen of so many device pixels at full sharpness. */
  wide: z.coerce.number().int().min(0).max(20_000).default(0),
  findings: z.enum(['all', 'some', 'none']).default('all'),
  sort: z.enum(['newest', 'oldest', 'name', 'bytes', 'duration']).default('newest'),
  set: idSchema.optional(),
  offset: z.coerce.number().int().min(0).max(1_000_000).default(0),
  limit: z.coerce.number().int().min(1).max(200).default(60),
})
export const shelfPageSchema = z.object({
  total: count(),
  sources: z.array(sourceCardSchema).max(200),
})

export const storeAnalysisSchema = z.object({
  analysis: analysisSchema,
  cells: z.int().min(1).max(100),
  stripBase64: z.string().max(3_000_000),
})
export const repairSchema = z.object({
  operation: z.enum(['no-sound', 'index-first', 'strip', 'container', 'cut']),
  container: z.enum(['mp4', 'webm']).optional(),
  startMs: amount().optional(),
  endMs: amount().optional(),
})
export const repairedSchema = z.object({
  source: sourceSchema,
  bytesBefore: count(),
  bytesAfter: count(),
  startMs: amount(),
  before: sha256Schema,
  added: z.boolean(),
})
export const imageSetSchema = z.object({
  id: idSchema,
  projectId: idSchema,
  name: text(120),
  sourceIds: z.array(idSchema).max(1000),
})
export const saveSetSchema = z.object({ name, sourceIds: z.array(idSchema).max(200) })
export const sourceIdsSchema = z.object({ ids: z.array(idSchema).min(1).max(500) })
export const replaceSchema = z.object({ withSourceId: idSchema })
export const contentSchema = z.object({ sha256: sha256Schema })

const backdropSummarySchema = z.object({
  id: idSchema,
  spotId: idSchema,
  name: text(120),
  /** A source to know it by; null where it is made from none. */
  sourceId: idSchema.nullable(),
  /** A paint to know it by; null where it is none. */
  paint: paintSchema.nullable(),
  updatedAt: when,
})

const spotSchema = z.object({
  id: idSchema,
  pageId: idSchema,
  name: text(120),
  scope: z.enum(['region', 'page']),
  /** The settings that new backdrops start with; each backdrop can change its own. */
  height: heightSchema,
  backdrops: z.array(backdropSummarySchema).max(10_000),
})

const pageSchema = z.object({
  id: idSchema,
  projectId: idSchema,
  name: text(120),
  spots: z.array(spotSchema).max(10_000),
})

export const projectSummarySchema = z.object({
  id: idSchema,
  name: text(120),
  pages: count(),
  sources: count(),
  backdrops: count(),
  /** The backdrop worked on last, to show on the first screen. */
  latestBackdropId: idSchema.nullable(),
  updatedAt: when,
})

export const projectSchema = z.object({
  id: idSchema,
  name: text(120),
  pages: z.array(pageSchema).max(10_000),
})

/** Revisions are counted in a column of 32 bits. */
const revisionNumber = count(2_000_000_000)
const named = z.object({ id: idSchema, name: text(120) })

export const backdropRecordSchema = z.object({
  id: idSchema,
  name: text(120),
  revision: revisionNumber,
  document: backdropSchema,
  history: historySchema,
  updatedAt: when,
  project: named,
  page: named,
  spot: named,
})

export const revisionSchema = z.object({
  revision: revisionNumber,
  label: text(120),
  createdAt: when,
})
/** A revision with its document, to be looked at. */
export const openRevisionSchema = revisionSchema.extend({ document: backdropSchema })

export const uploadSchema = z.object({
  id: idSchema,
  filename: text(255),
  bytes: count(),
  received: count(),
  createdAt: when,
})

export const configSchema = z.object({ maxUploadBytes: count() })

export const errorSchema = z.object({
  error: z.object({ code: text(100), message: text(4000), details: z.unknown().optional() }),
})

export const createNamedSchema = z.object({ name })
export const createSpotSchema = z.object({
  name,
  scope: z.enum(['region', 'page']),
  height: heightSchema,
})
export const changeSpotSchema = createSpotSchema.partial()
/**
 * The base follows from what is named: a clip, an image, or null for a paint; several images, or
 * those of a set, are a slideshow.
 */
export const createBackdropSchema = z.object({
  name,
  sourceId: idSchema.nullable(),
  slides: z
    .object({
      sourceIds: z.array(idSchema).min(SLIDE_COUNT.min).max(SLIDE_COUNT.max),
      setId: idSchema.nullable(),
    })
    .nullable()
    .default(null),
})
export const saveBackdropSchema = z.object({
  /** The revision that the change was made on. */
  baseRevision: revisionNumber,
  /**
   * Chosen by the sender, and the same when the same save is sent again: it is then one revision.
   */
  saveId: idSchema,
  label: text(120),
  document: backdropSchema,
  history: historySchema,
})
export type Source = z.infer<typeof sourceSchema>
/** A source that is footage. */
export type ClipSource = Source & { readonly facts: MediaFacts }
export type SourceCard = z.infer<typeof sourceCardSchema>
/** A card of footage. */
export type ClipCard = SourceCard & { readonly facts: MediaFacts }
export type ShelfQuery = z.infer<typeof shelfQuerySchema>
export type ShelfPage = z.infer<typeof shelfPageSchema>
export type ImageSet = z.infer<typeof imageSetSchema>
export type RepairRequest = z.infer<typeof repairSchema>
export type Repaired = z.infer<typeof repairedSchema>
export type Spot = z.infer<typeof spotSchema>
export type Page = z.infer<typeof pageSchema>
export type Project = z.infer<typeof projectSchema>
export type ProjectSummary = z.infer<typeof projectSummarySchema>
export type BackdropRecord = z.infer<typeof backdropRecordSchema>
export type BackdropSummary = z.infer<typeof backdropSummarySchema>
export type UnfinishedUpload = z.infer<typeof uploadSchema>
export type Revision = z.infer<typeof revisionSchema>
export type OpenRevision = z.infer<typeof openRevisionSchema>
/** What a new backdrop is made of. */
export type BackdropOrder = z.input<typeof createBackdropSchema>
export type SlidesOrder = NonNullable<BackdropOrder['slides']>
export type BackdropSave = z.infer<typeof saveBackdropSchema>
