import { z } from 'zod'
import { describeContainerError } from '../media/describeContainerError'
import type { ContainerError } from '../bytes/ContainerError'
import { describeFinding } from '../material/describeFinding'
import { findingsOf } from '../material/findings'
import type { SourceFacts } from '../media/probe'

const sides = { displayWidth: z.int(), displayHeight: z.int() }

/**
 * One line of `telon probe`. Times in milliseconds, sizes in bytes and pixels; `colour` by the code
 * points of ITU-T H.273.
 */
export const probeLineSchema = z.object({
  file: z.string().describe('The path as it was given.'),
  container: z
    .enum(['mp4', 'mov', 'webm', 'mkv', 'gif', 'webp', 'avif', 'jpeg', 'png', 'svg'])
    .describe('What the bytes are, whatever the name says.')
    .optional(),
  bytes: z.int().optional(),
  durationMs: z.number().nullable().describe('Null for images.').optional(),
  video: z
    .object({
      codec: z.string().describe('RFC 6381 string.'),
      ...sides,
      rotationDeg: z.number().describe('Clockwise: 0, 90, 180 or 270.'),
      averageFps: z.number(),
      frameCount: z.int(),
      repeats: z
        .int()
        .min(1)
        .describe(
          'How often the index plays the frames over, as delivered loops do; the other figures are of one turn.',
        ),
      profile: z.string().nullable(),
      level: z.string().nullable(),
      bitDepth: z.int().nullable(),
      chroma: z.string().nullable(),
    })
    .nullable()
    .optional(),
  image: z
    .object({
      width: z.int(),
      height: z.int(),
      ...sides,
      orientation: z.int().min(1).max(8).describe('EXIF orientation.'),
      profile: z.string().nullable().describe('Name of the colour profile.'),
      bitDepth: z.int(),
      alpha: z.boolean(),
      progressive: z.boolean(),
      animated: z.boolean(),
    })
    .nullable()
    .optional(),
  audio: z.boolean().optional(),
  indexFirst: z
    .boolean()
    .nullable()
    .describe('Null where the container has no single index.')
    .optional(),
  colour: z
    .object({ primaries: z.int(), transfer: z.int(), matrix: z.int(), fullRange: z.boolean() })
    .nullable()
    .optional(),
  pixelAspect: z.object({ horizontal: z.number(), vertical: z.number() }).nullable().optional(),
  personal: z
    .array(z.enum(['location', 'device', 'author', 'date']))
    .describe('Metadata that never reaches what is delivered.')
    .optional(),
  findings: z
    .array(
      z.object({
        code: z.string(),
        weight: z.enum(['fix', 'look', 'note']),
        figure: z.number(),
        message: z.string(),
      }),
    )
    .describe('What the index and the headers alone tell; frames are not decoded.')
    .optional(),
  error: z.object({ code: z.string(), message: z.string() }).optional(),
})

export type ProbeLine = z.infer<typeof probeLineSchema>

/** The line of a file that could be read. */
export function probeLineOf(file: string, facts: SourceFacts): ProbeLine {
  const findings = findingsOf(facts, null).map((finding) => {
    const { title, meaning, advice } = describeFinding(finding)
    return {
      code: finding.code,
      weight: finding.weight,
      figure: finding.figure,
      message: `${title}. ${meaning} ${advice}`,
    }
  })
  const shared = { file, bytes: facts.bytes, personal: [...facts.personal], findings }
  if (facts.kind === 'image') {
    const {
      format,
      width,
      height,
      displayWidth,
      displayHeight,
      orientation,
      profile,
      bitDepth,
      alpha,
      progressive,
      animated,
    } = facts
    return {
      ...shared,
      container: format,
      durationMs: null,
      video: null,
      image: {
        width,
        height,
        displayWidth,
        displayHeight,
        orientation,
        profile,
        bitDepth,
        alpha,
        progressive,
        animated,
      },
      audio: false,
      indexFirst: null,
      colour: null,
      pixelAspect: null,
    }
  }
  const { container, durationMs, video, audio, indexFirst } = facts
  const {
    codec,
    displayWidth,
    displayHeight,
    rotationDeg,
    averageFps,
    frameCount,
    repeats,
    stream,
  } = video
  return {
    ...shared,
    container,
    durationMs,
    video: {
      codec,
      displayWidth,
      displayHeight,
      rotationDeg,
      averageFps,
      frameCount,
      repeats,
      profile: stream?.profile ?? null,
      level: stream?.level ?? null,
      bitDepth: stream?.bitDepth ?? null,
      chroma: stream?.chroma ?? null,
    },
    image: null,
    audio,
    indexFirst,
    colour: video.colour,
    pixelAspect: video.pixelAspect,
  }
}

/** The line of a file that could not be read. */
export function probeErrorLine(
  file: string,
  error: Pick<ContainerError, 'code' | 'subject'>,
): ProbeLine {
  return { file, error: { code: error.code, message: describeContainerError(error) } }
}

/** The JSON Schema of a line. */
export function probeJsonSchema(): Record<string, unknown> {
  return { title: 'A line of telon probe', ...z.toJSONSchema(probeLineSchema) }
}
