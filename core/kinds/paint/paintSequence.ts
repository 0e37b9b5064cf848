import { z } from 'zod'
import { USUAL_PICTURE } from '../../fit/screens'
import { STILL_RATE, type Sequence } from '../Sequence'
import { paintSchema, type Paint } from './Paint'

/** The one frame of a paint. */
export interface PaintSequence extends Sequence {
  readonly kind: 'paint'
  readonly paint: Paint
}

/** The sequence of a paint, as it stands when nothing moves. */
export function paintSequence(paint: Paint): PaintSequence {
  const still = { ...paint, motion: null }
  return {
    kind: 'paint',
    paint: still,
    frames: 1,
    frameRate: STILL_RATE,
    size: USUAL_PICTURE,
    loops: true,
    inputs: [],
    vectorBytes: null,
    keys: {
      inputs: 'paint',
      picture: `:${JSON.stringify([still.color, still.gradients, still.blend])}`,
      frames: 'still',
      first: 'still',
    },
  }
}

/** A paint's sequence as it crosses the wire. */
export const paintSequenceSchema: z.ZodType<PaintSequence> = z
  .object({ kind: z.literal('paint'), paint: paintSchema })
  .transform(({ paint }) => paintSequence(paint))
