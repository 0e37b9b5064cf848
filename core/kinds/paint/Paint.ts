import { z } from 'zod'
import { colorSchema, share } from '../../bounded'

/** Periods of slow motion, in seconds: there and back. */
export const PAINT_SECONDS = { min: 8, max: 60 } as const
export const MAX_STOPS = 8
export const MAX_GRADIENTS = 2

/** Blend modes of the second gradient over the first: those that browsers draw alike in sRGB. */
export const BLENDS = ['normal', 'multiply', 'screen', 'overlay', 'soft-light', 'lighten'] as const
export type Blend = (typeof BLENDS)[number]

const stopSchema = z.object({ at: share(), color: colorSchema })

const gradientSchema = z.object({
  shape: z.enum(['linear', 'radial', 'conic']),
  /** As CSS counts: 0 points up, 90 to the right; a conic gradient starts there. */
  angleDeg: z.number().min(0).max(360),
  /** Of radial and conic gradients, in shares of the region. */
  centre: z.object({ x: share(), y: share() }),
  /** Radius of a radial gradient, in shares of the region's width and height. */
  radius: z.number().min(0.1).max(2),
  /** The colour space in which colours between the stops are mixed. */
  space: z.enum(['oklab', 'srgb']),
  opacity: share(),
  stops: z
    .array(stopSchema)
    .min(2, 'A gradient has two stops at least.')
    .max(MAX_STOPS, 'A gradient has eight stops at most.')
    .refine(
      (stops) => stops.every((stop, index) => index === 0 || stop.at >= stops[index - 1]!.at),
      'Stops stand in the order of their places.',
    ),
})

/** A paint: a colour, with gradients over it. No file is delivered for it. */
export const paintSchema = z.object({
  kind: z.literal('paint'),
  color: colorSchema,
  /** From back to front. */
  gradients: z.array(gradientSchema).max(MAX_GRADIENTS),
  /** How the second gradient is mixed with what is behind it. */
  blend: z.enum(BLENDS),
  /**
   * Slow motion, there and back in `seconds`: the angle turns, the centre moves along the angle, or
   * the stops spread. `amount` is a share of the most that is offered.
   */
  motion: z
    .object({
      moves: z.enum(['angle', 'centre', 'stops']),
      amount: z.number().min(0.05).max(1),
      seconds: z.number().min(PAINT_SECONDS.min).max(PAINT_SECONDS.max),
    })
    .nullable(),
  /** Whether a fine texture hides the steps of dark gradients. */
  dither: z.boolean(),
})

export type Paint = z.infer<typeof paintSchema>
export type Gradient = Paint['gradients'][number]
export type Stop = Gradient['stops'][number]
export type PaintMotion = NonNullable<Paint['motion']>

/** A gradient between two colours. */
export function newGradient(from: string, to: string): Gradient {
  return {
    shape: 'linear',
    angleDeg: 120,
    centre: { x: 0.5, y: 0.5 },
    radius: 0.8,
    space: 'oklab',
    opacity: 1,
    stops: [
      { at: 0, color: from },
      { at: 1, color: to },
    ],
  }
}

/** The paint of a new backdrop: dusk, which white copy is readable on. */
export function createPaint(): Paint {
  return {
    kind: 'paint',
    color: '#1b2350',
    gradients: [newGradient('#1b2350', '#6b3a55')],
    blend: 'normal',
    motion: null,
    // Dark gradients over a whole screen show steps without it.
    dither: true,
  }
}

/** The motion that a designer starts from. */
export const FIRST_MOTION: PaintMotion = { moves: 'angle', amount: 0.5, seconds: 24 }

/** Whether anything of a paint can be seen to move: an even colour cannot. */
export function paintMoves({ gradients, motion }: Pick<Paint, 'gradients' | 'motion'>): boolean {
  return motion !== null && gradients.length > 0
}
