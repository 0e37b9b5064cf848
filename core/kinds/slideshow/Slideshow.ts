import { z } from 'zod'
import { colorSchema, count, share } from '../../bounded'
import type { Focals } from '../../fit/focal'
import { viewSchema, type View } from '../image/Image'
import { wordsSchema, type WordsInTurn } from '../../copy/Words'
import { cycleOf, MIN_HOLD_SECONDS, type Cycle, type SlideTiming } from './cycle'
import { shuffled } from './shuffle'
import { FIRST_TRANSITION, transitionSchema, type Transition } from './transition'

/** How many slides there may be. */
export const SLIDE_COUNT = { min: 2, max: 24 } as const
/** The longest a slide stays, in seconds. */
export const MAX_HOLD_SECONDS = 120

const pointSchema = z.object({ x: share(), y: share() })
const holdSchema = z.number().min(MIN_HOLD_SECONDS).max(MAX_HOLD_SECONDS)
const bytes = z.int().min(20_000).max(1_000_000_000)

const slideSchema = z.object({
  /** Tells it from others of the same image, as long as it exists. */
  id: count(1_000_000),
  sourceId: z.uuid(),
  /** How long it stays; null for as long as the others. */
  holdSeconds: holdSchema.nullable(),
  /** How the next one replaces it; null for as the others are replaced. */
  transition: transitionSchema.nullable(),
  placing: z.enum(['cover', 'contain', 'tile']),
  /** Width of one tile in CSS pixels. */
  tileWidth: z.int().min(16).max(2000),
  /** What its files are flattened onto, and what is seen around an image that is shown whole. */
  background: colorSchema,
  opacity: share(),
  /** Null for the focal point of the backdrop. */
  focal: z
    .object({
      focal: pointSchema,
      ownFocal: z.object({ phone: pointSchema.nullable(), laptop: pointSchema.nullable() }),
    })
    .nullable(),
  /** Slow pan and zoom through the whole time in which it is seen; null for none. */
  pan: z.object({ from: viewSchema, to: viewSchema }).nullable(),
  /** What stands in front of it; null for the words of the backdrop. */
  words: wordsSchema.nullable(),
})
export type Slide = z.infer<typeof slideSchema>

/** Images that follow one another. */
export const slideshowSchema = z.object({
  kind: z.literal('slideshow'),
  /** The set that the slides were taken from; null where they were chosen one by one. */
  setId: z.uuid().nullable(),
  slides: z.array(slideSchema).min(SLIDE_COUNT.min).max(SLIDE_COUNT.max),
  holdSeconds: holdSchema,
  transition: transitionSchema,
  /**
   * As given; shuffled, by the seed where there is no script; one a visit, the next each time; or
   * one a day. The first slide is painted first in every order.
   */
  order: z.enum(['given', 'shuffled', 'visit', 'day']),
  seed: count(2 ** 31),
  /** What visitors are offered besides the pause control. */
  controls: z.object({
    arrows: z.boolean(),
    markers: z.boolean(),
    place: z.enum(['bottom-left', 'bottom-centre', 'bottom-right']),
  }),
  /** As images that style and script change, or rendered to a clip. */
  delivery: z.enum(['live', 'clip']),
  /** Bytes of all slides together with page, style and script, by screen class. */
  cycleBytes: z.object({ phone: bytes, laptop: bytes, wide: bytes }),
})
export type Slideshow = z.infer<typeof slideshowSchema>
export type SlideOrder = Slideshow['order']

/** The values of a new slide. */
const FIRST_SLIDE = {
  holdSeconds: null,
  transition: null,
  placing: 'cover',
  tileWidth: 320,
  background: '#14101c',
  opacity: 1,
  focal: null,
  pan: null,
  words: null,
} as const satisfies Partial<Slide>

/** The cycle's budgets where a project says nothing else. */
const FIRST_CYCLE_BYTES = { phone: 1_000_000, laptop: 2_500_000, wide: 4_000_000 } as const

/** A new slide of an image, with an id that none of the others has. */
export function newSlide(sourceId: string, others: readonly Pick<Slide, 'id'>[]): Slide {
  return { id: Math.max(0, ...others.map(({ id }) => id)) + 1, sourceId, ...FIRST_SLIDE }
}

/** A new slideshow of some images, at most as many as there may be. */
export function createSlideshow(
  sourceIds: readonly string[],
  setId: string | null = null,
  cycleBytes: Slideshow['cycleBytes'] = FIRST_CYCLE_BYTES,
): Slideshow {
  const slides: Slide[] = []
  for (const sourceId of sourceIds.slice(0, SLIDE_COUNT.max))
    slides.push(newSlide(sourceId, slides))
  return {
    kind: 'slideshow',
    setId,
    slides,
    holdSeconds: 4,
    transition: FIRST_TRANSITION,
    order: 'given',
    seed: 1,
    controls: { arrows: false, markers: false, place: 'bottom-centre' },
    delivery: 'live',
    cycleBytes,
  }
}

/** How the slide after this one replaces it. */
export function transitionOf(
  { transition }: Pick<Slideshow, 'transition'>,
  slide: Pick<Slide, 'transition'>,
): Transition {
  return slide.transition ?? transition
}

/** How long each slide stays, and how long its transition takes. */
export function timingsOf(
  base: Pick<Slideshow, 'slides' | 'holdSeconds' | 'transition'>,
): SlideTiming[] {
  return base.slides.map((slide) => ({
    holdSeconds: slide.holdSeconds ?? base.holdSeconds,
    transitionSeconds: transitionOf(base, slide).seconds,
  }))
}

/** The same where slides change at once: each stays until the next would be there. */
export const calmTimings = (base: Parameters<typeof timingsOf>[0]): SlideTiming[] =>
  timingsOf(base).map(({ holdSeconds, transitionSeconds }) => ({
    holdSeconds: holdSeconds + transitionSeconds,
    transitionSeconds: 0,
  }))

/** The cycle of the slides as given. */
export const slideCycle = (base: Parameters<typeof timingsOf>[0]): Cycle => cycleOf(timingsOf(base))

/** The slides by their places, in the order in which they follow one another without script. */
export const cycleOrder = ({
  slides,
  order,
  seed,
}: Pick<Slideshow, 'slides' | 'order' | 'seed'>): number[] =>
  order === 'shuffled' ? shuffled(slides.length, seed) : slides.map((_, index) => index)

/** Whether visitors can change slides by hand. */
export const hasControls = ({ controls: { arrows, markers } }: Slideshow): boolean =>
  arrows || markers

/** Whether slides follow one another without end: else one follows the first, and stays. */
export const isCycling = ({ order }: Pick<Slideshow, 'order'>): boolean =>
  order === 'given' || order === 'shuffled'

/**
 * The words in front of slides, in the order in which they come; none where all slides share those
 * of the backdrop. A clip has no slides that words could change with.
 */
export function wordsInTurn({
  slides,
  delivery,
}: Pick<Slideshow, 'slides' | 'delivery'>): readonly WordsInTurn[] {
  if (delivery === 'clip' || slides.every(({ words }) => words === null)) return []
  const turns = new Map<number | null, WordsInTurn>()
  for (const [index, { id, words }] of slides.entries()) {
    const key = words && id
    const before = turns.get(key)?.slides ?? []
    turns.set(key, { id: key, words, slides: [...before, index] })
  }
  return [...turns.values()]
}

/** Where a slide's focal points are, given those of the backdrop. */
export const focalsOf = ({ focal }: Pick<Slide, 'focal'>, shared: Focals): Focals => focal ?? shared

/** A slide's pan and zoom; null where it has none, or is not one that fills the region. */
export function panOf({
  placing,
  pan,
}: Pick<Slide, 'placing' | 'pan'>): { readonly from: View; readonly to: View } | null {
  return placing === 'cover' ? pan : null
}
