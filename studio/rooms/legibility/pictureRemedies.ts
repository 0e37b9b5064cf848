import type { BackdropDocument } from '../../../core/backdrop/BackdropDocument'
import type { BackdropAction } from '../../../core/backdrop/reduce'
import { classOfWindow } from '../../../core/fit/focal'
import { SCREENS } from '../../../core/fit/screens'
import { toNumber } from '../../../core/Fraction'
import {
  cycleOrder,
  isCycling,
  SLIDE_COUNT,
  slideCycle,
} from '../../../core/kinds/slideshow/Slideshow'
import { pictureCost } from '../../../core/legibility/pictureCost'
import { longestRead } from '../../../core/legibility/readSpan'
import { isEnough, type WorstMoment } from '../../../core/legibility/worstOf'
import { frameWorker } from '../../state/frameWorker'
import type { ContrastOrder } from '../../worker/contrast/ContrastOrder'
import {
  NO_COST,
  percents,
  seenIn,
  tryChange,
  type Failures,
  type RemedySearch,
  type RemedyStep,
} from './Remedy'
import { smallPictures } from './smallPictures'

/*
 * Changes of the picture itself after which copy may be read: blur behind it, another cut, fewer
 * slides, another poster.
 */

/** Changes, or why there are none. */
type Offer = readonly BackdropAction[] | string

/** Blurs the files of the screens on which copy fails, behind the copy. */
export function blurBehind(
  { base, weight }: BackdropDocument,
  failing: readonly WorstMoment[],
  copyBlur: number,
): Offer {
  if (base.kind === 'paint') return 'colours have nothing to blur'
  const classes = new Set(
    failing.map(({ screen }) => classOfWindow(SCREENS[screen].width, weight.breakpoints)),
  )
  const rows = [...classes].map((each) => [each, weight.renditions[each]] as const)
  if (rows.some(([, { locked }]) => locked)) return 'a row under Weight is locked'
  if (rows.every(([, row]) => row.copyBlur >= copyBlur)) return 'it is blurred already'
  return rows.map(([screenClass]) => ({ type: 'weight/row', screenClass, row: { copyBlur } }))
}

/** A loop is cut shorter only while so many seconds of it, and such a share, are left. */
const LEAST_SECONDS = 2
const LEAST_SHARE = 0.5

/**
 * The longest part of a clip's cut in which no copy fails; `fails` tells of each output frame
 * whether some does.
 */
export function readCut({ base }: BackdropDocument, fails: readonly boolean[]): Offer {
  if (base.kind !== 'footage') return 'only clips have a cut'
  const { cut, speed, seam, frameRate } = base.timing
  if (seam.kind !== 'straight') return 'its seam mixes or repeats frames: cut it by hand'
  const span = longestRead(fails)
  const { length } = fails
  const seconds = (frames: number): number => frames / toNumber(frameRate)
  if (!span || span.end - span.first < LEAST_SHARE * length) return 'copy fails at too many moments'
  if (seconds(span.end - span.first) < LEAST_SECONDS) return 'too little of the loop would be left'
  const ticks = (frames: number): number =>
    Math.round(cut.start + seconds(frames) * speed * cut.timescale)
  const end = span.end === length ? cut.end : ticks(span.end)
  return [{ type: 'timing/cut', cut: { ...cut, start: ticks(span.first), end } }]
}

/**
 * Of each moment whether any text fails on any screen, as the trace tells it. Errors: those of
 * measuring.
 */
async function failingMoments(order: ContrastOrder, signal: AbortSignal): Promise<FailingMoment[]> {
  const failing = new Set<number>()
  await frameWorker().run(
    { type: 'contrasts', ...order },
    {
      signal,
      onStep: (step) => {
        if (step.phase !== 'screen') return
        const { texts } = order.screens.find(({ name }) => name === step.screen)!.layout
        for (const { seconds, places } of step.rows)
          if (places.some((place, at) => place && !isSafe(place.ratio, texts[at]!.needed)))
            failing.add(seconds)
      },
    },
  )
  return order.moments.map(({ seconds }) => ({ seconds, fails: failing.has(seconds) }))
}

/** The trace is a little off: what is just enough in it may fail at full size. */
const isSafe = (ratio: number, needed: number): boolean => isEnough(ratio / 1.02, needed)

/**
 * Takes away the slides that are fully shown while copy fails; `fails` tells of each moment (in
 * seconds) whether some does.
 */
export function readSlides({ base }: BackdropDocument, fails: readonly FailingMoment[]): Offer {
  if (base.kind !== 'slideshow') return 'only slideshows have slides'
  if (!isCycling(base)) return 'any slide may follow the first'
  // Shuffled ones are measured in the order in which they come without script.
  const slides = cycleOrder(base).map((place) => base.slides[place]!)
  const { spans } = slideCycle({ ...base, slides })
  const failing = slides.filter((_, slide) =>
    fails.some(
      ({ seconds, fails: isFailing }) =>
        isFailing && seconds >= spans[slide]!.fullFrom && seconds <= spans[slide]!.leavesFrom,
    ),
  )
  if (failing.length === 0) return 'copy fails while slides change'
  if (base.slides.length - failing.length < SLIDE_COUNT.min)
    return 'copy fails in front of too many of them'
  return failing.map(({ id }) => ({ type: 'slides/remove', id }))
}

/** Whether any text fails at a moment. */
interface FailingMoment {
  readonly seconds: number
  readonly fails: boolean
}

/** How many frames of a clip are tried as its poster. */
const POSTERS = 6

/** Frames of a clip's cut that may be its poster, as changes. */
export function otherPosters({ base }: BackdropDocument): readonly (readonly BackdropAction[])[] {
  if (base.kind !== 'footage') return []
  const { start, end, timescale } = base.timing.cut
  return Array.from({ length: POSTERS }, (_, index) => [
    {
      type: 'poster/picture',
      picture: {
        kind: 'frame',
        ticks: Math.round(start + ((index + 0.5) * (end - start)) / POSTERS),
        timescale,
      },
    },
  ])
}

/** How strongly it is blurred: less is tried where all is enough. */
const BLURS = [1, 0.5]
const BLUR_TITLE = 'Blur behind the copy'
const CUT_TITLE = 'A shorter loop, without the moments at which copy fails'
const SLIDES_TITLE = 'Without the slides on which copy fails'

/** Which slides are taken away, as they are counted. */
function withoutTitle({ base }: BackdropDocument, actions: Offer): string {
  if (base.kind !== 'slideshow' || typeof actions === 'string') return SLIDES_TITLE
  const ids = actions.flatMap((action) => (action.type === 'slides/remove' ? [action.id] : []))
  const places = base.slides.flatMap(({ id }, at) => (ids.includes(id) ? [at + 1] : []))
  return `Without slide${places.length > 1 ? 's' : ''} ${places.join(' and ')}`
}

const POSTER_TITLE = 'Another poster'

/** Blur behind the copy: all of it, and half where that is enough. Errors: those of measuring. */
export async function tryBlur(
  search: RemedySearch,
  { failing, pictures }: Failures,
): Promise<void> {
  const { document, signal, onStep } = search
  for (const strength of BLURS) {
    const actions = blurBehind(document, failing, strength)
    if (typeof actions === 'string') {
      onStep({ vain: { title: BLUR_TITLE, worst: actions } })
      return
    }
    const title = `${BLUR_TITLE}, ${percents([strength])}`
    const isEnoughBlur = await tryChange(search, title, actions, async (order) => {
      const blurred = await smallPictures(order, signal)
      const cost = pictureCost(seenIn(document, pictures), seenIn(document, blurred))
      return { cost, pictures: blurred }
    })
    if (!isEnoughBlur) return
  }
}

/** A shorter loop, where copy fails in a few moments. Errors: those of measuring. */
export async function tryCut(search: RemedySearch, { order }: Failures): Promise<void> {
  const { document, signal, tell } = search
  if (document.base.kind !== 'footage') return
  tell(CUT_TITLE)
  const fails = await failingMoments(order, signal)
  await tryOther(
    search,
    CUT_TITLE,
    'What is shown stays as it is; look at the seam under Timing.',
    readCut(
      document,
      fails.map((each) => each.fails),
    ),
  )
}

/** Fewer slides, where copy fails in front of a few. Errors: those of measuring. */
export async function trySlides(search: RemedySearch, { order }: Failures): Promise<void> {
  const { document, signal, tell } = search
  if (document.base.kind !== 'slideshow') return
  tell(SLIDES_TITLE)
  const fails = await failingMoments(order, signal)
  const actions = readSlides(document, fails)
  const note = 'The other slides stay as they are.'
  await tryOther(search, withoutTitle(document, actions), note, actions)
}

/**
 * Another poster, where copy fails in front of the present one alone. Errors: those of measuring.
 */
export async function tryPosters(
  search: RemedySearch,
  { order, failing }: Failures,
): Promise<void> {
  const stills = order.screens.filter(({ isStill }) => isStill).map(({ name }) => name)
  if (!failing.every(({ screen }) => stills.includes(screen))) return
  const posters = otherPosters(search.document)
  if (posters.length === 0) return
  for (const actions of posters) {
    // One line for all that are not enough.
    const isFound = await tryOther(
      search,
      POSTER_TITLE,
      'Another frame is shown.',
      actions,
      (step) => (step.vain ? null : step),
    )
    if (isFound) return
  }
  search.onStep({ vain: { title: POSTER_TITLE, worst: 'copy fails in front of other frames too' } })
}

/** Other pictures, of which the visitor sees all that is shown; whether that is enough. */
async function tryOther(
  search: RemedySearch,
  title: string,
  note: string,
  actions: Offer,
  shown: (step: RemedyStep) => RemedyStep | null = (step) => step,
): Promise<boolean> {
  const onStep = (step: RemedyStep): void => {
    const told = shown(step)
    if (told) search.onStep(told)
  }
  if (typeof actions === 'string') {
    onStep({ vain: { title, worst: actions } })
    return false
  }
  return tryChange({ ...search, onStep }, title, actions, async (changed) => ({
    cost: NO_COST,
    note,
    pictures: await smallPictures(changed, search.signal),
  }))
}
