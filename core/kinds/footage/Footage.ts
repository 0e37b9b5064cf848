import { z } from 'zod'
import { colorSchema, fractionSchema, share, ticks, timescale } from '../../bounded'
import { PLAIN_SHAPE } from '../../picture/pictureShape'

const cutSchema = z
  .object({ timescale: timescale(), start: ticks(), end: ticks() })
  .refine((cut) => cut.end > cut.start, 'The end must be after the start.')

const shareRect = z
  .object({
    x: share(),
    y: share(),
    width: z.number().min(0.05).max(1),
    height: z.number().min(0.05).max(1),
  })
  .refine(
    ({ x, y, width, height }) => x + width <= 1.000001 && y + height <= 1.000001,
    'The crop lies inside the picture.',
  )

/** Footage: part of a clip, played in a loop or once. */
export const footageSchema = z.object({
  kind: z.literal('footage'),
  material: z.object({
    sourceId: z.uuid(),
    /** The clip's constant frame rate; null if it varies, or in documents before version 5. */
    frameRate: fractionSchema.nullable(),
  }),
  timing: z.object({
    cut: cutSchema,
    speed: z.number().min(0.25).max(4),
    repeat: z.enum(['loop', 'once']),
    frameRate: fractionSchema,
    /** How the end meets the start; `overlapSeconds` counts in a blended seam only. */
    seam: z.object({
      kind: z.enum(['straight', 'blended', 'ping-pong']),
      overlapSeconds: z.number().min(0.04).max(10),
    }),
    /** Whether slow motion mixes neighbouring frames instead of showing one twice. */
    blendFrames: z.boolean(),
    /** How a clip that plays once ends: with its last frame, or with a fade to the poster. */
    atEnd: z.enum(['hold', 'fade']),
  }),
  /** How the picture is cropped (in shares of the upright picture), straightened and filled. */
  picture: z.object({
    crop: shareRect.nullable(),
    quarterTurns: z.int().min(0).max(3),
    mirrored: z.boolean(),
    /** What transparent parts of the source are filled with. */
    matte: colorSchema,
  }),
})

export type Footage = z.infer<typeof footageSchema>

/** The values of new footage; also what older documents meant where they had no value. */
export const FIRST_FOOTAGE = {
  timing: { seam: { kind: 'straight', overlapSeconds: 0.8 }, blendFrames: false, atEnd: 'hold' },
  picture: PLAIN_SHAPE,
} as const satisfies { timing: Partial<Footage['timing']>; picture: Footage['picture'] }
