import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { cycleOf } from '../../../../core/kinds/slideshow/cycle'
import {
  draggedHold,
  draggedTransition,
  framedTime,
  placeAt,
  rulerMarks,
  steppedTime,
} from './deckGeometry'

const cycle = cycleOf(Array.from({ length: 4 }, () => ({ holdSeconds: 4, transitionSeconds: 1 })))

describe('the ruler', () => {
  it('has marks that are far enough apart to be read (seed 41)', () =>
    fc.assert(
      fc.property(
        fc.double({ min: 1, max: 600, noNaN: true }),
        fc.integer({ min: 320, max: 4000 }),
        (seconds, width) => {
          const marks = rulerMarks(seconds, width)
          expect(marks[0]).toBe(0)
          expect(marks.at(-1)).toBeLessThanOrEqual(seconds + 1e-6)
          if (marks.length > 1)
            expect(((marks[1]! - marks[0]!) / seconds) * width).toBeGreaterThanOrEqual(64)
        },
      ),
      { seed: 41 },
    ))
})

describe('dragging', () => {
  it('keeps holds and transitions within what documents take, in twentieths', () => {
    expect(draggedHold(4, 1.234)).toBe(5.25)
    expect(draggedHold(4, -9)).toBe(0.5)
    expect(draggedHold(4, 900)).toBe(120)
    expect(draggedTransition(1, -3)).toBe(0)
    expect(draggedTransition(1, 30)).toBe(10)
  })
  it('drops a slide at the place whose middle it has passed', () => {
    expect([0, 1.9, 2.1, 7.1, 19].map((time) => placeAt(cycle, time))).toEqual([0, 0, 1, 2, 3])
  })
})

describe('the playhead', () => {
  it('goes from slide to slide, round at both ends', () => {
    expect(steppedTime(cycle, 0, 1)).toBe(5)
    expect(steppedTime(cycle, 15.5, 1)).toBe(0)
    expect(steppedTime(cycle, 6, -1)).toBe(5)
    expect(steppedTime(cycle, 0, -1)).toBe(15)
  })
  it('goes frame by frame, round at both ends', () => {
    expect(framedTime(cycle, 1, 1)).toBeCloseTo(1 + 1 / 30, 6)
    expect(framedTime(cycle, 0, -1)).toBeCloseTo(20 - 1 / 30, 6)
  })
})
