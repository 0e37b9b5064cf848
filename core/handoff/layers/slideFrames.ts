import { viewAt, type View } from '../../kinds/image/Image'
import { viewTransform } from '../../kinds/image/viewTransform'
import type { Cycle } from '../../kinds/slideshow/cycle'
import {
  entering,
  leaving,
  MOSAIC_STEPS,
  WHOLE,
  type Look,
  type Transition,
} from '../../kinds/slideshow/transition'
import { cssNumber } from '../cssNumber'

/*
 * Slides as CSS keyframes. Every slide but the first lies parked far above until shortly before it
 * comes, so that its image (`loading="lazy"`) is not fetched with the first one. It is then laid
 * unseen into its place, enters over the slide before, and is parked again once it is covered. The
 * first slide lies at the bottom and is seen at once; it comes again as an echo, a last slide of
 * the same image, after which the cycle begins anew without a change. Only what enters fades, over
 * a slide that stays whole: no ground shows through half-way.
 */

/** CSS declarations by property. */
export type Style = Readonly<Record<string, string>>

/** A moment of an animation: what is declared there, and how it goes on to the next. */
export interface Frame {
  /** In seconds from its begin. */
  readonly at: number
  readonly style: Style
  /** `animation-timing-function`. */
  readonly way: string
}

/** Where slides wait: so far away that no browser fetches what is lazy. */
export const PARKED: Style = { opacity: '0', transform: 'translateY(-30000px)' }
/** In its place, but unseen. */
export const LAID: Style = { opacity: '0', transform: 'none' }
/** The share of the hold before in which a slide is fetched. */
const LEAD_SHARE = 0.5
/** Pieces of a growth that CSS cannot interpolate in one. */
const PIECES = 12
/** Steps a second of pan and zoom: with fewer, edges would be seen to jump. */
const PAN_STEPS_PER_SECOND = 30

const percent = (share: number): string => `${cssNumber(share * 100)}%`

/** Whether an edge can move by transforms alone, which browsers compose without painting. */
const isStraight = ({ style, softness, angleDeg }: Transition): boolean =>
  style === 'edge' && softness === 0 && angleDeg % 90 === 0

/** The mask of a soft or slanted edge, whose place is animated; null where there is none. */
export function maskOf(transition: Transition): Style | null {
  const { style, angleDeg, softness } = transition
  if (style !== 'edge' || isStraight(transition)) return null
  // The mask is three times as large as the region each way, and so is its soft zone's share.
  const half = (softness * 100) / 6
  const image = `linear-gradient(${cssNumber(angleDeg)}deg, #000 ${cssNumber(50 - half)}%, transparent ${cssNumber(50 + half)}%)`
  return { 'mask-image': image, 'mask-size': '300% 300%', 'mask-repeat': 'no-repeat' }
}

/** Where an edge goes, as signs of x and y; 0 where it does not move along one. */
function stepOf(angleDeg: number): readonly [number, number] {
  const rad = (angleDeg * Math.PI) / 180
  const sign = (along: number): number => (Math.abs(along) < 1e-9 ? 0 : Math.sign(along))
  return [sign(Math.sin(rad)), sign(-Math.cos(rad))]
}

const translate = (x: number, y: number): string =>
  x === 0 && y === 0 ? 'none' : `translate(${percent(x)}, ${percent(y)})`

/** What a slide's box declares for a look. */
function boxStyle(transition: Transition, { opacity, x, y, outline, circle, sweep }: Look): Style {
  const style = {
    opacity: cssNumber(opacity),
    transform: translate(x, y),
    // The colour before its picture, and never after: its picture may be missing.
    ...(transition.style === 'through-colour' && { 'background-color': transition.color }),
  }
  if (outline) {
    const corners = outline.map((point) => `${percent(point.x)} ${percent(point.y)}`)
    return { ...style, 'clip-path': `polygon(${corners.join(', ')})` }
  }
  // 100 % of a circle are 71 % of the diagonal over the root of two: the corners.
  if (circle !== null) return { ...style, 'clip-path': `circle(${cssNumber(circle * 71)}%)` }
  if (!sweep) return style
  const [right, down] = stepOf(sweep.angleDeg)
  const left = (1 - sweep.at) / 2
  if (isStraight(transition)) return { ...style, transform: translate(-right * left, -down * left) }
  const [across, along] = [right, down].map((sign) => percent(0.5 - sign * 0.25 * sweep.at))
  return { ...style, 'mask-position': `${across} ${along}` }
}

/** What the view within the box declares: a straight edge moves it against its box. */
function viewStyle(transition: Transition, { sweep, wash }: Look): Style {
  if (transition.style === 'through-colour') return { opacity: cssNumber(1 - wash) }
  if (!sweep || !isStraight(transition)) return {}
  const [right, down] = stepOf(sweep.angleDeg)
  const left = (1 - sweep.at) / 2
  return { transform: translate(right * left, down * left) }
}

/** The element of a slide that an animation is of. */
export type SlidePart = 'box' | 'view'

/** The moments of an entrance from which on something else is declared, as shares of its time. */
function moments({ style, easing }: Transition): { at: number; way: string }[] {
  const pieces = (count: number, way: string) =>
    Array.from({ length: count }, (_, index) => ({ at: index / count, way }))
  if (style === 'columns') return pieces(PIECES, 'linear')
  if (style === 'mosaic') return pieces(MOSAIC_STEPS, 'step-end')
  if (style === 'through-colour') return [...pieces(2, easing), { at: 1, way: 'step-end' }]
  return pieces(1, easing)
}

/** An entrance of a part without its last moment, and what is declared from then on. */
interface Entrance {
  readonly frames: readonly Frame[]
  readonly rest: Style
}

/** How the next slide enters in `seconds`. */
export function entrance(transition: Transition, part: SlidePart, seconds: number): Entrance {
  const styleOf = part === 'box' ? boxStyle : viewStyle
  const at = (share: number): Style => styleOf(transition, entering(transition, share))
  const frames = moments(transition).map(({ at: share, way }) => ({
    at: share * seconds,
    style: at(share),
    way,
  }))
  const { 'background-color': plate, ...rest } = at(1)
  return {
    frames: seconds > 0 ? frames : [],
    rest: plate ? { ...rest, 'background-color': 'transparent' } : rest,
  }
}

/** How a slide moves away below the next one, in `seconds`; nothing where it lies still. */
export function departure(transition: Transition, seconds: number): Frame[] {
  if (leaving(transition, 1) === WHOLE || seconds === 0) return []
  const at = (share: number): Style => boxStyle(transition, leaving(transition, share))
  return [
    { at: 0, style: at(0), way: transition.easing },
    { at: seconds, style: at(1), way: 'step-end' },
  ]
}

const later = (frames: readonly Frame[], by: number): Frame[] =>
  frames.map((frame) => ({ ...frame, at: frame.at + by }))

const still = (at: number, style: Style): Frame => ({ at, style, way: 'step-end' })

/** What the elements of a slide go through in a cycle; empty where they stand still. */
export interface CycledSlide {
  /** When its animation begins, in seconds after the page. */
  readonly delaySeconds: number
  readonly box: readonly Frame[]
  readonly view: readonly Frame[]
  /** Of its image, while it is panned. */
  readonly pan: readonly Frame[]
}

/** A pan from one view to another. */
interface Pan {
  readonly from: View
  readonly to: View
}

/** A slide with what the cycle takes from it. */
export interface SlideInCycle {
  /** How the next one replaces it. */
  readonly transition: Transition
  readonly pan: Pan | null
}

/**
 * The animations of a cycle by slide, the echo of the first one last. The first slide only moves
 * where it is pushed away or panned.
 */
export function cycledSlides(cycle: Cycle, slides: readonly SlideInCycle[]): CycledSlide[] {
  return [
    firstSlide(cycle, slides),
    ...slides.map((_, index) => laterSlide(cycle, slides, index + 1)),
  ]
}

function firstSlide({ spans, seconds }: Cycle, slides: readonly SlideInCycle[]): CycledSlide {
  const { transition, pan } = slides[0]!
  const { leavesFrom, goneAt } = spans[0]!
  const away = later(departure(transition, goneAt - leavesFrom), leavesFrom)
  const box = [still(0, LAID), ...away, still(goneAt, LAID), still(seconds, LAID)]
  const onlyMoved = box.map((frame) => ({
    ...frame,
    style: { transform: frame.style['transform']! },
  }))
  // It begins as its echo ended: at the end of its entrance.
  const entered = slides[slides.length - 1]!.transition.seconds
  return {
    delaySeconds: 0,
    box: away.length > 0 ? onlyMoved : [],
    view: [],
    pan: pan ? panned(pan, [entered / (entered + goneAt), 1], [0, goneAt], seconds) : [],
  }
}

function laterSlide(
  { spans, seconds }: Cycle,
  slides: readonly SlideInCycle[],
  index: number,
): CycledSlide {
  const count = slides.length
  const isEcho = index === count
  const { transition: by } = slides[index - 1]!
  const before = spans[index - 1]!
  const hold = before.leavesFrom - before.fullFrom
  const delaySeconds = before.leavesFrom - hold * LEAD_SHARE
  const since = (time: number): number => time - delaySeconds
  const [appears, full] = [since(before.leavesFrom), since(before.goneAt)]
  const own = slides[index % count]!
  const span = spans[index % count]!
  const away = isEcho
    ? []
    : later(departure(own.transition, span.goneAt - span.leavesFrom), since(span.leavesFrom))
  const gone = isEcho ? since(seconds) : since(span.goneAt)
  // Only the one after the next takes it away: it is still seen where the next one has not come.
  const covered = isEcho ? gone : since(spans[Math.min(count - 1, index + 1)]!.goneAt)
  const box = entrance(by, 'box', full - appears)
  const view = entrance(by, 'view', full - appears)
  const rest = { ...box.rest, ...PARKED }
  return {
    delaySeconds,
    box: [
      still(0, { ...(box.frames[0]?.style ?? box.rest), ...LAID }),
      ...later(box.frames, appears),
      still(full, box.rest),
      ...away.map((frame) => ({ ...frame, style: { ...box.rest, ...frame.style } })),
      still(away.length > 0 ? gone : covered, rest),
      still(seconds, rest),
    ],
    view:
      Object.keys(view.rest).length === 0
        ? []
        : [
            still(0, view.frames[0]?.style ?? view.rest),
            ...later(view.frames, appears),
            still(full, view.rest),
            still(seconds, view.rest),
          ],
    pan: own.pan ? panOfLater(own.pan) : [],
  }

  function panOfLater(pan: Pan): Frame[] {
    if (!isEcho) return panned(pan, [0, 1], [appears, gone], seconds)
    // The echo shows how the first slide's pan begins; the first slide goes on with it.
    const entered = full - appears
    return panned(pan, [0, entered / (entered + spans[0]!.goneAt)], [appears, full], seconds)
  }
}

/** A pan between two shares of its way, from one time to another. */
export function panned(
  pan: Pan,
  [from, to]: readonly [number, number],
  [start, end]: readonly [number, number],
  seconds: number,
): Frame[] {
  const at = (share: number): Style => ({ transform: viewTransform(viewAt(pan, share)) })
  const steps = Math.max(1, Math.round((end - start) * PAN_STEPS_PER_SECOND))
  return [
    ...(start > 0 ? [still(0, at(from))] : []),
    { at: start, style: at(from), way: `steps(${steps})` },
    still(end, at(to)),
    ...(end < seconds ? [still(seconds, at(to))] : []),
  ]
}

/** Declarations as text. */
export const styleText = (style: Style): string =>
  Object.entries(style)
    .map(([property, value]) => `${property}: ${value};`)
    .join(' ')

/** The least distance of two moments, as a share: browsers keep both apart. */
const APART = 1e-5

/** Keyframes as text, within an animation of `seconds`. */
export function keyframesText(frames: readonly Frame[], seconds: number): string {
  let last = -1
  return frames
    .map((frame, index) => {
      // What ends and what follows at the same moment are both kept: a little after one another.
      const share = Math.min(1, Math.max(frame.at / seconds, last + APART))
      last = share
      const isLast = index === frames.length - 1
      const way = isLast ? '' : ` animation-timing-function: ${frame.way};`
      return `${isLast ? '100%' : percent(share)} { ${styleText(frame.style)}${way} }`
    })
    .join(' ')
}
