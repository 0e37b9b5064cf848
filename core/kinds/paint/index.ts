import { z } from 'zod'
import type { Kind } from '../Kind'
import { STILL_RATE } from '../Sequence'
import { fallbackStops } from './gradientColors'
import { paintMoves, paintSchema, type Paint } from './Paint'
import {
  paintInRegion,
  paintSequence,
  paintSequenceSchema,
  type PaintSequence,
} from './paintSequence'
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

/**
 * What the style of a paint takes, compressed: colours and places are hardly compressible, and
 * OKLab lists them twice (fitted to 400 random paints, which take 75 to 98 % of it).
 */
const STYLE_BYTES = { rest: 1_700, dither: 840, motion: 250, gradient: 30, stop: 11 } as const

function styleBytes(base: Paint): number {
  const lists = base.gradients.some(({ space }) => space === 'oklab')
    ? [base.gradients.map(fallbackStops), base.gradients.map(({ stops }) => stops)]
    : [base.gradients.map(({ stops }) => stops)]
  return (
    STYLE_BYTES.rest +
    (base.dither ? STYLE_BYTES.dither : 0) +
    (paintMoves(base) ? STYLE_BYTES.motion : 0) +
    STYLE_BYTES.gradient * base.gradients.length +
    STYLE_BYTES.stop * lists.flat(2).length
  )
}

/** A paint: colours that the style draws. */
export const paint: Kind<Paint, PaintAction, PaintSequence, DescribedPaint> = {
  schema: paintSchema,
  actions: ['paint'],
  clips: () => false,
  hindrance: (base) =>
    paintMoves(base) ? 'The colours move by style. Take their motion away first.' : null,
  pictures: () => null,
  motion: (base) => (paintMoves(base) ? { turnSeconds: base.motion!.seconds, loops: true } : null),
  ground: ({ color }) => ({ color, placeholder: false }),
  styleBytes,
  frameRate: () => STILL_RATE,
  sequenceSchema: paintSequenceSchema,
  reduce: reducePaint,
  label: labelOfPaint,
  sources: () => [],
  sequence: paintSequence,
  seenIn: paintInRegion,
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
