import { describe, expect, it } from 'vitest'
import { ProbeCurve } from '../../../core/weight/ProbeCurve'
import {
  curvePoints,
  nearestPlace,
  niceTicks,
  steppedPlace,
  timeTicks,
  type TradeCurve,
} from './tradeCurves'

const POINTS = [
  [100, 4000],
  [180, 1000],
  [255, 300],
].map(([setting, bytes]) => ({
  setting: setting!,
  keyBytes: bytes! * 5,
  frameBytes: bytes!,
  ssim: 1 - setting! / 4000,
  psnr: 40,
}))
const CURVES: TradeCurve[] = [
  { family: 'av1', curve: curvePoints(new ProbeCurve(POINTS, 'quantizer'), 100) },
  { family: 'vp9', curve: [] },
  {
    family: 'h264',
    curve: curvePoints(
      new ProbeCurve(
        POINTS.map((point) => ({
          ...point,
          setting: 6e7 / point.setting ** 2,
          frameBytes: point.frameBytes * 2,
        })),
        'rate',
      ),
      100,
    ),
  },
]

describe('the curves of the trade', () => {
  it('run from the coarsest to the finest setting, whatever the encoder is steered by', () => {
    for (const { curve } of [CURVES[0]!, CURVES[2]!]) {
      expect(curve[0]!.kilobytes).toBeLessThan(curve.at(-1)!.kilobytes)
      expect(
        curve.every((point, index) => index === 0 || point.ssim >= curve[index - 1]!.ssim),
      ).toBe(true)
    }
    expect(CURVES[0]!.curve[0]!.kilobytes).toBeCloseTo((300 * 5 + 99 * 300) / 1000, 1)
  })
  it('have a place for any number of bytes', () => {
    expect(nearestPlace(CURVES, 1)).toEqual({ family: 'av1', index: 0 })
    expect(nearestPlace(CURVES, 1e6)).toEqual({ family: 'av1', index: 28 })
    expect(nearestPlace([{ family: 'vp9', curve: [] }], 50)).toBeNull()
  })
  it.each([
    ['ArrowRight', 'av1', 11],
    ['ArrowLeft', 'av1', 9],
    ['Home', 'av1', 0],
    ['End', 'av1', 28],
    ['ArrowUp', 'av1', 10],
    ['q', 'av1', 10],
  ] as const)('%s leads to place %s %i', (key, family, index) => {
    expect(steppedPlace(CURVES, { family: 'av1', index: 10 }, key)).toEqual({ family, index })
  })
  it('stop at their ends', () =>
    expect(steppedPlace(CURVES, { family: 'av1', index: 28 }, 'ArrowRight').index).toBe(28))
  it('lead to the next one that is drawn, at about the same bytes', () => {
    const place = steppedPlace(CURVES, { family: 'av1', index: 14 }, 'ArrowDown')
    expect(place.family).toBe('h264')
    const ratio = CURVES[2]!.curve[place.index]!.kilobytes / CURVES[0]!.curve[14]!.kilobytes
    expect(Math.abs(Math.log(ratio))).toBeLessThan(0.1)
    expect(steppedPlace(CURVES, place, 'ArrowUp').family).toBe('av1')
  })
  it('leave places of formats alone that are not drawn', () =>
    expect(steppedPlace(CURVES, { family: 'vp9', index: 3 }, 'ArrowRight')).toEqual({
      family: 'vp9',
      index: 3,
    }))
  it('have round ticks', () => expect(niceTicks(15, 600)).toEqual([20, 50, 100, 200, 500]))
})

describe('ticks of time', () => {
  it.each([
    [0.75, [0, 0.1, 0.2, 0.3, 0.4, 0.5, 0.6, 0.7]],
    [2.8, [0, 0.5, 1, 1.5, 2, 2.5]],
    [61, [0, 10, 20, 30, 40, 50, 60]],
  ])('over %d s are round', (seconds, ticks) => expect(timeTicks(seconds)).toEqual(ticks))
  it('are never more than nine, nor beyond the end', () => {
    for (let seconds = 0.05; seconds < 10_000; seconds *= 1.37) {
      const ticks = timeTicks(seconds)
      expect(ticks.length).toBeLessThanOrEqual(9)
      expect(ticks.at(-1)).toBeLessThanOrEqual(seconds + 0.05)
    }
  })
})
