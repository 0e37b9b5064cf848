import { z } from 'zod'
import { SCREEN_CLASSES } from '../fit/screens'

const size = { width: z.int().min(2), height: z.int().min(2), bytes: z.int().min(1) }

/** `manifest.json` of a delivered folder: what the files are and how they were made. */
export const manifestSchema = z.object({
  format: z.literal('telon-handoff'),
  version: z.literal(2),
  name: z.string().describe('Name of the backdrop.'),
  loop: z.object({
    repeat: z.enum(['loop', 'once']),
    seconds: z.number().positive().describe('Length of one loop.'),
    frames: z.int().min(1),
    frameRate: z
      .object({ num: z.int().min(1), den: z.int().min(1) })
      .describe('Frames a second, as a fraction.'),
    speed: z.number().describe('How much faster than the source it plays.'),
    cut: z
      .object({ startSeconds: z.number().min(0), endSeconds: z.number().min(0) })
      .describe('The part of the source that was used.'),
  }),
  seam: z
    .object({
      kind: z.enum(['straight', 'blended', 'ping-pong']),
      overlapSeconds: z
        .number()
        .min(0)
        .describe('How long a blended seam takes; 0 for the others.'),
      ratio: z
        .number()
        .nullable()
        .describe(
          'Difference of last and first frame over the median of consecutive frames, on composed frames: 1 is perfect, up to 1.2 cannot be seen, above 2 is a visible jump. Null for a loop that hardly moves.',
        ),
      deltaE: z.number().describe('The difference itself: mean ΔE (OKLab × 100) of 32 × 18 cells.'),
      worstDeltaE: z
        .number()
        .nullable()
        .describe('The same of the cell that differs most; up to 2 cannot be seen.'),
      visibility: z
        .enum(['invisible', 'slight', 'visible'])
        .describe('By ratio and worstDeltaE, of the composed and of the finished frames.'),
      deliveredRatio: z
        .number()
        .nullable()
        .describe('The worst ratio of the finished files, decoded again.'),
    })
    .nullable()
    .describe('How the loop joins; null for a clip that plays once.'),
  poster: z.object({
    picture: z
      .enum(['first', 'frame', 'image'])
      .describe('The first output frame, another frame of the clip, or an image of its own.'),
    swapDeltaE: z
      .number()
      .describe(
        'Mean ΔE (OKLab × 100) between the poster and the first frame, of the worst file: up to 2 is hardly visible.',
      ),
    swapWorst: z.number().describe('The same of the worst of 64 × 36 cells.'),
  }),
  clips: z.array(
    z.object({
      path: z.string(),
      screen: z.enum(SCREEN_CLASSES),
      type: z.string().describe('MIME type with the codec string that the bitstream declares.'),
      budgetBytes: z
        .int()
        .nullable()
        .describe(
          'What the screen’s budget leaves for the clip after poster, script and style; null if the goal was constant quality.',
        ),
      repeats: z
        .int()
        .min(1)
        .describe(
          'How often the index plays the loop over, so that players need not loop themselves; the data stand once.',
        ),
      seamRatio: z.number().nullable().describe('As `seam.ratio`, on this file decoded again.'),
      ssim: z
        .number()
        .nullable()
        .describe(
          'Mean luma similarity (SSIM) of frames spread over the loop, decoded again, to the frames that were encoded.',
        ),
      worstSsim: z.number().nullable().describe('The same of the worst of these frames.'),
      psnr: z
        .number()
        .nullable()
        .describe('Their mean peak signal to noise ratio, luma, in decibels.'),
      seconds: z.number().describe('Seconds the encode took.'),
      passes: z.int().min(1).describe('Passes it took after the probe.'),
      ...size,
    }),
  ),
  posters: z.array(
    z.object({
      path: z.string(),
      screen: z.enum(SCREEN_CLASSES),
      type: z.enum(['image/avif', 'image/webp', 'image/jpeg']),
      maxBytes: z.int(),
      ssim: z.number().describe('Luma similarity to the picture it was made from.'),
      swapDeltaE: z.number(),
      ...size,
    }),
  ),
  firstVisit: z
    .array(
      z.object({
        screen: z.enum(SCREEN_CLASSES),
        posterBytes: z.int(),
        clipBytes: z.int(),
        pageBytes: z.int(),
        bytes: z.int(),
        budgetBytes: z.int(),
      }),
    )
    .describe(
      'Maximum bytes of a first visit on each class of screens: poster, clip, script and style (the last two compressed).',
    ),
  behaviour: z.object({
    phone: z.enum(['play', 'poster']),
    reducedMotion: z.enum(['play', 'poster']),
    dataSaver: z.enum(['play', 'poster']),
    pauseControl: z.boolean(),
  }),
  files: z.array(z.string()).describe('Every file of the folder, by path.'),
})

export type Manifest = z.infer<typeof manifestSchema>

/**
 * The JSON Schema of `manifest.json` (draft 2020-12); `docs/schema/manifest.schema.json` is made
 * from it.
 */
export function manifestJsonSchema(): object {
  return z.toJSONSchema(manifestSchema)
}
