import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { cycleOf, cycleWords, MIN_HOLD_SECONDS, shownAt, withCycle } from './cycle'
import { shuffled } from './shuffle'

const timing = fc.record({
  holdSeconds: fc.double({ min: MIN_HOLD_SECONDS, max: 20, noNaN: true }),
  transitionSeconds: fc.double({ min: 0, max: 5, noNaN: true }),
})
const SLIDES = fc.array(timing, { minLength: 2, maxLength: 24 })
const even = (count: number, holdSeconds = 4, transitionSeconds = 1.2) =>
  Array.from({ length: count }, () => ({ holdSeconds, transitionSeconds }))

describe('a cycle', () => {
  it('is as long as its holds and transitions, each slide following the one before (seed 21)', () =>
    fc.assert(
      fc.property(SLIDES, (slides) => {
        const { seconds, spans } = cycleOf(slides)
        const sum = slides.reduce((all, each) => all + each.holdSeconds + each.transitionSeconds, 0)
        expect(seconds).toBeCloseTo(sum, 6)
        for (const [index, span] of spans.entries()) {
          expect(span.leavesFrom - span.fullFrom).toBeCloseTo(slides[index]!.holdSeconds, 6)
          const next = spans[(index + 1) % spans.length]!
          expect(next.appearsAt).toBeCloseTo(span.leavesFrom, 6)
          expect(next.fullFrom % seconds).toBeCloseTo(span.goneAt % seconds, 6)
        }
      }),
      { seed: 21 },
    ))
  it('can be set: holds follow in their proportions, and stay long enough to be seen (seed 22)', () =>
    fc.assert(
      fc.property(SLIDES, fc.double({ min: 1, max: 300, noNaN: true }), (slides, wanted) => {
        const set = withCycle(slides, wanted)
        const { seconds } = cycleOf(set)
        const shortest =
          slides.length * MIN_HOLD_SECONDS +
          slides.reduce((sum, { transitionSeconds }) => sum + transitionSeconds, 0)
        expect(seconds).toBeCloseTo(Math.max(wanted, shortest), 4)
        expect(Math.min(...set.map(({ holdSeconds }) => holdSeconds))).toBeGreaterThanOrEqual(
          MIN_HOLD_SECONDS,
        )
        expect(set.map(({ transitionSeconds }) => transitionSeconds)).toEqual(
          slides.map(({ transitionSeconds }) => transitionSeconds),
        )
      }),
      { seed: 22 },
    ))
  it('is told as a calculation', () => {
    expect(cycleWords(even(5))).toBe('5 × (4.0 + 1.2) s = 26.0 s')
    expect(cycleWords([...even(2), { holdSeconds: 5.5, transitionSeconds: 1.2 }])).toBe(
      '13.5 s held + 3.6 s in transitions = 17.1 s',
    )
  })
  it('shows one slide, or two within a transition, over and over', () => {
    const cycle = cycleOf(even(3, 4, 2))
    expect(shownAt(cycle, 0)).toEqual({ slide: 0, next: 1, progress: 0 })
    expect(shownAt(cycle, 5)).toEqual({ slide: 0, next: 1, progress: 0.5 })
    expect(shownAt(cycle, 17)).toEqual({ slide: 2, next: 0, progress: 0.5 })
    expect(shownAt(cycle, 18 + 5)).toEqual({ slide: 0, next: 1, progress: 0.5 })
  })
})

describe('a shuffled order', () => {
  it('has every slide once, the first in front, the same for the same seed (seed 25)', () =>
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 24 }), fc.integer(), (count, seed) => {
        const order = shuffled(count, seed)
        expect([...order].sort((a, b) => a - b)).toEqual([...Array(count).keys()])
        expect(order[0]).toBe(0)
        expect(shuffled(count, seed)).toEqual(order)
      }),
      { seed: 25 },
    ))
  it('does not begin with what the last one ended with (seed 26)', () =>
    fc.assert(
      fc.property(fc.integer({ min: 3, max: 24 }), fc.integer(), (count, seed) => {
        const before = shuffled(count, seed)
        const next = shuffled(count, seed + 1, { notSecond: before.at(-1)! })
        expect(next[1]).not.toBe(before.at(-1))
      }),
      { seed: 26 },
    ))
  it('puts each slide in each place about as often as any other', () => {
    const counts = new Array<number>(5).fill(0)
    for (let seed = 0; seed < 4000; seed++) counts[shuffled(5, seed)[1]!]! += 1
    for (const count of counts.slice(1)) expect(Math.abs(count - 1000)).toBeLessThan(150)
  })
})
