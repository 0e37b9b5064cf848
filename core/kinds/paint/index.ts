import { z } from 'zod'
import type { Kind } from '../Kind'
import { STILL_RATE } from '../Sequence'
import { paintMoves, paintSchema, type Paint } from './Paint'
import { paintSequence, paintSequenceSchema, type PaintSequence } from './paintSequence'
import { labelOfPaint, reducePaint, type PaintAction } from './reducePaint'

/** A paint in the manifest of a delivered folder. */
export const describedPaintSchema = z.object({
  kind: z.literal('paint'),
  color: z.string(),
  gradients: z.int().describe('How many gradients lie over the colour.'),
  motionSeconds: z
    .number()
    .nullable()
    .describe('How long the slow motion takes there and back; null where there is none.'),
})
export type DescribedPaint = z.infer<typeof describedPaintSchema>

/** A paint: colours that the style draws. */
export const paint: Kind<Paint, PaintAction, PaintSequence, DescribedPaint> = {
  schema: paintSchema,
  actions: ['paint'],
  clips: false,
  pictures: () => null,
  motion: (base) => (paintMoves(base) ? { turnSeconds: base.motion!.seconds, loops: true } : null),
  ground: ({ color }) => ({ color, placeholder: false }),
  frameRate: () => STILL_RATE,
  sequenceSchema: paintSequenceSchema,
  reduce: reducePaint,
  label: labelOfPaint,
  sources: () => [],
  sequence: paintSequence,
  layers: (base) => [{ type: 'paint', paint: base }],
  describe: (base) => ({
    kind: 'paint',
    color: base.color,
    gradients: base.gradients.length,
    motionSeconds: paint.motion(base)?.turnSeconds ?? null,
  }),
  lighter: () => [],
  checks: () => [],
}
