import { z } from 'zod'
import { CLIP_BYTES, CLIP_PICTURES } from '../clipUse'
import type { Kind, OwnOutcome } from '../Kind'
import { stillOf } from '../image/imageSequence'
import { reduceSlideshow, labelOfSlideshow, type SlideshowAction } from './reduceSlideshow'
import { cycleOf, wordSpans } from './cycle'
import {
  cycleOrder,
  hasControls,
  isCycling,
  slideCycle,
  slideshowSchema,
  timingsOf,
  transitionOf,
  wordsInTurn,
  type Slideshow,
} from './Slideshow'
import {
  SLIDESHOW_RATE,
  slideshowSequence,
  slideshowSequenceSchema,
  slidesInRegion,
  type SlideshowSequence,
} from './slideshowSequence'
import { TRANSITION_STYLES, type Transition } from './transition'
import { firstVisitSlides } from './visitModes'
import type { Words } from '../../copy/Words'

/** A slideshow in the manifest of a delivered folder. */
export const describedSlideshowSchema = z.object({
  kind: z.literal('slideshow'),
  delivery: z.enum(['live', 'clip']),
  order: z.enum(['given', 'shuffled', 'visit', 'day']),
  cycleSeconds: z.number().describe('Length of one cycle as given.'),
  slides: z
    .array(
      z.object({
        holdSeconds: z.number().describe('How long it is fully shown.'),
        transition: z.enum(TRANSITION_STYLES).describe('How the next one replaces it.'),
        transitionSeconds: z.number(),
        placing: z.enum(['cover', 'contain', 'tile']),
        panned: z.boolean().describe('Whether it is slowly panned and zoomed.'),
      }),
    )
    .describe('Its slides as given; their files name them by their place.'),
})
export type DescribedSlideshow = z.infer<typeof describedSlideshowSchema>

/** Images that follow one another, changed by style and script or rendered to a clip. */
export const slideshow: Kind<Slideshow, SlideshowAction, SlideshowSequence, DescribedSlideshow> = {
  schema: slideshowSchema,
  actions: ['slides'],
  clips: ({ delivery }) => delivery === 'clip',
  hindrance: ({ delivery }) =>
    delivery === 'clip' ? null : 'Slides are delivered one by one. Deliver them as a clip first.',
  pictures: ({ delivery }) =>
    delivery === 'clip' ? CLIP_PICTURES : { ...CLIP_PICTURES, budgetShare: 1, chosen: false },
  slides: (base, known) =>
    base.delivery === 'clip'
      ? null
      : {
          cycleBytes: base.cycleBytes,
          visits: firstVisitSlides(base),
          pictures: base.slides.map((slide) => ({
            still: (part) => stillOf(slide, known, part),
            focals: slide.focal,
            fills: slide.placing === 'cover',
            width: slide.placing === 'tile' ? slide.tileWidth : null,
          })),
        },
  words: wordsInTurn,
  write: ({ slides }, id, change) =>
    slides.some((slide) => slide.id === id) ? { type: 'slides/words', id, change } : null,
  motion: (base) => ({
    turnSeconds: slideCycle(base).seconds,
    loops: base.delivery === 'clip' || isCycling(base),
  }),
  ground: ({ slides: [first], delivery }) => ({
    color: delivery === 'live' ? first!.background : null,
    placeholder: delivery === 'clip' || first!.placing === 'cover',
  }),
  styleBytes: (base) => (base.delivery === 'clip' ? CLIP_BYTES.style : liveStyleBytes(base)),
  scriptBytes(base) {
    if (base.delivery === 'clip') return CLIP_BYTES.script
    const hasWords = wordsInTurn(base).length > 0
    const held = hasControls(base) || hasWords ? 200 : 0
    return 2_600 + (hasControls(base) ? 400 : 0) + (hasWords ? 300 : 0) + held
  },
  // Each slide stands there in its formats and sizes.
  markupBytes: (base) =>
    base.delivery === 'clip'
      ? CLIP_BYTES.markup
      : 640 + base.slides.length * 118 + (hasControls(base) ? 190 : 0) + wordBytes(base),
  outcome: slidesOutcome,
  frameRate: () => SLIDESHOW_RATE,
  sequenceSchema: slideshowSequenceSchema,
  reduce: reduceSlideshow,
  label: labelOfSlideshow,
  sources: ({ slides }) =>
    [...new Set(slides.map(({ sourceId }) => sourceId))].map((sourceId) => ({
      sourceId,
      sha256: null,
    })),
  sequence: slideshowSequence,
  seenIn: slidesInRegion,
  wordTimes(base, slides) {
    const order = cycleOrder(base)
    const timings = timingsOf(base)
    return wordSpans(
      cycleOf(order.map((number) => timings[number]!)),
      order.map((number) => slides.includes(number)),
    )
  },
  layers: (base, { posters, clips }) =>
    base.delivery === 'clip'
      ? [
          { type: 'picture', posters },
          {
            type: 'video',
            clips,
            size: clips[0] ?? null,
            loops: true,
            seconds: slideCycle(base).seconds,
            fades: false,
          },
        ]
      : [{ type: 'slides', slideshow: base, posters }],
  describe: (base) => ({
    kind: 'slideshow',
    delivery: base.delivery,
    order: base.order,
    cycleSeconds: slideCycle(base).seconds,
    slides: timingsOf(base).map((timing, index) => {
      const slide = base.slides[index]!
      return {
        ...timing,
        transition: transitionOf(base, slide).style,
        placing: slide.placing,
        panned: slide.placing === 'cover' && slide.pan !== null,
      }
    }),
  }),
  lighter: () => [],
  checks: ({ slides }, known) =>
    [...new Set(slides.map(({ sourceId }) => sourceId))].flatMap((sourceId) =>
      (known.get(sourceId)?.findings ?? []).filter(({ weight }) => weight !== 'note'),
    ),
}

/** What visitors get of live slides where that is not what other motion by style does. */
function slidesOutcome(
  base: Slideshow,
  condition: string,
  choice: 'play' | 'poster' | null,
): OwnOutcome | null {
  if (base.delivery === 'clip') return null
  const first = { shows: 'still', because: 'The first slide stays.' } as const
  const outcomes: Readonly<Record<string, OwnOutcome>> = {
    laptop: {
      shows: 'motion',
      because: isCycling(base)
        ? 'Each slide is fetched shortly before it comes.'
        : 'The first slide, then the chosen one.',
    },
    'reduced-motion':
      choice === 'play'
        ? { shows: 'motion', because: 'Slides change at once, without animation.' }
        : first,
    'data-saver':
      choice === 'play'
        ? { shows: 'motion', because: 'Every slide is loaded, one after another.' }
        : { shows: 'still', because: 'Only the first slide is loaded.' },
    'no-script': isCycling(base)
      ? { shows: 'motion', because: 'The style changes slides, but nobody can pause it.' }
      : first,
    'failed-file': { shows: 'motion', because: 'A slide that is missing is left out.' },
  }
  return outcomes[condition] ?? null
}

/** What words of slides add to the markup, in bytes: short texts are hardly compressed. */
const wordBytes = (base: Slideshow): number =>
  wordsInTurn(base).reduce((sum, { words }) => sum + 40 + sentBytes(words), 0)

const sentBytes = (words: Words | null): number =>
  words === null ? 0 : new TextEncoder().encode(JSON.stringify(words)).byteLength

/** Whether a transition's outline has many corners, piece by piece. */
const isLong = ({ style }: Transition): boolean => style === 'mosaic' || style === 'columns'

/** Sums of what slides add to the style, in bytes; a test compares them with real ones. */
function liveStyleBytes(base: Slideshow): number {
  const own = base.slides.reduce((sum, slide) => {
    const { holdSeconds, transition, focal, pan, placing } = slide
    const timed = holdSeconds !== null || transition !== null
    return (
      sum +
      36 +
      (timed ? (isCycling(base) ? 200 : 140) : 0) +
      (timed && isLong(transitionOf(base, slide)) ? 820 : 0) +
      (pan ? 190 : 0) +
      (focal ? 70 : 0) +
      (placing === 'cover' ? 0 : 150)
    )
  }, 0)
  const turns = wordsInTurn(base).length
  const words = turns > 0 ? 400 + (isCycling(base) ? turns * 70 : 0) : 0
  return 2_380 + words + own + (isLong(base.transition) ? 1_050 : 0) + (hasControls(base) ? 400 : 0)
}
