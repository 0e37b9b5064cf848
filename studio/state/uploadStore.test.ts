import { describe, expect, it } from 'vitest'
import { isPassing, rateMeter } from './uploadStore'

describe('an upload that got no good answer', () => {
  it.each([
    [0, true],
    [401, false],
    [404, false],
    [409, true],
    [413, false],
    [422, false],
    [423, true],
    [500, true],
    [503, true],
    [507, false],
  ])('with status %i is tried again by itself: %s', (status, again) =>
    expect(isPassing(status)).toBe(again),
  )
})

describe('the rate of an upload', () => {
  it('is not told before it means anything, and then covers the last seconds', () => {
    let now = 0
    const rate = rateMeter(() => now)
    expect(rate(0)).toBeNull()
    now = 200
    expect(rate(1_000_000)).toBeNull()
    now = 1000
    expect(rate(1_000_000)).toBe(1_000_000)
    // Ten seconds at a tenth of the speed: what was before no longer counts.
    for (let second = 2; second <= 11; second++) {
      now = second * 1000
      rate(1_000_000 + (second - 1) * 100_000)
    }
    now = 12_000
    expect(Math.round(rate(2_100_000)!)).toBe(100_000)
  })
})
