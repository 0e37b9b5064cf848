import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { eased } from '../../kinds/easing'
import { cycleOf, MIN_HOLD_SECONDS, type SlideTiming } from '../../kinds/slideshow/cycle'
import {
  FIRST_TRANSITION,
  TRANSITION_STYLES,
  type Transition,
} from '../../kinds/slideshow/transition'
import {
  cycledSlides,
  departure,
  entrance,
  keyframesText,
  maskOf,
  type CycledSlide,
} from './slideFrames'

const SLIDES = fc.array(
  fc.record({
    holdSeconds: fc.double({ min: MIN_HOLD_SECONDS, max: 20, noNaN: true }),
    transitionSeconds: fc.double({ min: 0, max: 5, noNaN: true }),
  }),
  { minLength: 2, maxLength: 24 },
)
const even = (count: number, holdSeconds = 4, transitionSeconds = 1.2): SlideTiming[] =>
  Array.from({ length: count }, () => ({ holdSeconds, transitionSeconds }))
const linear: Transition = { ...FIRST_TRANSITION, easing: 'linear' }

/** A moment as the text of keyframes says it. */
interface Read {
  readonly at: number
  readonly css: Readonly<Record<string, string>>
  readonly way: string
}

/** Keyframes read back from their text, as a browser reads them. */
function readKeyframes(text: string): Read[] {
  return [...text.matchAll(/([\d.]+)% \{ ([^}]*) \}/g)].map(([, at, body]) => {
    const css = Object.fromEntries(
      body!
        .split(';')
        .filter((each) => each.trim())
        .map((each) => each.split(/:(.*)/s).map((part) => part.trim())),
    ) as Record<string, string>
    return { at: Number(at) / 100, css, way: css['animation-timing-function'] ?? 'linear' }
  })
}

/** How visible a slide's box is at a time: 0 while it is parked. */
function opacityAt({ delaySeconds, box }: CycledSlide, seconds: number, time: number): number {
  if (box.length === 0) return 1
  const frames = readKeyframes(keyframesText(box, seconds))
  if (time < delaySeconds) return Number(frames[0]!.css['opacity'])
  const share = ((time - delaySeconds) % seconds) / seconds
  const at = frames.findLastIndex((frame) => frame.at <= share)
  const [from, to] = [frames[at]!, frames[at + 1] ?? frames[at]!]
  if (from.way === 'step-end') return Number(from.css['opacity'])
  const way = eased(from.way as Transition['easing'], (share - from.at) / (to.at - from.at))
  return (
    Number(from.css['opacity']) + (Number(to.css['opacity']) - Number(from.css['opacity'])) * way
  )
}

/** How much of each slide is seen; the echo of the first one counts for it. */
function seenAt(slides: readonly SlideTiming[], time: number, transition = linear): number[] {
  const cycle = cycleOf(slides)
  const cycled = cycledSlides(
    cycle,
    slides.map(({ transitionSeconds }) => ({
      transition: { ...transition, seconds: transitionSeconds },
      pan: null,
    })),
  )
  const opacities = cycled.map((each) => opacityAt(each, cycle.seconds, time))
  const seen = opacities.map((opacity, index) =>
    opacities.slice(index + 1).reduce((left, over) => left * (1 - over), opacity),
  )
  const echo = seen.pop()!
  return seen.map((each, index) => (index === 0 ? each + echo : each))
}

describe('the keyframes of a cycle', () => {
  it('rise and cover it, and wait for the first slide (seed 23)', () =>
    fc.assert(
      fc.property(SLIDES, fc.constantFrom(...TRANSITION_STYLES), (slides, style) => {
        const cycle = cycleOf(slides)
        const [, ...later] = cycledSlides(
          cycle,
          slides.map(({ transitionSeconds }) => ({
            transition: { ...FIRST_TRANSITION, style, seconds: transitionSeconds },
            pan: null,
          })),
        )
        for (const { box, view, delaySeconds } of later) {
          expect(delaySeconds).toBeGreaterThan(0)
          for (const frames of [box, view]) {
            if (frames.length === 0) continue
            const places = readKeyframes(keyframesText(frames, cycle.seconds)).map(({ at }) => at)
            expect(places).toEqual([...places].sort((a, b) => a - b))
            expect(new Set(places).size).toBe(places.length)
            expect([places[0], places.at(-1)]).toEqual([0, 1])
          }
        }
      }),
      { seed: 23, numRuns: 60 },
    ))
  it('show every slide fully for its hold, in this cycle and the next (seed 24)', () =>
    fc.assert(
      fc.property(SLIDES, fc.double({ min: 0.02, max: 0.98, noNaN: true }), (slides, share) => {
        const { seconds, spans } = cycleOf(slides)
        for (const turn of [0, seconds])
          for (const [index, { fullFrom, leavesFrom }] of spans.entries()) {
            const time = turn + fullFrom + (leavesFrom - fullFrom) * share
            expect(seenAt(slides, time)[index]).toBeCloseTo(1, 2)
          }
      }),
      { seed: 24, numRuns: 40 },
    ))
  it('mix two slides and nothing else, half of each half-way: no ground shows through', () => {
    const slides = even(4, 3, 2)
    const { spans } = cycleOf(slides)
    for (const [index, { leavesFrom }] of spans.entries()) {
      const seen = seenAt(slides, 20 + leavesFrom + 1)
      expect(seen[index]).toBeCloseTo(0.5, 3)
      expect(seen[(index + 1) % 4]).toBeCloseTo(0.5, 3)
    }
  })
  it('show the first slide at once, and cut where a transition takes no time', () => {
    expect(seenAt(even(3), 0)).toEqual([1, 0, 0])
    expect(seenAt(even(2, 3, 0), 3.01)).toEqual([0, 1])
    expect(seenAt(even(2, 3, 0), 6.01)).toEqual([1, 0])
  })
  it('park a slide until half of the hold before it has gone: it is not fetched with the first', () => {
    const [, second, third] = cycledSlides(cycleOf(even(3)), [
      ...even(3).map(() => ({ transition: linear, pan: null })),
    ])
    expect(second!.delaySeconds).toBe(2)
    expect(third!.delaySeconds).toBeCloseTo(5.2 + 2, 6)
    // Laid unseen into its place; once it is covered it is parked again.
    expect(second!.box[0]!.style).toMatchObject({ opacity: '0', transform: 'none' })
    expect(second!.box.at(-1)!.style).toMatchObject({ transform: 'translateY(-30000px)' })
  })
  it('leave a slide below the next one, so that one that has not come is not missed', () => {
    // The third has failed: what is below it is still the second.
    const slides = even(4, 4, 1)
    const cycle = cycleOf(slides)
    const cycled = cycledSlides(
      cycle,
      slides.map(() => ({ transition: linear, pan: null })),
    )
    const { fullFrom, leavesFrom } = cycle.spans[2]!
    expect(opacityAt(cycled[1]!, cycle.seconds, (fullFrom + leavesFrom) / 2)).toBe(1)
  })
})

describe('entrances', () => {
  it.each(TRANSITION_STYLES)('begin unseen and end with the whole slide: %s', (style) => {
    const transition = { ...FIRST_TRANSITION, style, softness: 0 }
    const { frames, rest } = entrance(transition, 'box', 2)
    expect(frames[0]!.at).toBe(0)
    expect(frames[0]!.style).not.toEqual(rest)
    expect(rest).toMatchObject({ opacity: '1', transform: 'none' })
  })
  it('have every property in each of their moments: else browsers fill in others', () => {
    for (const style of TRANSITION_STYLES) {
      const { frames, rest } = entrance({ ...FIRST_TRANSITION, style }, 'box', 2)
      for (const frame of frames) expect(Object.keys(frame.style)).toEqual(Object.keys(rest))
    }
  })
  it('move a straight hard edge by transforms alone, against its view', () => {
    const edge: Transition = { ...FIRST_TRANSITION, style: 'edge', softness: 0, angleDeg: 90 }
    expect(maskOf(edge)).toBeNull()
    expect(entrance(edge, 'box', 1).frames[0]!.style['transform']).toBe('translate(-100%, 0%)')
    expect(entrance(edge, 'view', 1).frames[0]!.style['transform']).toBe('translate(100%, 0%)')
    expect(entrance(edge, 'view', 1).rest).toEqual({ transform: 'none' })
  })
  it('move a mask for a soft or slanted one', () => {
    for (const edge of [
      { ...FIRST_TRANSITION, style: 'edge', softness: 0.3 },
      { ...FIRST_TRANSITION, style: 'edge', softness: 0, angleDeg: 30 },
    ] satisfies Transition[]) {
      expect(maskOf(edge)!['mask-image']).toContain(`${edge.angleDeg}deg`)
      expect(entrance(edge, 'box', 1).rest['mask-position']).toMatch(/%/)
    }
  })
  it('move the slide that is pushed away, and no other', () => {
    expect(departure({ ...FIRST_TRANSITION, style: 'push', direction: 'up' }, 1)).toMatchObject([
      { style: { transform: 'none' } },
      { style: { transform: 'translate(0%, -100%)' } },
    ])
    expect(departure({ ...FIRST_TRANSITION, style: 'slide-over' }, 1)).toEqual([])
  })
})

describe('a pan', () => {
  it('goes on from the echo of the first slide to the first slide, without a jump', () => {
    const pan = { from: { x: 0, y: 0, zoom: 1 }, to: { x: 0.1, y: 0.1, zoom: 1.5 } }
    const slides = even(3).map(() => ({ transition: linear, pan }))
    const cycled = cycledSlides(cycleOf(even(3)), slides)
    const echoEnd = cycled.at(-1)!.pan.at(-1)!.style
    expect(cycled[0]!.pan[0]!.style).toEqual(echoEnd)
    expect(cycled[1]!.pan[0]!.style['transform']).toBe('translate(0%, 0%) scale(1)')
  })
})
