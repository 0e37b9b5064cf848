import { sha256 } from '@noble/hashes/sha2.js'
import { bytesToHex, utf8ToBytes } from '@noble/hashes/utils.js'
import { z } from 'zod'
import { colorSchema, count, fractionSchema, share } from '../../bounded'
import type { Point, Size } from '../../fit/cover'
import { focalOn } from '../../fit/focal'
import { toNumber, type Fraction } from '../../Fraction'
import type { ShareRect } from '../../picture/pictureShape'
import { even } from '../../weight/renditionSize'
import { EASINGS, type Easing } from '../easing'
import { viewSchema, type View } from '../image/Image'
import { imageSequenceSchema, stillOf, type ImageSequence } from '../image/imageSequence'
import type { FilledRegion, SequenceOptions, SoftPart, Sources } from '../Sources'
import type { Sequence } from '../Sequence'
import { cycleOf, MIN_HOLD_SECONDS } from './cycle'
import {
  cycleOrder,
  focalsOf,
  MAX_HOLD_SECONDS,
  panOf,
  SLIDE_COUNT,
  transitionOf,
  type Slideshow,
} from './Slideshow'
import { transitionSchema, type Transition } from './transition'

/** Frames a second of a slideshow that is rendered to a clip. */
export const SLIDESHOW_RATE: Fraction = { num: 30, den: 1 }
/** Pictures of a clip have this shape: images have many. */
const SHAPE = 16 / 9
/** The widest clip of a slideshow, and the width in CSS pixels that its tiles are drawn for. */
const MAX_WIDTH = 2560
export const TILES_FOR_WIDTH = 1280
const MIDDLE: Point = { x: 0.5, y: 0.5 }

/** A slide as frames show it. */
export interface PlannedSlide {
  /** The whole image over its colour. */
  readonly still: ImageSequence
  readonly placing: 'cover' | 'contain' | 'tile'
  readonly tileWidth: number
  readonly background: string
  readonly focal: Point
  readonly pan: { readonly from: View; readonly to: View } | null
  /** How its pan goes; absent for evenly. */
  readonly panEasing?: Easing | undefined
  readonly holdSeconds: number
  readonly transition: Transition
  /** Where it is measured: it begins anew after so many CSS pixels; absent for never. */
  readonly everyHeight?: number | undefined
  /** Where it is measured: what is blurred in its file. */
  readonly softened?: SoftPart | undefined
}

interface SlideshowPlan {
  readonly slides: readonly PlannedSlide[]
  readonly frameRate: Fraction
  /** The part that is shown, in shares of the picture; null for all of it. */
  readonly part: ShareRect | null
  /** The region that slides fill, in CSS pixels; absent for a clip, which has its own shape. */
  readonly region?: Size | undefined
}

/** The frames of one cycle. */
export interface SlideshowSequence extends Sequence, SlideshowPlan {
  readonly kind: 'slideshow'
  /** Of the whole picture, before a part of it is cut out. */
  readonly whole: Size
}

/** The sequence of a slideshow; null where an image is not known, or is none. */
export function slideshowSequence(
  base: Slideshow,
  known: Sources,
  { part, frameRate, focal = MIDDLE }: SequenceOptions = {},
): SlideshowSequence | null {
  const slides: PlannedSlide[] = []
  for (const slide of base.slides) {
    const still = stillOf(slide, known)
    if (!still) return null
    slides.push({
      // Whether it could be delivered as a drawing is no matter of frames.
      still: { ...still, vectorBytes: null },
      placing: slide.placing,
      tileWidth: slide.tileWidth,
      background: slide.background,
      focal: focalsOf(slide, { focal, ownFocal: { phone: null, laptop: null } }).focal,
      pan: panOf(slide),
      holdSeconds: slide.holdSeconds ?? base.holdSeconds,
      transition: transitionOf(base, slide),
    })
  }
  return sequenceFrom({ slides, frameRate: frameRate ?? SLIDESHOW_RATE, part: part ?? null })
}

/** Frames a second of what is only measured: a transition in ten steps or more. */
const SEEN_RATE: Fraction = { num: 10, den: 1 }

/**
 * Slides as visitors see them in a region, where they are delivered one by one; null for a clip,
 * or where an image is not known.
 */
export function slidesInRegion(
  base: Slideshow,
  known: Sources,
  { size, screenClass, focals, softened }: FilledRegion,
): SlideshowSequence | null {
  if (base.delivery === 'clip') return null
  const order = cycleOrder(base)
  const sequence = slideshowSequence(
    { ...base, slides: order.map((number) => base.slides[number]!) },
    known,
    { frameRate: SEEN_RATE },
  )
  if (!sequence) return null
  const { frameRate, part } = sequence
  const slides = sequence.slides.map((slide, index) => ({
    ...slide,
    focal: focalOn(focalsOf(base.slides[order[index]!]!, focals), screenClass),
    softened: softened?.[order[index]!] ?? undefined,
  }))
  return sequenceFrom({ slides, frameRate, part, region: size })
}

/** The first characters of a text's SHA-256: texts of many slides would be longer than keys. */
export const digestOf = (text: string): string => bytesToHex(sha256(utf8ToBytes(text))).slice(0, 32)

/** The cycle of planned slides. */
export const plannedCycle = (slides: readonly PlannedSlide[]) =>
  cycleOf(
    slides.map(({ holdSeconds, transition }) => ({
      holdSeconds,
      transitionSeconds: transition.seconds,
    })),
  )

/** The sequence of planned slides, at least one. */
export function sequenceFrom(plan: SlideshowPlan): SlideshowSequence {
  const { slides, frameRate, part, region } = plan
  const widest = Math.max(
    ...slides.map(({ still: { size } }) => Math.min(size.width, size.height * SHAPE)),
  )
  const width = even(Math.min(MAX_WIDTH, Math.max(320, widest)))
  const whole = region
    ? { width: even(region.width), height: even(region.height) }
    : { width, height: even(width / SHAPE) }
  const inputs = [...new Set(slides.map(({ still }) => still.sourceSha256))]
  const frames = Math.max(1, Math.round(plannedCycle(slides).seconds * toNumber(frameRate)))
  const digest = digestOf(JSON.stringify(slides.map(({ still, ...slide }) => [still.keys, slide])))
  return {
    kind: 'slideshow',
    ...plan,
    whole,
    frames,
    size: {
      width: Math.max(2, Math.round(whole.width * (part?.width ?? 1))),
      height: Math.max(2, Math.round(whole.height * (part?.height ?? 1))),
    },
    loops: true,
    inputs,
    vectorBytes: null,
    keys: {
      inputs: inputs.length === 1 ? inputs[0]! : digestOf(inputs.join()),
      picture: part
        ? `:slides:${[part.x, part.y, part.width, part.height].map((each) => Math.round(each * 1e5) / 1e5).join(',')}`
        : region
          ? `:slides in ${region.width}x${region.height}`
          : ':slides',
      frames: `${digest}x${frameRate.num}/${frameRate.den}`,
      first: digest,
    },
  }
}

const point = z.object({ x: share(), y: share() })

/** A slideshow's sequence as it crosses the wire. */
export const slideshowSequenceSchema: z.ZodType<SlideshowSequence> = z
  .object({
    kind: z.literal('slideshow'),
    slides: z
      .array(
        z.object({
          still: imageSequenceSchema,
          placing: z.enum(['cover', 'contain', 'tile']),
          tileWidth: count(2000).min(16),
          background: colorSchema,
          focal: point,
          pan: z.object({ from: viewSchema, to: viewSchema }).nullable(),
          panEasing: z.enum(EASINGS).optional(),
          holdSeconds: z.number().min(MIN_HOLD_SECONDS).max(MAX_HOLD_SECONDS),
          transition: transitionSchema,
        }),
      )
      .min(SLIDE_COUNT.min)
      .max(SLIDE_COUNT.max),
    frameRate: fractionSchema,
    part: z.object({ x: share(), y: share(), width: share(), height: share() }).nullable(),
    region: z.object({ width: count(20_000).min(2), height: count(20_000).min(2) }).optional(),
  })
  .transform(sequenceFrom)
