import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { defaultOutputRate, nearestRate, toNumber } from './Fraction'
import { frameCount, framePlan, loopSeconds, snapCut } from './framePlan'
import { parseTime } from './parseTime'

const steady = (frames: number, ticks: number, timescale: number) => ({ timescale, order: [], times: Array.from({ length: frames }, (_, index) => index * ticks), length: frames * ticks })
const cut = (start: number, end: number, timescale = 24) => ({ timescale, start, end })
const FPS24 = { num: 24, den: 1 }
const SEED = 20261123

describe('frame plan', () => {
  it('shows every frame of the cut once at the clip’s own speed and rate', () => {
    expect(framePlan({ cut: cut(48, 240), speed: 1, frameRate: FPS24 }, steady(336, 1, 24))).toEqual(Array.from({ length: 192 }, (_, k) => 48 + k))
  })
  it('takes every second frame at double speed', () => {
    expect(framePlan({ cut: cut(0, 12), speed: 2, frameRate: FPS24 }, steady(24, 1, 24))).toEqual([0, 2, 4, 6, 8, 10])
  })
  it('repeats frames in slow motion', () => {
    expect(framePlan({ cut: cut(0, 3), speed: 0.5, frameRate: FPS24 }, steady(24, 1, 24))).toEqual([0, 0, 1, 1, 2, 2])
  })
  it('resamples a variable frame rate by time, not by number', () => {
    const uneven = { timescale: 1000, times: [0, 40, 400, 440, 480, 960], length: 1000 }
    expect(framePlan({ cut: cut(0, 1000, 1000), speed: 1, frameRate: { num: 5, den: 1 } }, uneven)).toEqual([0, 1, 2, 4, 4])
  })
  it('is exact for broadcast rates over minutes', () => {
    const frameRate = { num: 30000, den: 1001 }
    expect(framePlan({ cut: cut(0, 9000 * 1001, 30000), speed: 1, frameRate }, steady(9000, 1001, 30000))).toEqual(Array.from({ length: 9000 }, (_, k) => k))
  })
  it(`never falls, stays in the cut and keeps its length (seed ${SEED})`, () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 200 }), fc.integer({ min: 2, max: 100 }), fc.double({ min: 0.25, max: 4, noNaN: true }), fc.constantFrom(24, 25, 30, 50, 60), (start, length, speed, fps) => {
        const settings = { cut: cut(start, start + length), speed, frameRate: { num: fps, den: 1 } }
        const plan = framePlan(settings, steady(300, 1, 24))
        expect(plan.length).toBe(frameCount(settings))
        expect(Math.abs(loopSeconds(settings) - length / 24 / speed)).toBeLessThanOrEqual(1 / fps)
        plan.forEach((number, k) => {
          expect(number).toBeGreaterThanOrEqual(k === 0 ? start : plan[k - 1]!)
          expect(number).toBeLessThan(start + length + 1)
        })
      }),
      { seed: SEED },
    )
  })
})

describe('snapping a cut', () => {
  const clip = steady(100, 1001, 24000)
  it('lays both ends on frames', () => expect(snapCut(cut(1500, 50_300, 24000), clip, 'both')).toEqual(cut(1001, 50_050, 24000)))
  it('lets the end reach the end of the clip', () => expect(snapCut(cut(0, 9e9, 24000), clip, 'end').end).toBe(100_100))
  it('moves the start away when it is pushed over the end', () => expect(snapCut(cut(60_000, 50_050, 24000), clip, 'start')).toEqual(cut(48_048, 50_050, 24000)))
  it('changes to the clip’s own timescale', () => expect(snapCut(cut(1, 2, 1), clip, 'both').timescale).toBe(24000))
  it(`always leaves a cut of two frames or more inside the clip (seed ${SEED})`, () => {
    fc.assert(
      fc.property(fc.double({ min: -1e6, max: 1e6, noNaN: true }), fc.double({ min: -1e6, max: 1e6, noNaN: true }), fc.constantFrom('start' as const, 'end' as const), (start, end, moved) => {
        const snapped = snapCut(cut(start, end, 24000), clip, moved)
        expect(snapped.start).toBeGreaterThanOrEqual(0)
        expect(snapped.end).toBeLessThanOrEqual(clip.length)
        expect(snapped.end - snapped.start).toBeGreaterThanOrEqual(2002)
      }),
      { seed: SEED },
    )
  })
})

describe('frame rates', () => {
  it.each([[23.976, 24000, 1001], [24.0001, 24, 1], [29.97, 30000, 1001], [59.94, 60000, 1001], [12.5, 12500, 1000]])('takes %d for %i/%i', (fps, num, den) => expect(nearestRate(fps)).toEqual({ num, den }))
  it.each([[24, 24], [30, 30], [60, 30], [50, 25], [120, 30]])('offers for %d fps: %d', (source, offered) => expect(toNumber(defaultOutputRate(source))).toBe(offered))
})

describe('typed times', () => {
  it.each([['2.5', { seconds: 2.5 }], ['2,5 s', { seconds: 2.5 }], [' 3s ', { seconds: 3 }], ['75f', { frames: 75 }], ['1:02.5', { seconds: 62.5 }], ['.5', { seconds: 0.5 }]])('reads %s', (text, time) => expect(parseTime(text)).toEqual(time))
  it.each(['', 'abc', '-1', '1:2:3:4', '2.5.1', '5x', 'f', '1e3'])('refuses "%s"', (text) => expect(parseTime(text)).toBeNull())
})
