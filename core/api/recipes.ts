import { z } from 'zod'
import type { ClipRecipe, PosterRecipe, ProbeRecipe, TraceRecipe } from '../backdrop/recipe'
import { FAMILIES } from '../weight/families'
import { amount, count, sha256Schema, share } from './bounded'

/*
 * Recipes as they cross the wire: the server takes a finished file only with the recipe it was made
 * by.
 */

const side = () => z.int().min(2).max(8192)
const ticks = () => z.number().min(0).max(1e15)
const timescale = () => count(4_294_967_295).min(1)
const fraction = z.object({ num: z.int().min(1).max(240_000), den: z.int().min(1).max(1_000_000) })
const rect = z.object({ x: share(), y: share(), width: share(), height: share() })

const loopFields = {
  cut: z
    .object({ timescale: timescale(), start: ticks(), end: ticks() })
    .refine(({ start, end }) => end > start, 'The end must be after the start.'),
  speed: z.number().min(0.25).max(4),
  frameRate: fraction,
  sourceRate: fraction.nullable().optional(),
  seam: z.object({
    kind: z.enum(['straight', 'blended', 'ping-pong']),
    overlapSeconds: z.number().min(0).max(60),
  }),
  blendFrames: z.boolean(),
}

const pictureFields = {
  sourceSha256: sha256Schema,
  shape: z.object({
    crop: rect.nullable(),
    quarterTurns: z.int().min(0).max(3),
    mirrored: z.boolean(),
  }),
  soften: z.object({ box: rect, strength: share() }).nullable(),
  width: side(),
  height: side(),
}

const codingFields = { loops: z.boolean(), family: z.enum(FAMILIES), noiseReduction: share() }

const clipRecipeSchema: z.ZodType<ClipRecipe> = z.object({
  kind: z.enum(['proof', 'clip']),
  ...pictureFields,
  ...loopFields,
  ...codingFields,
  goal: z
    .discriminatedUnion('kind', [
      z.object({ kind: z.literal('budget'), bytes: z.number().min(-1e9).max(1e9) }),
      z.object({ kind: z.literal('quality'), ssim: share() }),
    ])
    .nullable(),
})

const probeRecipeSchema: z.ZodType<ProbeRecipe> = z.object({
  kind: z.literal('probe'),
  ...pictureFields,
  ...loopFields,
  ...codingFields,
})

const posterRecipeSchema: z.ZodType<PosterRecipe> = z.object({
  kind: z.literal('poster'),
  ...pictureFields,
  loop: z.object(loopFields),
  picture: z.discriminatedUnion('kind', [
    z.object({ kind: z.literal('first') }),
    z.object({ kind: z.literal('frame'), ticks: ticks(), timescale: timescale() }),
    z.object({
      kind: z.literal('source'),
      sha256: sha256Schema,
      mime: z.string().max(40),
      bytes: amount(),
    }),
  ]),
  format: z.enum(['avif', 'webp', 'jpeg']),
  maxBytes: z.number().min(-1e9).max(1e9),
})

const traceRecipeSchema: z.ZodType<TraceRecipe> = z.object({
  kind: z.literal('trace'),
  sourceSha256: sha256Schema,
})

/** Any recipe that a file can be handed in for. */
export const recipeSchema = z.union([
  clipRecipeSchema,
  probeRecipeSchema,
  posterRecipeSchema,
  traceRecipeSchema,
])

export type AnyRecipe = z.infer<typeof recipeSchema>
