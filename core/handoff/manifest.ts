import { z } from 'zod'
import { SCREEN_CLASSES } from '../fit/screens'

const size = { width: z.int().min(2), height: z.int().min(2), bytes: z.int().min(1) }

/** `manifest.json` of a delivered folder: what the files are and how they were made. */
export const manifestSchema = z.object({
  format: z.literal('telon-handoff'),
  version: z.literal(1),
  name: z.string().describe('Name of the backdrop.'),
  loop: z.object({
    repeat: z.enum(['loop', 'once']),
    seconds: z.number().positive().describe('Length of one loop.'),
    frames: z.int().min(1),
    frameRate: z.object({ num: z.int().min(1), den: z.int().min(1) }).describe('Frames a second, as a fraction.'),
    speed: z.number().describe('How much faster than the source it plays.'),
    cut: z.object({ startSeconds: z.number().min(0), endSeconds: z.number().min(0) }).describe('The part of the source that was used.'),
  }),
  clips: z.array(
    z.object({
      path: z.string(),
      screen: z.enum(SCREEN_CLASSES),
      type: z.string().describe('MIME type with the codec string that the bitstream declares.'),
      budgetBytes: z.int().nullable(),
      ...size,
    }),
  ),
  posters: z.array(z.object({ path: z.string(), type: z.enum(['image/webp', 'image/jpeg']), ...size })),
  behaviour: z.object({
    phone: z.enum(['play', 'still']),
    reducedMotion: z.enum(['play', 'still']),
    dataSaver: z.enum(['play', 'still']),
    pauseControl: z.boolean(),
  }),
  files: z.array(z.string()).describe('Every file of the folder, by path.'),
})

export type Manifest = z.infer<typeof manifestSchema>

/** The JSON Schema of `manifest.json` (draft 2020-12); `docs/schema/manifest.schema.json` is made from it. */
export function manifestJsonSchema(): object {
  return z.toJSONSchema(manifestSchema)
}
