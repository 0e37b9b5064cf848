import { z } from 'zod'
import { colorSchema, fractionSchema, sha256Schema, share, ticks, timescale } from '../../bounded'
import type { Size } from '../../fit/cover'
import type { Fraction } from '../../Fraction'
import {
  firstFrameSeconds,
  frameCount,
  overlapFrames,
  type LoopSettings,
} from '../../loop/framePlan'
import {
  cropShape,
  isPlain,
  PLAIN_SHAPE,
  shapedSize,
  type PictureShape,
} from '../../picture/pictureShape'
import type { SequenceOptions, Sources } from '../Kind'
import type { Sequence } from '../Sequence'
import type { Footage } from './Footage'

/** What decides the frames of footage. */
interface FootagePlan {
  readonly sourceSha256: string
  readonly size: Size
  readonly shape: PictureShape
  readonly loop: LoopSettings
  readonly loops: boolean
}

/** The output frames of footage: those of a cut, with its seam, at a rate. */
export interface FootageSequence extends Sequence, FootagePlan {
  readonly kind: 'footage'
}

/** What decides the frames of a base's loop; footage that plays once has no seam. */
export function loopOf({ timing, material }: Pick<Footage, 'timing' | 'material'>): LoopSettings {
  const { cut, speed, frameRate, seam, blendFrames, repeat } = timing
  return {
    cut,
    speed,
    frameRate,
    sourceRate: material.frameRate,
    blendFrames,
    seam: repeat === 'loop' ? seam : { ...seam, kind: 'straight' },
  }
}

/** The sequence of footage; null where its clip is not known. */
export function footageSequence(
  base: Footage,
  known: Sources,
  { frameRate, part }: SequenceOptions = {},
): FootageSequence | null {
  const source = known.get(base.material.sourceId)
  if (!source) return null
  const loop = loopOf(base)
  const shape = part ? cropShape(base.picture, part) : base.picture
  return sequenceFrom({
    sourceSha256: source.sha256,
    size: shapedSize(source, shape),
    shape,
    loop: frameRate ? { ...loop, frameRate } : loop,
    loops: base.timing.repeat === 'loop',
  })
}

/** A sequence from what decides its frames. */
export function sequenceFrom(plan: FootagePlan): FootageSequence {
  const { sourceSha256, shape, loop, loops } = plan
  return {
    kind: 'footage',
    ...plan,
    frames: frameCount(loop),
    frameRate: loop.frameRate,
    inputs: [sourceSha256],
    vectorBytes: null,
    keys: {
      inputs: sourceSha256,
      picture: shapeKey(shape),
      frames: `${framesKey(loop)}:${loops ? 'loop' : 'once'}`,
      first: firstKey(loop),
    },
  }
}

/** Part of a clip as it is, at a rate: for what is made of a clip by itself. */
export function plainSequence({
  sourceSha256 = '',
  size,
  cut,
  frameRate,
  loops,
}: Pick<FootagePlan, 'size' | 'loops'> &
  Pick<LoopSettings, 'cut' | 'frameRate'> & {
    readonly sourceSha256?: string
  }): FootageSequence {
  const seam = { kind: 'straight', overlapSeconds: 0 } as const
  return sequenceFrom({
    sourceSha256,
    size,
    shape: PLAIN_SHAPE,
    loop: { cut, speed: 1, frameRate, seam, blendFrames: false },
    loops,
  })
}

const loopSchema: z.ZodType<LoopSettings> = z.object({
  cut: z
    .object({ timescale: timescale(), start: ticks(), end: ticks() })
    .refine(({ start, end }) => end > start, 'The end must be after the start.'),
  speed: z.number().min(0.25).max(4),
  frameRate: fractionSchema,
  sourceRate: fractionSchema.nullable().optional(),
  seam: z.object({
    kind: z.enum(['straight', 'blended', 'ping-pong']),
    overlapSeconds: z.number().min(0).max(60),
  }),
  blendFrames: z.boolean(),
})

const side = () => z.int().min(1).max(65_536)

/** A sequence as it crosses the wire. */
export const footageSequenceSchema: z.ZodType<FootageSequence> = z
  .object({
    kind: z.literal('footage'),
    sourceSha256: sha256Schema,
    size: z.object({ width: side(), height: side() }),
    shape: z.object({
      crop: z.object({ x: share(), y: share(), width: share(), height: share() }).nullable(),
      quarterTurns: z.int().min(0).max(3),
      mirrored: z.boolean(),
      matte: colorSchema,
    }),
    loop: loopSchema,
    loops: z.boolean(),
  })
  .transform(sequenceFrom)

const rate = ({ num, den }: Fraction): string => `${num}/${den}`
const short = (value: number): string => String(Math.round(value * 1e5) / 1e5)

function ratesKey({ frameRate, sourceRate }: LoopSettings): string {
  return `${rate(frameRate)}${sourceRate ? `of${rate(sourceRate)}` : ''}`
}

function shapeKey(shape: PictureShape): string {
  // The usual matte is left out: what was rendered before mattes could be chosen stays valid.
  const matte = shape.matte === PLAIN_SHAPE.matte ? '' : `:matte${shape.matte}`
  if (isPlain(shape)) return matte
  const { crop } = shape
  return `${matte}:${crop ? [crop.x, crop.y, crop.width, crop.height].map(short).join(',') : 'whole'}${shape.quarterTurns > 0 ? `,turn${shape.quarterTurns}` : ''}${shape.mirrored ? ',mirrored' : ''}`
}

function framesKey(loop: LoopSettings): string {
  const { cut, seam } = loop
  const seamKey = seam.kind === 'blended' ? `blend${overlapFrames(loop)}` : seam.kind
  return `${cut.start}-${cut.end}@${cut.timescale}:x${loop.speed}${loop.blendFrames ? '~' : ''}:${ratesKey(loop)}:${seamKey}`
}

function firstKey(loop: LoopSettings): string {
  return `${short(firstFrameSeconds(loop))}s${loop.blendFrames ? '~' : 'x'}${loop.speed}:${ratesKey(loop)}`
}
