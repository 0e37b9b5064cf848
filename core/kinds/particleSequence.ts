import { z } from 'zod'
import { fractionSchema } from '../bounded'
import type { Size } from '../fit/cover'
import { USUAL_PICTURE } from '../fit/screens'
import { toNumber, type Fraction } from '../Fraction'
import { definitionSchema, MIN_PERIOD_SECONDS, type Definition } from '../particles/Definition'
import { dividingPeriod } from '../particles/Particles'
import { particleData } from '../particles/prepare'
import { footageSequenceSchema, type FootageSequence } from './footage/footageSequence'
import { imageSequenceSchema, type ImageSequence } from './image/imageSequence'
import { paintSequenceSchema, type PaintSequence } from './paint/paintSequence'
import { sequenceSeconds, tonedSchema, type Sequence } from './Sequence'
import {
  digestOf,
  slideshowSequenceSchema,
  type SlideshowSequence,
} from './slideshow/slideshowSequence'

/** What particles are rendered over. */
export type BaseSequence = FootageSequence | SlideshowSequence | ImageSequence | PaintSequence

interface ParticlePlan {
  readonly under: BaseSequence
  readonly definition: Definition
  /** Frames a second, where nothing moves below: else those of what is below count. */
  readonly frameRate: Fraction
  /** The region that the clip is made for, in CSS pixels: particles have their sizes there. */
  readonly region: Size
}

/** The frames of a base with particles over them. */
export interface ParticleSequence extends Sequence, ParticlePlan {
  readonly kind: 'particles'
  /** What the whole picture takes where it covers the region, in CSS pixels. */
  readonly area: Size
}

/** How often a loop is shown in a clip, so that its particles have a period. */
export const particleRepeats = (seconds: number): number =>
  Math.max(1, Math.ceil(MIN_PERIOD_SECONDS / seconds - 1e-6))

/**
 * The frames of a base with particles. Over a loop their period is made a part of it, over one that
 * is too short it is shown several times; over a still they take one period.
 */
export function particleSequence(plan: ParticlePlan): ParticleSequence {
  const { under, region, definition } = plan
  const isStill = under.frames === 1
  const frameRate = isStill ? plan.frameRate : under.frameRate
  const frames = isStill
    ? Math.max(1, Math.round(definition.period * toNumber(frameRate)))
    : under.frames * (under.loops ? particleRepeats(sequenceSeconds(under)) : 1)
  const shown = under.loops
    ? {
        ...definition,
        period: dividingPeriod(definition.period, frames / toNumber(frameRate)),
      }
    : definition
  const size = under.kind === 'paint' ? shapedLike(region) : under.size
  const scale = Math.max(region.width / size.width, region.height / size.height)
  const area = { width: Math.round(size.width * scale), height: Math.round(size.height * scale) }
  const { keys } = under
  const digest = digestOf(JSON.stringify([particleData(shown), area]))
  return {
    kind: 'particles',
    ...plan,
    definition: shown,
    area,
    frames,
    frameRate,
    size,
    loops: under.loops,
    inputs: under.inputs,
    vectorBytes: null,
    keys: {
      ...keys,
      picture: `${keys.picture}:particles-${digest}`,
      frames: `${keys.frames}:${frames}at${frameRate.num}/${frameRate.den}`,
    },
  }
}

/** Gradients have no size of their own: they are drawn in the region's shape. */
function shapedLike({ width, height }: Size): Size {
  const scale = Math.max(1, USUAL_PICTURE.width / width)
  return { width: Math.round(width * scale), height: Math.round(height * scale) }
}

/** When in the particles' time a frame is, in seconds. */
export const particleSeconds = (
  { frameRate }: Pick<ParticleSequence, 'frameRate'>,
  frame: number,
): number => (frame * frameRate.den) / frameRate.num

/** The frame of the base that a frame with particles shows. */
export const frameUnder = ({ under }: Pick<ParticleSequence, 'under'>, frame: number): number =>
  frame % under.frames

const side = () => z.int().min(1).max(65_536)

/** The sequence of particles as it crosses the wire. */
export const particleSequenceSchema: z.ZodType<ParticleSequence> = z
  .object({
    kind: z.literal('particles'),
    under: tonedSchema(
      z.union([
        footageSequenceSchema,
        slideshowSequenceSchema,
        imageSequenceSchema,
        paintSequenceSchema,
      ]),
    ),
    definition: definitionSchema,
    frameRate: fractionSchema,
    region: z.object({ width: side(), height: side() }),
  })
  .transform(particleSequence)
