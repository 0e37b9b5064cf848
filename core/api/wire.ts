import { z } from 'zod'
import { backdropSchema } from '../backdrop/BackdropDocument'
import { historySchema } from '../backdrop/history'
import { analysisSchema } from '../material/Analysis'
import type { Finding } from '../material/findings'
import type { MediaFacts, SourceFacts, StillFacts } from '../media/probe'

/*
 * What goes over the wire between studio and server: each side parses with these. Ids are UUIDs, times ISO 8601, sizes bytes.
 */

export const idSchema = z.uuid()
const name = z.string().trim().min(1, 'A name is needed.').max(120, 'A name has at most 120 characters.')
const when = z.iso.datetime()
export const sha256Schema = z.string().regex(/^[0-9a-f]{64}$/)

export const heightSchema = z.object({ unit: z.enum(['svh', 'px']), value: z.int().min(10).max(4000) })

const colour = z.object({ primaries: z.int(), transfer: z.int(), matrix: z.int(), fullRange: z.boolean() })
const personal = z.array(z.enum(['location', 'device', 'author', 'date']))

const videoFacts = z.object({
  family: z.enum(['h264', 'hevc', 'vp8', 'vp9', 'av1', 'gif', 'webp', 'other']),
  codecName: z.string(),
  codec: z.string(),
  displayWidth: z.int(),
  displayHeight: z.int(),
  rotationDeg: z.number(),
  pixelAspect: z.object({ horizontal: z.number(), vertical: z.number() }).default({ horizontal: 1, vertical: 1 }),
  averageFps: z.number(),
  frameCount: z.int(),
  repeats: z.int().min(1).default(1),
  timescale: z.int(),
  durationTicks: z.number(),
  bytesPerSecond: z.number(),
  peakBytesPerSecond: z.number().default(0),
  keyEveryMs: z.number().default(0),
  colour: colour.nullable().default(null),
  stream: z.object({ profile: z.string(), level: z.string().nullable(), bitDepth: z.int(), chroma: z.enum(['4:0:0', '4:2:0', '4:2:2', '4:4:4']) }).nullable().default(null),
})

/** Facts stored before a field was known come without it: the defaults stand in. */
export const clipSourceSchema: z.ZodType<MediaFacts> = z.object({
  kind: z.literal('clip').default('clip'),
  container: z.enum(['mp4', 'mov', 'webm', 'mkv', 'gif', 'webp', 'avif']),
  bytes: z.int(),
  durationMs: z.number(),
  video: videoFacts,
  audio: z.boolean(),
  audioBytes: z.number().default(0),
  indexFirst: z.boolean().nullable(),
  personal: personal.default([]),
})

const stillSourceSchema: z.ZodType<StillFacts> = z.object({
  kind: z.literal('still'),
  format: z.enum(['jpeg', 'png', 'webp', 'avif', 'gif', 'svg']),
  bytes: z.int(),
  width: z.int(),
  height: z.int(),
  orientation: z.int().min(1).max(8),
  displayWidth: z.int(),
  displayHeight: z.int(),
  bitDepth: z.int(),
  alpha: z.boolean(),
  profile: z.string().nullable(),
  progressive: z.boolean(),
  animated: z.boolean(),
  personal,
})

export const factsSchema: z.ZodType<SourceFacts> = z.union([clipSourceSchema, stillSourceSchema])

const findingSchema: z.ZodType<Finding> = z.object({
  code: z.enum([
    'narrow', 'soft', 'busy', 'flashes', 'hard-cut', 'title-card', 'black-start', 'black-end', 'held-start', 'held-end', 'fade-in', 'fade-out', 'mark', 'bars', 'sound', 'heavy', 'index-last', 'personal', 'pictures',
  ]),
  weight: z.enum(['fix', 'look', 'note']),
  figure: z.number(),
  fromMs: z.number().nullable(),
  toMs: z.number().nullable(),
  place: z.object({ x: z.number(), y: z.number(), width: z.number(), height: z.number() }).nullable(),
  mend: z.enum(['trim', 'no-sound', 'index-first', 'strip']).nullable(),
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
  /** Null until its frames were measured. */
  analysis: analysisSchema.nullable(),
  /** What is to be said of it, the gravest first. */
  findings: z.array(findingSchema),
  /** Its filmstrip: one image of cells side by side; null until measured. */
  strip: z.object({ sha256: sha256Schema, cells: z.int().min(1) }).nullable(),
})

/** A source as the shelf's list shows it: without the long curves. */
export const sourceCardSchema = sourceSchema.omit({ analysis: true }).extend({
  measured: z.boolean(),
  liveliness: z.enum(['calm', 'lively', 'busy']).nullable(),
  /** The widest screen, in device pixels, that it covers at full sharpness. */
  widest: z.int(),
  palette: z.array(z.object({ hex: z.string(), share: z.number() })),
})

/** What the shelf is asked for: a part of it, filtered and sorted by the server. */
export const shelfQuerySchema = z.object({
  search: z.string().max(120).default(''),
  kind: z.enum(['all', 'clip', 'still']).default('all'),
  orientation: z.enum(['all', 'landscape', 'portrait', 'square']).default('all'),
  liveliness: z.enum(['all', 'calm', 'lively', 'busy']).default('all'),
  /** Only what covers a screen of so many device pixels at full sharpness. */
  wide: z.coerce.number().int().min(0).max(20_000).default(0),
  findings: z.enum(['all', 'some', 'none']).default('all'),
  sort: z.enum(['newest', 'oldest', 'name', 'bytes', 'duration']).default('newest'),
  set: idSchema.optional(),
  offset: z.coerce.number().int().min(0).default(0),
  limit: z.coerce.number().int().min(1).max(200).default(60),
})
export const shelfPageSchema = z.object({ total: z.int(), sources: z.array(sourceCardSchema) })

export const storeAnalysisSchema = z.object({ analysis: analysisSchema, cells: z.int().min(1).max(100), stripBase64: z.string().max(3_000_000) })
export const mendSchema = z.object({
  operation: z.enum(['no-sound', 'index-first', 'strip', 'container', 'cut']),
  container: z.enum(['mp4', 'webm']).optional(),
  startMs: z.number().min(0).optional(),
  endMs: z.number().min(0).optional(),
})
export const mendedSchema = z.object({ source: sourceSchema, bytesBefore: z.int(), bytesAfter: z.int(), startMs: z.number(), before: sha256Schema, added: z.boolean() })
export const stillSetSchema = z.object({ id: idSchema, projectId: idSchema, name: z.string(), sourceIds: z.array(idSchema) })
export const saveSetSchema = z.object({ name: z.string().trim().min(1, 'A name is needed.').max(120), sourceIds: z.array(idSchema).max(200) })
export const sourceIdsSchema = z.object({ ids: z.array(idSchema).min(1).max(500) })
export const replaceSchema = z.object({ withSourceId: idSchema })
export const contentSchema = z.object({ sha256: sha256Schema })

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

/** How well a loop joins: mean ΔE (OKLab × 100) between its last and first frame, and that over the median between consecutive frames. */
const seamSchema = z.object({
  /** Null for a loop without motion. */
  ratio: z.number().nullable(),
  deltaE: z.number(),
  /** What a straight seam of the same cut would have; null where it is not known. */
  straightRatio: z.number().nullable(),
})

/** How like the composed frames a finished clip's frames are, decoded again: over some frames, evenly spread. */
const qualitySchema = z.object({
  /** Mean luma similarity, and that of the worst frame with its number in the loop. */
  ssim: z.number(),
  worstSsim: z.number(),
  worstFrame: z.int().min(0),
  /** Mean peak signal to noise in decibels, and that of the first frame. */
  psnr: z.number(),
  firstPsnr: z.number(),
  /** Frames compared. */
  compared: z.int().min(1),
})

export const clipFactsSchema = z.object({
  kind: z.literal('clip'),
  type: z.enum(['video/mp4', 'video/webm']),
  codec: z.string(),
  width: z.int(),
  height: z.int(),
  /** Of one turn of the loop. */
  frames: z.int(),
  /** How often the index plays the loop over. */
  repeats: z.int().min(1),
  /** Measured on composed frames; null for clips that play once. */
  seam: seamSchema.nullable(),
  /** The join as the finished file, decoded again, shows it; null for proofs and for clips that play once or hardly move. */
  deliveredSeamRatio: z.number().nullable(),
  /** Seconds the encode took, without the probe. */
  encodeSeconds: z.number(),
  /** Null for proofs, which are only quick. */
  quality: qualitySchema.nullable().default(null),
  /** Passes it took after the probe. */
  passes: z.int().min(1).default(1),
})

export const posterFactsSchema = z.object({
  kind: z.literal('poster'),
  type: z.enum(['image/avif', 'image/webp', 'image/jpeg']),
  width: z.int(),
  height: z.int(),
  /** Luma similarity of the file, decoded again, to the picture it was made from. */
  ssim: z.number(),
  /** The file, decoded again, against the loop's first frame: mean and worst cell, ΔE (OKLab × 100). */
  swapDeltaE: z.number(),
  swapWorst: z.number(),
  /** A picture 20 pixels wide as a data address, and the mean colour: what stands there before any file has come. */
  placeholder: z.object({ dataUrl: z.string().max(2000).regex(/^data:image\/[a-z]+;base64,[A-Za-z0-9+/=]+$/), colour: z.string().regex(/^#[0-9a-f]{6}$/) }),
})

/** What the search for loops compares. */
export const traceFactsSchema = z.object({ kind: z.literal('trace'), moments: z.int().min(1) })

/** What short encodes told of a clip: how its bytes and its quality hang together. */
export const probeFactsSchema = z.object({
  kind: z.literal('probe'),
  /** What the encoder was steered by, and the range of that. */
  steering: z.enum(['quantizer', 'rate']),
  bounds: z.object({ finest: z.number(), coarsest: z.number() }),
  points: z.array(z.object({ setting: z.number(), keyBytes: z.number(), frameBytes: z.number(), ssim: z.number(), psnr: z.number() })).min(1).max(12),
  /** Every so many frames the encoder keeps one to lean on for long; null where it does not, or not that we know. */
  anchorEvery: z.int().min(2).nullable(),
  /** How heavy each window of the loop came against their mean, at a middle setting. */
  parts: z.array(z.number().min(0)).max(12),
  frames: z.int().min(1),
  seconds: z.number(),
})

export const renditionFactsSchema = z.discriminatedUnion('kind', [clipFactsSchema, posterFactsSchema, traceFactsSchema, probeFactsSchema])

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
/** A source that is footage. */
export type ClipSource = Source & { readonly facts: MediaFacts }
export type SourceCard = z.infer<typeof sourceCardSchema>
/** A card of footage. */
export type ClipCard = SourceCard & { readonly facts: MediaFacts }
export type ShelfQuery = z.infer<typeof shelfQuerySchema>
export type ShelfPage = z.infer<typeof shelfPageSchema>
export type StillSet = z.infer<typeof stillSetSchema>
export type MendRequest = z.infer<typeof mendSchema>
export type Mended = z.infer<typeof mendedSchema>
export type Spot = z.infer<typeof spotSchema>
export type Page = z.infer<typeof pageSchema>
export type Project = z.infer<typeof projectSchema>
export type ProjectSummary = z.infer<typeof projectSummarySchema>
export type BackdropRecord = z.infer<typeof backdropRecordSchema>
export type BackdropSummary = z.infer<typeof backdropSummarySchema>
export type Rendition = z.infer<typeof renditionSchema>
export type RenditionFacts = z.infer<typeof renditionFactsSchema>
export type ClipFacts = z.infer<typeof clipFactsSchema>
export type ClipQuality = z.infer<typeof qualitySchema>
export type ProbeFacts = z.infer<typeof probeFactsSchema>
export type PosterFacts = z.infer<typeof posterFactsSchema>
export type SeamFigure = z.infer<typeof seamSchema>
export type UnfinishedUpload = z.infer<typeof uploadSchema>
export type Revision = z.infer<typeof revisionSchema>

/** Whether a source is footage. */
export function isClip<T extends { readonly facts: SourceFacts }>(source: T): source is T & { readonly facts: MediaFacts } {
  return source.facts.kind === 'clip'
}
