import { z } from 'zod'
import { amount, count, figure } from '../bounded'

const quality = () => z.number().min(-1).max(1)

const probePoint = z.object({
  setting: figure(),
  keyBytes: amount(),
  frameBytes: amount(),
  ssim: quality(),
  psnr: figure(),
  /** How little loss shows, in decibels; not in probes made before it was measured. */
  seen: figure().optional(),
})

/** How a clip's bytes and quality depend on the encoder's setting, from short encodes. */
export const probeFactsSchema = z.object({
  kind: z.literal('probe'),
  /** What the encoder was controlled by, and its range. */
  steering: z.enum(['quantizer', 'rate']),
  bounds: z.object({ finest: figure(), coarsest: figure() }),
  points: z.array(probePoint).min(1).max(12),
  /** The interval of the encoder's anchor frames; null if there are none, or if unknown. */
  anchorEvery: count().min(2).nullable(),
  /** The size of each window of the loop against their mean, at a middle setting. */
  parts: z.array(amount()).max(12),
  frames: count().min(1),
  seconds: amount(),
})

export type ProbeFacts = z.infer<typeof probeFactsSchema>
