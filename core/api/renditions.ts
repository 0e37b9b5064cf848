import { z } from 'zod'
import { amount, count, figure, idSchema, pixels, sha256Schema, text } from '../bounded'
import { probeFactsSchema } from '../weight/ProbeFacts'
import { encoderNameSchema } from '../weight/native/encoderName'
import { recipeSchema } from './recipes'

/* Finished files: what is measured of each, and how one is handed to the server. */

const quality = () => z.number().min(-1).max(1)

/**
 * The seam of a loop: mean ΔE (OKLab × 100) between its last and first frame, and that over the
 * median between consecutive frames.
 */
const seamSchema = z.object({
  /** Null for a loop without motion. */
  ratio: amount().nullable(),
  deltaE: amount(),
  /** The same of the cell that differs most; null in files rendered before it was measured. */
  worstDeltaE: amount().nullable().default(null),
  /** The straight seam of the same cut; null if not known. */
  straightRatio: amount().nullable(),
})

/**
 * Quality of a finished clip, decoded again, against the composed frames; measured on evenly spread
 * frames.
 */
const qualitySchema = z.object({
  /** Mean luma similarity, and that of the worst frame with its number in the loop. */
  ssim: quality(),
  worstSsim: quality(),
  worstFrame: count(),
  /** Mean peak signal to noise in decibels, and that of the first frame. */
  psnr: figure(),
  firstPsnr: figure(),
  /** How little loss shows, in decibels; not in files rendered before it was measured. */
  seen: figure().optional(),
  /** Frames compared. */
  compared: count().min(1),
})

const clipFactsSchema = z.object({
  kind: z.literal('clip'),
  type: z.enum(['video/mp4', 'video/webm']),
  codec: text(100),
  width: pixels(),
  height: pixels(),
  /** Of one turn of the loop. */
  frames: count(),
  /** How often the index plays the loop over. */
  repeats: count().min(1),
  /** Measured on composed frames; null for clips that play once. */
  seam: seamSchema.nullable(),
  /** The same of the finished file, decoded again; null for proofs and clips that play once. */
  deliveredSeam: seamSchema.omit({ straightRatio: true }).nullable().default(null),
  /** Seconds the encode took, without the probe. */
  encodeSeconds: amount(),
  /** Null for proofs, which are rendered quickly and without a goal. */
  quality: qualitySchema.nullable().default(null),
  /** Passes it took after the probe. */
  passes: count(100).min(1).default(1),
  /** The encoder program that made it, with its version; null for a browser's. */
  encoder: encoderNameSchema.nullable().default(null),
})

const PLACEHOLDER = /^data:image\/[a-z]+;base64,[A-Za-z0-9+/=]+$/

const posterFactsSchema = z.object({
  kind: z.literal('poster'),
  type: z.enum(['image/avif', 'image/webp', 'image/jpeg', 'image/svg+xml']),
  width: pixels(),
  height: pixels(),
  /** Luma similarity of the file, decoded again, to the picture it was made from. */
  ssim: quality(),
  /**
   * The file, decoded again, against the loop's first frame: mean and worst cell, ΔE (OKLab × 100).
   */
  swapDeltaE: amount(),
  swapWorst: amount(),
  /**
   * A picture of 20 pixels' width as a data URL, and the mean colour: shown until the first file
   * has loaded.
   */
  placeholder: z.object({
    dataUrl: z.string().max(2000).regex(PLACEHOLDER),
    colour: z.string().regex(/^#[0-9a-f]{6}$/),
  }),
  /** The encoder that made it, with its version; null for a browser's. */
  encoder: encoderNameSchema.nullable().default(null),
})

/** What the search for loops compares. */
const traceFactsSchema = z.object({ kind: z.literal('trace'), moments: count().min(1) })

export const renditionFactsSchema = z.discriminatedUnion('kind', [
  clipFactsSchema,
  posterFactsSchema,
  traceFactsSchema,
  probeFactsSchema,
])

/** The longest recipe key. */
export const MAX_KEY = 600

export const renditionSchema = z.object({
  key: text(MAX_KEY),
  sha256: sha256Schema,
  bytes: count(),
  facts: renditionFactsSchema,
})

/** A rendition larger than this is no background. */
const MAX_RENDITION_BYTES = 64 * 1024 * 1024

export const lookupRenditionsSchema = z.object({ keys: z.array(text(MAX_KEY)).max(300) })

/**
 * A finished file is announced with its recipe and what was measured of it; then its bytes follow.
 */
export const announceRenditionSchema = z.object({
  recipe: recipeSchema,
  facts: renditionFactsSchema,
  bytes: z.int().min(1).max(MAX_RENDITION_BYTES),
})
/** Where to send the bytes; or the file itself, if another tab has sent it already. */
export const announcedRenditionSchema = z.object({
  id: idSchema.nullable(),
  rendition: renditionSchema.nullable(),
})

export type Rendition = z.infer<typeof renditionSchema>
export type RenditionFacts = z.infer<typeof renditionFactsSchema>
export type ClipFacts = z.infer<typeof clipFactsSchema>
export type ClipQuality = z.infer<typeof qualitySchema>
export type PosterFacts = z.infer<typeof posterFactsSchema>
export type SeamFigure = z.infer<typeof seamSchema>
