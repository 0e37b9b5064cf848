import { z } from 'zod'
import {
  PICTURE_FORMATS,
  type ClipRecipe,
  type PosterRecipe,
  type ProbeRecipe,
  type TraceRecipe,
} from '../backdrop/recipe'
import { amount, count, sha256Schema, share, ticks, timescale } from '../bounded'
import { sequenceSchema } from '../kinds'
import { imageSequenceSchema } from '../kinds/image/imageSequence'
import { tonedSchema } from '../kinds/Sequence'
import { SLIDE_COUNT } from '../kinds/slideshow/Slideshow'
import { FAMILIES } from '../weight/families'
import { encoderNameSchema } from '../weight/native/encoderName'

/*
 * Recipes as they cross the wire: the server takes a finished file only with the recipe it was made
 * by.
 */

const side = () => z.int().min(2).max(8192)
const rect = z.object({ x: share(), y: share(), width: share(), height: share() })

const pictureFields = {
  sequence: sequenceSchema,
  copyBlur: z.object({ box: rect, strength: share() }).nullable(),
  width: side(),
  height: side(),
}

/** Tabs of an older version name none. */
const encoder = encoderNameSchema.nullable().default(null)
const codingFields = { family: z.enum(FAMILIES), noiseReduction: share(), encoder }

const clipRecipeSchema: z.ZodType<ClipRecipe> = z.object({
  kind: z.enum(['proof', 'clip']),
  ...pictureFields,
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
  ...codingFields,
})

const posterRecipeSchema: z.ZodType<PosterRecipe> = z.object({
  kind: z.literal('poster'),
  ...pictureFields,
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
  format: z.enum(PICTURE_FORMATS),
  maxBytes: z.number().min(-1e9).max(1e9),
  encoder,
  shared: z
    .object({
      pictures: z
        .array(z.object({ ...pictureFields, sequence: tonedSchema(imageSequenceSchema) }))
        .min(1)
        .max(SLIDE_COUNT.max),
      budgets: z
        .array(
          z.object({
            pictures: z
              .array(count(SLIDE_COUNT.max - 1))
              .min(1)
              .max(SLIDE_COUNT.max),
            bytes: z.number().min(-1e9).max(1e9),
          }),
        )
        .max(SLIDE_COUNT.max + 2),
      index: count(SLIDE_COUNT.max - 1),
    })
    .refine(
      ({ pictures, budgets, index }) =>
        [index, ...budgets.flatMap((budget) => budget.pictures)].every(
          (each) => each < pictures.length,
        ),
      'One of the pictures.',
    )
    .nullable(),
})

const traceRecipeSchema: z.ZodType<TraceRecipe> = z.object({
  kind: z.literal('trace'),
  sourceSha256: sha256Schema,
})

/** A recipe that can be rendered away from the studio. */
export const renderedRecipeSchema = z.union([
  clipRecipeSchema,
  probeRecipeSchema,
  posterRecipeSchema,
])

/** Any recipe that a file can be handed in for. */
export const recipeSchema = z.union([renderedRecipeSchema, traceRecipeSchema])

export type AnyRecipe = z.infer<typeof recipeSchema>
