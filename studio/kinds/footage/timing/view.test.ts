import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  clampView,
  panView,
  revealMoment,
  rulerTicks,
  snapTo,
  stripCells,
  wholeView,
  zoomView,
  type FrameTimes,
  type View,
} from './view'

const clip = (frames: number, ticks = 1, timescale = 24): FrameTimes => ({
  timescale,
  times: Array.from({ length: frames }, (_, index) => index * ticks),
  length: frames * ticks,
})
const CLIP = clip(336)
const WIDTH = 1240

const anyView = fc
  .tuple(fc.double({ min: -5, max: 20, noNaN: true }), fc.double({ min: -5, max: 20, noNaN: true }))
  .map(([a, b]): View => clampView({ from: Math.min(a, b), to: Math.max(a, b) }, CLIP))

describe('a view of a clip', () => {
  it('begins with all of it', () => expect(wholeView(CLIP)).toEqual({ from: 0, to: 14 }))
  it('never leaves the clip, and never comes closer than a few frames (seed 31)', () => {
    fc.assert(
      fc.property(
        anyView,
        fc.double({ min: 0.01, max: 100, noNaN: true }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        fc.double({ min: -3, max: 3, noNaN: true }),
        (view, factor, share, by) => {
          for (const next of [
            zoomView(view, factor, share, CLIP),
            panView(view, by, CLIP),
            revealMoment(view, by * 5, CLIP),
          ]) {
            expect(next.from).toBeGreaterThanOrEqual(-1e-9)
            expect(next.to).toBeLessThanOrEqual(14 + 1e-9)
            expect(next.to - next.from).toBeGreaterThanOrEqual(8 / 24 - 1e-9)
          }
        },
      ),
      { seed: 31 },
    )
  })
  it('keeps the moment under the pointer where it is while it zooms', () => {
    const view = zoomView({ from: 4, to: 10 }, 2, 0.25, CLIP)
    expect(view.from + (view.to - view.from) * 0.25).toBeCloseTo(5.5, 9)
    expect(view.to - view.from).toBeCloseTo(3, 9)
  })
  it('comes back when it zooms out again', () => {
    const there = zoomView({ from: 4, to: 10 }, 3, 0.5, CLIP)
    const back = zoomView(there, 1 / 3, 0.5, CLIP)
    expect([back.from, back.to]).toEqual([expect.closeTo(4, 9), expect.closeTo(10, 9)])
  })
  it('moves by a share of itself, and stays as it is where a moment is in sight', () => {
    expect(panView({ from: 4, to: 6 }, 0.5, CLIP)).toEqual({ from: 5, to: 7 })
    const view = { from: 4, to: 6 }
    expect(revealMoment(view, 5, CLIP)).toBe(view)
    expect(revealMoment(view, 9, CLIP).to).toBeCloseTo(9.2, 9)
    expect(revealMoment(view, 1, CLIP).from).toBeCloseTo(0.8, 9)
  })
  it('shows a clip shorter than its least whole', () =>
    expect(clampView({ from: 0.01, to: 0.02 }, clip(4))).toEqual({ from: 0, to: 4 / 24 }))
})

describe('the cells of the strip', () => {
  it('cover the view without a gap, each with a picture’s room (seed 32)', () => {
    fc.assert(
      fc.property(anyView, fc.integer({ min: 300, max: 2000 }), (view, width) => {
        const { step, cells } = stripCells(view, CLIP, width, 96)
        expect(Math.log2(step) % 1).toBe(0)
        expect(cells[0]!.left).toBeLessThanOrEqual(1e-6)
        const last = cells[cells.length - 1]!
        expect(last.left + last.width).toBeGreaterThanOrEqual(1 - 1e-6)
        cells.slice(1).forEach((cell, index) => {
          expect(cell.left).toBeCloseTo(cells[index]!.left + cells[index]!.width, 9)
          expect(cell.frame % step).toBe(0)
        })
        for (const cell of cells.slice(0, -1))
          if (step > 1 || cell.width * width > 96) expect(cell.width * width).toBeGreaterThan(95)
      }),
      { seed: 32 },
    )
  })
  it('keep their pictures while the view moves', () => {
    const frames = (view: View): Set<number> =>
      new Set(stripCells(view, CLIP, WIDTH, 96).cells.map((cell) => cell.frame))
    const [before, after] = [frames({ from: 2, to: 8 }), frames({ from: 2.2, to: 8.2 })]
    expect([...after].filter((frame) => !before.has(frame)).length).toBeLessThanOrEqual(1)
  })
  it('are single frames from near', () => {
    const { step, cells } = stripCells({ from: 2, to: 2.5 }, CLIP, WIDTH, 96)
    expect(step).toBe(1)
    expect(cells.map((cell) => cell.frame)).toEqual(
      Array.from({ length: 12 }, (_, index) => 48 + index),
    )
  })
  it('follow the times of a clip of variable rate', () => {
    const uneven: FrameTimes = { timescale: 1000, times: [0, 100, 200, 900], length: 1000 }
    const { cells } = stripCells({ from: 0, to: 1 }, uneven, 400, 96)
    expect(cells.map((cell) => Math.round(cell.width * 10))).toEqual([1, 1, 7, 1])
  })
  it('are none before there is room', () =>
    expect(stripCells({ from: 0, to: 1 }, CLIP, 0, 96).cells).toEqual([]))
})

describe('the ruler', () => {
  it('counts seconds from afar', () => {
    const labels = rulerTicks(wholeView(CLIP), CLIP, WIDTH).flatMap(({ label }) => label ?? [])
    expect(labels.slice(0, 3)).toEqual(['0 s', '1 s', '2 s'])
    expect(labels).toHaveLength(15)
  })
  it('counts frames from near, with their seconds', () => {
    const ticks = rulerTicks({ from: 2, to: 2.5 }, CLIP, WIDTH)
    expect(ticks[0]).toEqual({ left: 0, label: '48f · 2.00 s' })
    expect(ticks.filter(({ label }) => label === null).length).toBe(0)
  })
  it('leaves room for its labels, whatever the view (seed 33)', () => {
    fc.assert(
      fc.property(anyView, fc.integer({ min: 200, max: 2400 }), (view, width) => {
        const labelled = rulerTicks(view, CLIP, width).filter(({ label }) => label !== null)
        labelled
          .slice(1)
          .forEach((tick, index) =>
            expect((tick.left - labelled[index]!.left) * width).toBeGreaterThan(60),
          )
      }),
      { seed: 33 },
    )
  })
  it('is empty before there is room', () =>
    expect(rulerTicks(wholeView(CLIP), CLIP, 0)).toEqual([]))
})

describe('snapping', () => {
  const points = [
    { seconds: 1.8, label: 'title card ends' },
    { seconds: 1.9, label: 'cut' },
    { seconds: 9, label: 'loop 1 ends' },
  ]
  it.each([
    [1.82, 'title card ends'],
    [1.88, 'cut'],
    [9.05, 'loop 1 ends'],
    [5, null],
    [1.6, null],
  ])('at %d s goes to %j', (seconds, label) =>
    expect(snapTo(seconds, points, wholeView(CLIP), WIDTH)?.label ?? null).toBe(label),
  )
  it('reaches less far in time the closer the view is', () =>
    expect(snapTo(1.82, points, { from: 1.6, to: 2.1 }, WIDTH)).toBeNull())
  it('finds nothing where there is nothing', () =>
    expect(snapTo(1, [], wholeView(CLIP), WIDTH)).toBeNull())
})
