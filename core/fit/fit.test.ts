import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { coverRect, dragFocal, keptHeight, keptWidth, paintedRect, regionHeightPx } from './cover'
import { minWindowWidth } from './screens'

const CENTRE = { x: 0.5, y: 0.5 }
const size = fc.record({
  width: fc.integer({ min: 10, max: 4000 }),
  height: fc.integer({ min: 10, max: 4000 }),
})

describe('covering a region', () => {
  it('cuts the sides on a phone', () => {
    expect(
      coverRect({ width: 1920, height: 1080 }, { width: 390, height: 844 }, CENTRE).shown.width,
    ).toBeCloseTo(499.05, 1)
    expect(keptWidth({ width: 1920, height: 1080 }, { width: 390, height: 844 })).toBeCloseTo(
      0.26,
      2,
    )
  })
  it('cuts above and below on a low band', () =>
    expect(keptHeight({ width: 1920, height: 1080 }, { width: 1280, height: 360 })).toBeCloseTo(
      0.5,
      3,
    ))
  it('fills the region without leaving the picture, wherever the focal point lies (seed 2)', () => {
    fc.assert(
      fc.property(
        size,
        size,
        fc.double({ min: 0, max: 1, noNaN: true }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        (picture, region, x, y) => {
          const { scale, shown } = coverRect(picture, region, { x, y })
          expect(shown.width * scale).toBeCloseTo(region.width, 4)
          expect(shown.height * scale).toBeCloseTo(region.height, 4)
          expect(Math.min(shown.x, shown.y)).toBeGreaterThanOrEqual(-1e-6)
          expect(shown.x + shown.width).toBeLessThanOrEqual(picture.width + 1e-6)
          expect(shown.y + shown.height).toBeLessThanOrEqual(picture.height + 1e-6)
        },
      ),
      { seed: 2 },
    )
  })
  it('moves the focal point against the hand, and not along a side that is whole', () => {
    const moved = dragFocal(
      { width: 1920, height: 1080 },
      { width: 390, height: 844 },
      CENTRE,
      -100,
      50,
    )
    expect(moved.x).toBeGreaterThan(0.5)
    expect(moved.y).toBe(0.5)
  })
  it('gives the same point when nothing moved', () =>
    expect(dragFocal({ width: 10, height: 10 }, { width: 20, height: 20 }, CENTRE, 5, 5)).toBe(
      CENTRE,
    ))
  it.each([
    [{ unit: 'svh' as const, value: 60 }, 480],
    [{ unit: 'px' as const, value: 420 }, 420],
  ])('measures %j on a screen 800 px high', (height, px) =>
    expect(regionHeightPx(height, 800)).toBe(px),
  )
})

describe('where a covering picture is painted', () => {
  // A clip of 252 × 360 in Chromium, found by its screenshots to a hundredth of a level.
  it.each([
    [390, 844, 50, { x: -100, y: 0, width: 591, height: 844 }],
    [390, 843, 50, { x: -100, y: 0, width: 590, height: 843 }],
    [390, 844, 30, { x: -60, y: 0, width: 591, height: 844 }],
    [390, 844, 71, { x: -143, y: 0, width: 591, height: 844 }],
    [700, 501, 50, { x: 0, y: -249, width: 700, height: 1000 }],
    [600, 400, 37, { x: 0, y: -169, width: 600, height: 857 }],
  ])('is in whole pixels: %i × %i at %i %%', (width, height, percent, rect) => {
    const focal = { x: percent / 100, y: percent / 100 }
    const painted = paintedRect({ width: 252, height: 360 }, { width, height }, focal)
    // Adding zero makes nothing of a negative one.
    expect({ ...painted, x: painted.x + 0, y: painted.y + 0 }).toEqual(rect)
  })
})

describe('which windows get which clip', () => {
  it.each([
    ['phone', ['phone', 'laptop', 'wide'], false, 0],
    ['laptop', ['phone', 'laptop', 'wide'], false, 641],
    ['wide', ['phone', 'laptop', 'wide'], false, 1441],
    ['laptop', ['laptop', 'wide'], true, 641],
    ['wide', ['wide'], false, 0],
    ['wide', ['wide'], true, 641],
    ['wide', ['phone', 'wide'], false, 641],
  ] as const)('gives %s of %j from %s on: %i px', (screenClass, delivered, poster, min) =>
    expect(minWindowWidth(screenClass, delivered, poster, { phone: 640, laptop: 1440 })).toBe(min),
  )
})
