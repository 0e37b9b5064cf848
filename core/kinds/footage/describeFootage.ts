import { z } from 'zod'
import { toNumber } from '../../Fraction'
import { frameCount, loopSeconds, overlapFrames } from '../../loop/framePlan'
import { mostVisible } from '../../loop/judgeSeam'
import type { MeasuredSeam } from '../Kind'
import type { Footage } from './Footage'
import { loopOf } from './footageSequence'

/** Footage in the manifest of a delivered folder. */
export const describedFootageSchema = z.object({
  kind: z.literal('footage'),
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
})

export type DescribedFootage = z.infer<typeof describedFootageSchema>

/** Footage as the manifest describes it; the seam's figures are those of the finished clips. */
export function describeFootage(base: Footage, clips: readonly MeasuredSeam[]): DescribedFootage {
  const { timing } = base
  const loop = loopOf(base)
  const seconds = (ticks: number): number => Math.round((ticks / timing.cut.timescale) * 1e6) / 1e6
  const delivered = clips.flatMap(({ deliveredSeam }) => deliveredSeam ?? [])
  const ratios = delivered.flatMap(({ ratio }) => ratio ?? [])
  const seam = clips[0]?.seam ?? null
  return {
    kind: 'footage',
    loop: {
      repeat: timing.repeat,
      seconds: loopSeconds(loop),
      frames: frameCount(loop),
      frameRate: timing.frameRate,
      speed: timing.speed,
      cut: { startSeconds: seconds(timing.cut.start), endSeconds: seconds(timing.cut.end) },
    },
    seam: seam && {
      kind: loop.seam.kind,
      overlapSeconds: overlapFrames(loop) / toNumber(loop.frameRate),
      ratio: seam.ratio,
      deltaE: seam.deltaE,
      worstDeltaE: seam.worstDeltaE,
      visibility: mostVisible([seam, ...delivered]),
      deliveredRatio: ratios.length > 0 ? Math.max(...ratios) : null,
    },
  }
}
