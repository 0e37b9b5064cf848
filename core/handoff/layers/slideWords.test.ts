import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { cycleOf, wordSpans } from '../../kinds/slideshow/cycle'
import { isWithin } from '../../kinds/Span'
import type { Frame } from './slideFrames'
import { wordFrames } from './slideWords'

const slideshow = fc
  .array(
    fc.record({
      holdSeconds: fc.integer({ min: 5, max: 90 }).map((tenths) => tenths / 10),
      transitionSeconds: fc.integer({ min: 0, max: 40 }).map((tenths) => tenths / 10),
    }),
    { minLength: 2, maxLength: 12 },
  )
  .chain((slides) =>
    fc.record({
      slides: fc.constant(slides),
      // Which words each slide has.
      words: fc.array(fc.integer({ min: 0, max: 2 }), {
        minLength: slides.length,
        maxLength: slides.length,
      }),
    }),
  )

/** How much of words is seen at a time. */
function seenAt(frames: readonly Frame[], time: number, always: boolean): number {
  if (frames.length === 0) return always ? 1 : 0
  const index = frames.findLastIndex(({ at }) => at <= time)
  const [from, to] = [frames[index]!, frames[index + 1] ?? frames[index]!]
  const [start, end] = [Number(from.style['opacity']), Number(to.style['opacity'])]
  if (from.way !== 'linear' || to.at === from.at) return start
  return start + ((end - start) * (time - from.at)) / (to.at - from.at)
}

describe('words of slides', () => {
  it('are seen alone while their slides are, and never two of them well (seed 41)', () =>
    fc.assert(
      fc.property(slideshow, ({ slides, words }) => {
        const cycle = cycleOf(slides)
        const kinds = [...new Set(words)]
        const frames = kinds.map((kind) =>
          wordFrames(
            cycle,
            words.map((each) => each === kind),
          ),
        )
        const seen = (time: number): number[] =>
          frames.map((each, index) =>
            seenAt(
              each,
              time,
              words.every((w) => w === kinds[index]),
            ),
          )
        cycle.spans.forEach(({ fullFrom, leavesFrom, goneAt }, index) => {
          const own = kinds.indexOf(words[index]!)
          const held = seen((fullFrom + leavesFrom) / 2)
          expect(held).toEqual(kinds.map((_, place) => (place === own ? 1 : 0)))
          const next = kinds.indexOf(words[(index + 1) % words.length]!)
          for (const share of [0.1, 0.3, 0.5, 0.7, 0.9]) {
            const during = seen(leavesFrom + (goneAt - leavesFrom) * share)
            if (next === own) expect(during[own]).toBe(1)
            else if (goneAt > leavesFrom)
              // Of old and new words the fainter one is hardly there.
              expect(during.toSorted((one, other) => other - one)[1]).toBeLessThan(0.2)
          }
        })
      }),
      { seed: 41, numRuns: 200 },
    ))
  it('are measured while they are seen by half or more (seed 43)', () =>
    fc.assert(
      fc.property(slideshow, fc.double({ min: 0, max: 1, noNaN: true }), (show, share) => {
        const cycle = cycleOf(show.slides)
        const belongs = show.words.map((each) => each === 0)
        const time = share * cycle.seconds * 0.999
        const opacity = seenAt(wordFrames(cycle, belongs), time, !belongs.includes(false))
        if (Math.abs(opacity - 0.5) < 0.001) return
        expect(isWithin(wordSpans(cycle, belongs), time)).toBe(opacity > 0.5)
      }),
      { seed: 43, numRuns: 500 },
    ))
  it('move on in time, from the begin of the cycle to its end (seed 42)', () =>
    fc.assert(
      fc.property(slideshow, ({ slides, words }) => {
        const cycle = cycleOf(slides)
        const frames = wordFrames(
          cycle,
          words.map((each) => each === 0),
        )
        if (frames.length === 0) return
        const times = frames.map(({ at }) => at)
        expect(times[0]).toBe(0)
        expect(times[times.length - 1]).toBe(cycle.seconds)
        expect(times).toEqual(times.toSorted((one, other) => one - other))
        expect(frames[0]!.style).toEqual(frames[frames.length - 1]!.style)
      }),
      { seed: 42, numRuns: 200 },
    ))
  it('need no animation where all slides have them', () =>
    expect(wordFrames(cycleOf([{ holdSeconds: 4, transitionSeconds: 1 }]), [true, true])).toEqual(
      [],
    ))
  it('cannot be reached while they are not seen', () => {
    const cycle = cycleOf([
      { holdSeconds: 4, transitionSeconds: 1 },
      { holdSeconds: 4, transitionSeconds: 1 },
    ])
    for (const { style } of wordFrames(cycle, [true, false]))
      expect(style['visibility']).toBe(style['opacity'] === '1' ? 'visible' : 'hidden')
  })
})
