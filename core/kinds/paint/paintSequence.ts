import { z } from 'zod'
import { toNumber, type Fraction } from '../../Fraction'
import { USUAL_PICTURE } from '../../fit/screens'
import { STILL_RATE, type Sequence } from '../Sequence'
import { even } from '../../weight/renditionSize'
import { easeInOut } from '../easing'
import type { FilledRegion } from '../Sources'
import { paintMoves, paintSchema, type Paint } from './Paint'

/** The one frame of a paint, or those of its way where it moves and is only measured. */
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

/** Frames a second of what is only measured: the motion is slow. */
const SEEN_RATE: Fraction = { num: 2, den: 1 }

/**
 * A paint that moves by style, as visitors see it in a region: frames of the way there, since those
 * of the way back are the same. Null where it stands still.
 */
export function paintInRegion(
  paint: Paint,
  _: unknown,
  { size }: Pick<FilledRegion, 'size'>,
): PaintSequence | null {
  if (!paintMoves(paint)) return null
  const { seconds } = paint.motion!
  return {
    ...paintSequence(paint),
    paint,
    frames: Math.max(1, Math.round((seconds / 2) * toNumber(SEEN_RATE))),
    frameRate: SEEN_RATE,
    size: { width: even(size.width), height: even(size.height) },
    keys: {
      inputs: 'paint',
      picture: `:${JSON.stringify([paint, size])}`,
      frames: 'moving',
      first: 'still',
    },
  }
}

/** How far the motion of a paint has come at a frame of `paintInRegion`, 0 to 1. */
export function progressOf({ paint, frameRate }: PaintSequence, frame: number): number {
  return paintMoves(paint)
    ? easeInOut((2 * frame) / toNumber(frameRate) / paint.motion!.seconds)
    : 0
}

/** A paint's sequence as it crosses the wire. */
export const paintSequenceSchema: z.ZodType<PaintSequence> = z
  .object({ kind: z.literal('paint'), paint: paintSchema })
  .transform(({ paint }) => paintSequence(paint))
