import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { displaySize } from './displaySize'
import type { VideoTrack } from './MediaFile'
import { frameAt, presentationOf } from './presentation'
import { SampleTableBuilder } from './SampleTableBuilder'

/** A track of samples with these times, each 10 ticks long. */
function track(times: readonly number[], shownStart = 0, shownEnd = Infinity): VideoTrack {
  const builder = new SampleTableBuilder()
  times.forEach((time, index) => builder.add(index * 100, 100, time, 10, index === 0))
  const end = Math.min(shownEnd, Math.max(...times) + 10)
  return {
    codec: { family: 'h264', name: 'H.264', codec: 'avc1.42c01e', description: null, stream: null },
    timescale: 1000,
    codedWidth: 64,
    codedHeight: 36,
    visibleWidth: 64,
    visibleHeight: 36,
    pixelAspect: { horizontal: 1, vertical: 1 },
    displayWidth: 64,
    displayHeight: 36,
    rotationDeg: 0,
    colour: null,
    samples: builder.finish(),
    alpha: null,
    repeats: 1,
    shownStart,
    shownEnd: end,
  }
}

describe('presentation', () => {
  it('puts reordered frames in the order they are shown', () => {
    expect(presentationOf(track([0, 30, 10, 20])).order).toEqual([0, 2, 3, 1])
  })
  it('leaves out what the edit list hides, before and after', () => {
    const shown = presentationOf(track([0, 10, 20, 30, 40], 20, 40))
    expect(shown.order).toEqual([2, 3])
    expect(shown.times).toEqual([0, 10])
    expect(shown.length).toBe(20)
  })
  it('keeps the frame that is on screen when the edit begins', () => {
    expect(presentationOf(track([0, 10, 20], 15)).order).toEqual([1, 2])
  })
  it('finds the frame on screen at any moment: the last at or before it (seed 6)', () => {
    fc.assert(
      fc.property(
        fc.uniqueArray(fc.nat(10_000), { minLength: 1, maxLength: 60 }),
        fc.nat(12_000),
        (unsorted, ticks) => {
          const times = [...unsorted].sort((a, b) => a - b)
          // The slow, obvious way.
          const expected = Math.max(0, times.filter((time) => time <= ticks).length - 1)
          expect(frameAt({ times }, ticks)).toBe(expected)
        },
      ),
      { seed: 6 },
    )
  })
})

describe('the size shown', () => {
  const square = { horizontal: 1, vertical: 1 }
  it.each([
    [1920, 1080, square, 0, 1920, 1080],
    [1920, 1080, square, 90, 1080, 1920],
    [1440, 1080, { horizontal: 4, vertical: 3 }, 0, 1920, 1080],
    [720, 576, { horizontal: 16, vertical: 15 }, 0, 768, 576],
    [1080, 720, { horizontal: 1, vertical: 2 }, 0, 1080, 1440],
    [1280, 720, { horizontal: 65_536, vertical: 65_536 }, 0, 1280, 720],
    [1280, 720, { horizontal: 0, vertical: 0 }, 0, 1280, 720],
    [1280, 720, { horizontal: 1, vertical: 0 }, 0, 1280, 720],
    [1280, 720, { horizontal: 100, vertical: 1 }, 0, 1280, 720],
  ])(
    'of %i × %i with pixels %j turned by %i is %i × %i',
    (width, height, aspect, degrees, wide, high) => {
      expect(displaySize(width, height, aspect, degrees)).toEqual({
        displayWidth: wide,
        displayHeight: high,
      })
    },
  )
})

describe('a sample table', () => {
  it('grows with what comes and moves its times', () => {
    const builder = new SampleTableBuilder()
    for (let index = 0; index < 3000; index++) builder.add(index, 1, index * 2, 2, index % 50 === 0)
    const table = builder.finish(-10)
    expect([table.count, table.times[0], table.times[2999], table.keys[50]]).toEqual([
      3000, -10, 5988, 1,
    ])
    expect(table.offsets).toHaveLength(3000)
  })
})
