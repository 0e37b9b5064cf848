import { describe, expect, it } from 'vitest'
import { constantRate, frameGrid } from './frameGrid'

const clip = (times: number[], timescale = 1000) => ({ times, timescale })
const rounded = (fps: number, count: number, timescale = 1000, offset = 0): number[] =>
  Array.from({ length: count }, (_, frame) => Math.round((offset + frame / fps) * timescale))

describe('the grid of a clip’s frame times', () => {
  it.each([
    [24, 1000, { num: 24, den: 1 }],
    [30, 1000, { num: 30, den: 1 }],
    [24000 / 1001, 1000, { num: 24000, den: 1001 }],
    [30000 / 1001, 600, { num: 30000, den: 1001 }],
    [60000 / 1001, 1000, { num: 60000, den: 1001 }],
    [17, 600, { num: 17, den: 1 }],
    [59.5, 90000, { num: 59500, den: 1000 }],
  ])('finds %f frames a second in ticks of 1/%i', (fps, timescale, rate) =>
    expect(constantRate(clip(rounded(fps, 480, timescale, 0.013), timescale))).toEqual(rate),
  )
  it('counts missing frames as gaps', () => {
    const times = rounded(24, 100).filter((_, frame) => frame !== 10 && frame !== 50)
    const grid = frameGrid(clip(times))!
    expect(grid.places.slice(8, 12)).toEqual([8, 9, 11, 12])
    expect(grid.places.at(-1)).toBe(99)
    expect(constantRate(clip(times))).toEqual({ num: 24, den: 1 })
  })
  it('tolerates a jitter of a twentieth of a period', () => {
    const times = Array.from({ length: 90 }, (_, frame) => frame * 3000 + ((frame * 7) % 5) * 70)
    expect(frameGrid(clip(times, 90000))!.places).toEqual(times.map((_, frame) => frame))
  })
  it.each([
    ['a rate that varies', [0, 31, 95, 120, 170, 181, 260, 333]],
    ['a rate that drifts', Array.from({ length: 100 }, (_, n) => n * 40 + n * n * 0.1)],
    ['one frame', [0]],
    ['no frame', []],
    ['frames of equal times', [0, 0, 0]],
  ])('has none for %s', (_, times) => expect(frameGrid(clip(times))).toBeNull())
  it('has two places for two frames', () =>
    expect(frameGrid(clip([0, 400]))).toMatchObject({ period: 400, first: 0, places: [0, 1] }))
  it('is computed once for the same list', () => {
    const times = rounded(24, 100)
    expect(frameGrid(clip(times))).toBe(frameGrid(clip(times)))
  })
})
