import { z } from 'zod'
import { triedCostSchema } from '../api/slowMachines'
import { SCREEN_CLASSES } from '../fit/screens'
import { describedBaseSchema } from '../kinds'
import { SCRIPT_PARTS } from './scripts'

const size = { width: z.int().min(2), height: z.int().min(2), bytes: z.int().min(1) }

/** `manifest.json` of a delivered folder: what the files are and how they were made. */
export const manifestSchema = z.object({
  format: z.literal('telon-handoff'),
  version: z.literal(8),
  handoffVersion: z
    .string()
    .describe('Version of markup, style and script; old markup works within a major version.'),
  id: z
    .string()
    .regex(/^[a-z0-9-]+$/)
    .describe('The backdrop’s id: `data-tln` in the markup, and part of the names of its files.'),
  name: z.string().describe('Name of the backdrop.'),
  baseUrl: z
    .string()
    .describe('Where the folder lies on the site, as written into the fragments; may be empty.'),
  lang: z.string().describe('Language of the copy and of the control’s labels.'),
  base: describedBaseSchema.describe('What is behind the copy, by its kind.'),
  layers: z
    .array(
      z.object({
        type: z.enum(['picture', 'video', 'slides', 'image', 'paint', 'particles', 'scrim']),
        files: z.array(z.string()).describe('The media it shows, by path.'),
      }),
    )
    .describe('What the region shows behind its copy, from back to front.'),
  scriptParts: z
    .array(z.enum(SCRIPT_PARTS))
    .describe('What the script consists of besides its base.'),
  particles: z
    .object({
      name: z.string().describe('Title of the definition.'),
      style: z.string().nullable().describe('The style it began with; null for one’s own.'),
      form: z
        .enum(['live', 'rendered'])
        .describe('Drawn by the script, or in the clips, which then show the base too.'),
      seed: z.int(),
      periodSeconds: z.number().describe('After so long everything is as at the beginning.'),
      framesPerSecond: z.number(),
      perMegapixel: z.number().describe('Elements in an area of a million CSS pixels.'),
      most: z.int().describe('Elements at most.'),
      cost: triedCostSchema
        .nullable()
        .describe(
          'In a browser without graphics processor that was slowed down; null where not tried.',
        ),
    })
    .nullable()
    .describe('Moving elements over the base; null where there are none.'),
  poster: z
    .object({
      picture: z
        .enum(['first', 'frame', 'image'])
        .describe('The first output frame, another frame of the clip, or an image of its own.'),
      swapDeltaE: z
        .number()
        .describe(
          'Mean ΔE (OKLab × 100) between the poster and the first frame, of the worst file: up to 2 is hardly visible.',
        ),
      swapWorst: z.number().describe('The same of the worst of 64 × 36 cells.'),
    })
    .nullable()
    .describe('What stands in for a clip; null where no clip is delivered.'),
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
      seamRatio: z
        .number()
        .nullable()
        .describe('As `base.seam.ratio`, on this file decoded again.'),
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
  posters: z
    .array(
      z.object({
        path: z.string(),
        screen: z.enum(SCREEN_CLASSES),
        type: z.enum(['image/avif', 'image/webp', 'image/jpeg', 'image/svg+xml']),
        density: z.number().describe('Device pixels for each CSS pixel that it is made for.'),
        slide: z
          .int()
          .min(1)
          .nullable()
          .describe('Which slide of `base.slides` it shows, counted from 1; null of others.'),
        maxBytes: z.int(),
        ssim: z
          .number()
          .describe(
            'Luma similarity to the picture it was made from; of images weighted by their detail.',
          ),
        swapDeltaE: z.number(),
        ...size,
      }),
    )
    .describe('Posters; or the base’s own image, where it is one.'),
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
