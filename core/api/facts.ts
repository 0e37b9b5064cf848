import { z } from 'zod'
import { amount, count, figure, pixels, text } from '../bounded'
import type { Finding } from '../material/findings'
import type { MediaFacts, SourceFacts, ImageFacts } from '../media/probe'

/*
 * What is stored about a source's file. Facts stored before a field existed have the field's
 * default.
 */

const colour = z.object({
  primaries: count(255),
  transfer: count(255),
  matrix: count(255),
  fullRange: z.boolean(),
})
const personal = z.array(z.enum(['location', 'device', 'author', 'date'])).max(8)
const pixelAspect = z.object({ horizontal: amount(), vertical: amount() })
const stream = z.object({
  profile: text(100),
  level: text(100).nullable(),
  bitDepth: count(64),
  chroma: z.enum(['4:0:0', '4:2:0', '4:2:2', '4:4:4']),
  interlaced: z.boolean().optional(),
})

const fraction = z.object({ num: count().min(1), den: count().min(1) })

const videoFacts = z.object({
  family: z.enum(['h264', 'hevc', 'vp8', 'vp9', 'av1', 'gif', 'webp', 'mjpeg', 'other']),
  codecName: text(200),
  codec: text(200),
  displayWidth: pixels(),
  displayHeight: pixels(),
  rotationDeg: figure(),
  pixelAspect: pixelAspect.default({ horizontal: 1, vertical: 1 }),
  averageFps: amount(),
  frameRate: fraction.nullable().default(null),
  frameCount: count(),
  repeats: count().min(1).default(1),
  timescale: count(),
  durationTicks: amount(),
  bytesPerSecond: amount(),
  peakBytesPerSecond: amount().default(0),
  keyEveryMs: amount().default(0),
  alpha: z.boolean().default(false),
  colour: colour.nullable().default(null),
  stream: stream.nullable().default(null),
})

export const clipSourceSchema: z.ZodType<MediaFacts> = z.object({
  kind: z.literal('clip').default('clip'),
  container: z.enum(['mp4', 'mov', 'webm', 'mkv', 'gif', 'webp', 'avif']),
  bytes: count(),
  durationMs: amount(),
  video: videoFacts,
  audio: z.boolean(),
  audioBytes: amount().default(0),
  indexFirst: z.boolean().nullable(),
  personal: personal.default([]),
})

const imageSourceSchema: z.ZodType<ImageFacts> = z.object({
  kind: z.literal('image'),
  format: z.enum(['jpeg', 'png', 'webp', 'avif', 'gif', 'svg']),
  bytes: count(),
  width: pixels(),
  height: pixels(),
  orientation: z.int().min(1).max(8),
  displayWidth: pixels(),
  displayHeight: pixels(),
  bitDepth: count(64),
  alpha: z.boolean(),
  profile: text(500).nullable(),
  progressive: z.boolean(),
  animated: z.boolean(),
  personal,
})

export const factsSchema: z.ZodType<SourceFacts> = z.union([clipSourceSchema, imageSourceSchema])

export const findingSchema: z.ZodType<Finding> = z.object({
  code: z.enum([
    'narrow',
    'soft',
    'busy',
    'flashes',
    'hard-cut',
    'title-card',
    'black-start',
    'black-end',
    'held-start',
    'held-end',
    'fade-in',
    'fade-out',
    'mark',
    'bars',
    'sound',
    'heavy',
    'index-last',
    'personal',
    'pictures',
    'missing-frames',
    'interlaced',
    'transparent',
    'rotated',
    'wide-gamut',
    'heavy-image',
  ]),
  weight: z.enum(['fix', 'look', 'note']),
  figure: figure(),
  fromMs: figure().nullable(),
  toMs: figure().nullable(),
  place: z.object({ x: figure(), y: figure(), width: figure(), height: figure() }).nullable(),
  repair: z.enum(['trim', 'no-sound', 'index-first', 'strip']).nullable(),
})

/** Whether a source is footage. */
export function isClip<T extends { readonly facts: SourceFacts }>(
  source: T,
): source is T & { readonly facts: MediaFacts } {
  return source.facts.kind === 'clip'
}
