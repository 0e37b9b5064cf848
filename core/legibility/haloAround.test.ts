import { describe, expect, it } from 'vitest'
import { haloAround } from './haloAround'

const SIDE = 24

/** A picture of opacities, 0 to 255, drawn by a rule. */
const drawn = (alphaAt: (x: number, y: number) => number): Uint8Array =>
  Uint8Array.from({ length: SIDE * SIDE }, (_, at) => alphaAt(at % SIDE, Math.floor(at / SIDE)))
/** A letter that is a bar of 4 × 12 pixels. */
const isBar = (x: number, y: number, by = 0): boolean =>
  x >= 10 - by && x < 14 + by && y >= 6 - by && y < 18 + by
const BAR = drawn((x, y) => (isBar(x, y) ? 255 : 0))

describe('what lies around letters', () => {
  it('is nothing where nothing does', () =>
    expect(
      haloAround(
        BAR,
        drawn(() => 0),
        SIDE,
        SIDE,
        4,
      ),
    ).toMatchObject({ near: 0, mean: 0 }))
  it('is as opaque as what covers everything', () => {
    const { near, mean } = haloAround(
      BAR,
      drawn(() => 153),
      SIDE,
      SIDE,
      4,
    )!
    expect(near).toBeCloseTo(0.6, 6)
    expect(mean).toBeCloseTo(0.6, 6)
  })
  it('is less of an outline that is narrower than what is looked at', () => {
    const near = (by: number): number =>
      haloAround(
        BAR,
        drawn((x, y) => (isBar(x, y, by) ? 255 : 0)),
        SIDE,
        SIDE,
        4,
      )!.near
    expect(near(0)).toBe(0)
    expect(near(1)).toBeGreaterThan(0.1)
    expect(near(2)).toBeGreaterThan(near(1))
    // All squares beside a letter lie within four pixels of it.
    expect(near(4)).toBe(1)
  })
  it('counts where it is weakest: an outline on one side alone is none', () => {
    const left = drawn((x, y) => (isBar(x, y, 4) && x < 12 ? 255 : 0))
    expect(haloAround(BAR, left, SIDE, SIDE, 4)!.near).toBe(0)
  })
  it('does not count what letters themselves lie on', () => {
    const under = drawn((x, y) => (isBar(x, y) ? 255 : 0))
    expect(haloAround(BAR, under, SIDE, SIDE, 4)).toMatchObject({ near: 0, mean: 1 })
  })
  it('is told at equal shares of all places, from the weakest', () => {
    const { opacities, near } = haloAround(
      BAR,
      drawn((x) => 8 * x),
      SIDE,
      SIDE,
      4,
    )!
    expect(opacities).toHaveLength(20)
    expect(opacities).toEqual(opacities.toSorted((one, other) => one - other))
    expect(opacities[0]).toBeGreaterThan(0)
    expect(opacities[1]).toBeGreaterThanOrEqual(near)
    expect(opacities.at(-1)).toBeGreaterThan(2 * near)
  })
  it('is not known without letters, and has no place where they fill everything', () => {
    expect(
      haloAround(
        drawn(() => 0),
        BAR,
        SIDE,
        SIDE,
        4,
      ),
    ).toBeNull()
    expect(
      haloAround(
        drawn(() => 255),
        BAR,
        SIDE,
        SIDE,
        4,
      )!.near,
    ).toBe(0)
  })
})
