import type { Span } from '../Span'

/*
 * The arithmetic of a cycle: every slide is fully shown for its hold, then gives way to the next
 * one within its transition, the last one to the first. All times in seconds.
 */

/** How long a slide stays, and how long it then takes to give way to the next. */
export interface SlideTiming {
  readonly holdSeconds: number
  readonly transitionSeconds: number
}

/** A slide must be seen for so long at least, in seconds. */
export const MIN_HOLD_SECONDS = 0.5

/** When a slide is seen within a cycle that begins with slide 0 fully shown. */
export interface SlideSpan {
  /** When it begins to appear; of slide 0 when the last one gives way to it. */
  readonly appearsAt: number
  /** When it is fully shown; 0 for slide 0. */
  readonly fullFrom: number
  /** When it begins to give way. */
  readonly leavesFrom: number
  /** When the next one is fully shown. */
  readonly goneAt: number
}

/** A cycle of slides in order. */
export interface Cycle {
  readonly seconds: number
  readonly spans: readonly SlideSpan[]
}

/** The cycle of some slides. Throws RangeError without any. */
export function cycleOf(slides: readonly SlideTiming[]): Cycle {
  if (slides.length === 0) throw new RangeError('a cycle has slides')
  let at = 0
  let before = slides[slides.length - 1]!.transitionSeconds
  const spans = slides.map(({ holdSeconds, transitionSeconds }) => {
    const span = {
      appearsAt: at - before,
      fullFrom: at,
      leavesFrom: at + holdSeconds,
      goneAt: at + holdSeconds + transitionSeconds,
    }
    at = span.goneAt
    before = transitionSeconds
    return span
  })
  const [first, ...others] = spans
  return { seconds: at, spans: [{ ...first!, appearsAt: at + first!.appearsAt }, ...others] }
}

/**
 * The slides with holds that make the cycle `seconds` long, in their present proportions;
 * transitions stay. No hold becomes shorter than `MIN_HOLD_SECONDS`: the cycle is then longer.
 */
export function withCycle<S extends SlideTiming>(slides: readonly S[], seconds: number): S[] {
  const transitions = slides.reduce((sum, { transitionSeconds }) => sum + transitionSeconds, 0)
  let left = seconds - transitions
  // The shortest first: what it cannot give, the longer ones must.
  const order = slides.map((_, index) => index)
  order.sort((one, other) => slides[one]!.holdSeconds - slides[other]!.holdSeconds)
  let weight = slides.reduce((sum, { holdSeconds }) => sum + holdSeconds, 0)
  const holds = new Map<number, number>()
  for (const index of order) {
    const { holdSeconds } = slides[index]!
    const share = weight > 0 ? (left * holdSeconds) / weight : 0
    const hold = Math.max(MIN_HOLD_SECONDS, share)
    holds.set(index, hold)
    left -= hold
    weight -= holdSeconds
  }
  return slides.map((slide, index) => ({ ...slide, holdSeconds: holds.get(index)! }))
}

/** What is seen at a moment: a slide, and how far the next one has replaced it, 0 to 1. */
export interface ShownSlides {
  readonly slide: number
  readonly next: number
  readonly progress: number
}

/** What is seen at `time` after the start; cycles follow one another. */
export function shownAt({ seconds, spans }: Cycle, time: number): ShownSlides {
  const within = ((time % seconds) + seconds) % seconds
  const slide = spans.findLastIndex(({ fullFrom }) => fullFrom <= within)
  const { leavesFrom, goneAt } = spans[slide]!
  const length = goneAt - leavesFrom
  return {
    slide,
    next: (slide + 1) % spans.length,
    progress: length > 0 ? Math.min(1, Math.max(0, (within - leavesFrom) / length)) : 0,
  }
}

/** Old words are gone after this share of a transition, new ones come in as much of its end. */
export const WORDS_CROSSED = 0.6

/**
 * When words are seen well, that is by half or more: `seen` tells of each place in the cycle
 * whether they belong to the slide there.
 */
export function wordSpans({ spans, seconds }: Cycle, seen: readonly boolean[]): Span[] {
  return spans.flatMap(({ fullFrom, leavesFrom, goneAt }, index) => {
    if (!seen[index]) return []
    const before = spans.at(index - 1)!
    const faint = (length: number): number => (length * WORDS_CROSSED) / 2
    const from = seen.at(index - 1) ? fullFrom : fullFrom - faint(before.goneAt - before.leavesFrom)
    const to = seen[(index + 1) % seen.length] ? goneAt : leavesFrom + faint(goneAt - leavesFrom)
    // The first slide begins to come at the end of the cycle.
    return from < 0
      ? [
          { from: 0, to },
          { from: seconds + from, to: seconds },
        ]
      : [{ from, to }]
  })
}

/** The cycle as a calculation, such as `5 × (4.0 + 1.2) s = 26.0 s`. */
export function cycleWords(slides: readonly SlideTiming[]): string {
  const total = `${cycleOf(slides).seconds.toFixed(1)} s`
  const [first] = slides
  const alike = slides.every(
    ({ holdSeconds, transitionSeconds }) =>
      holdSeconds === first!.holdSeconds && transitionSeconds === first!.transitionSeconds,
  )
  if (alike)
    return `${slides.length} × (${first!.holdSeconds.toFixed(1)} + ${first!.transitionSeconds.toFixed(1)}) s = ${total}`
  const sum = (pick: (slide: SlideTiming) => number): string =>
    slides.reduce((all, slide) => all + pick(slide), 0).toFixed(1)
  return `${sum(({ holdSeconds }) => holdSeconds)} s held + ${sum(({ transitionSeconds }) => transitionSeconds)} s in transitions = ${total}`
}
