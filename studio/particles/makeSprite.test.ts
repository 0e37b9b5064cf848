import { describe, expect, it } from 'vitest'
import { MAX_SPRITE_SIDE } from '../../core/particles/sprites'
import { sidesFor } from './makeSprite'

describe('the sides that are tried for a sprite', () => {
  it('begin with the least that is fine enough for the largest element, and get smaller', () => {
    expect(sidesFor(16)[0]).toBe(32)
    expect(sidesFor(40)[0]).toBe(64)
    expect(sidesFor(60)[0]).toBe(96)
    for (const diameter of [1, 16, 40, 60, 150, 800]) {
      const sides = sidesFor(diameter)
      expect(sides.length).toBeGreaterThan(0)
      expect(sides.toSorted((one, other) => other - one)).toEqual(sides)
    }
  })
  it('are never larger than a sprite may be, however large elements are', () =>
    expect(sidesFor(800)[0]).toBe(MAX_SPRITE_SIDE))
})
