import { readFileSync } from 'node:fs'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { inventTrack } from '../testing/samples'
import { offsetBytesOf, writeMp4 } from '../media/isobmff/writeMp4'
import { writeWebm } from '../media/matroska/writeWebm'
import { maxBitrate } from './maxUsefulRate'
import { containerOverhead, turnBytes } from './containerOverhead'
import { bytesEachPart, costliestFrames } from './frameCosts'
import { renditionSize } from './renditionSize'
import { enginesFor, SUPPORT, supportJsonSchema, supportSchema } from './support'

describe('rendition size', () => {
  it.each([
    [1920, 1080, 1280, 1280, 720],
    [1920, 1080, 3840, 1920, 1080],
    [641, 361, 1280, 640, 360],
    [1080, 1920, 641, 642, 1142],
    [100, 3, 50, 50, 2],
  ])('of %i × %i at %i is %i × %i', (width, height, wanted, w, h) => {
    expect(renditionSize({ width, height }, wanted)).toEqual({ width: w, height: h })
  })
})

it('the rate of a quick file grows with its pixels and its format’s thirst', () => {
  expect(maxBitrate('vp9', 1920, 1080, 30)).toBeGreaterThan(maxBitrate('vp9', 1280, 720, 30))
  expect(maxBitrate('h264', 1280, 720, 30)).toBeGreaterThan(maxBitrate('av1', 1280, 720, 30))
})

describe('what a container adds', () => {
  const data = (track: ReturnType<typeof inventTrack>): number =>
    track.frames.reduce((sum, frame) => sum + frame.data.byteLength, 0)
  it.each([
    [24, 1],
    [240, 18],
    [120, 30],
    [900, 6],
  ])(
    'is never underrated for %i frames listed %i times, nor by more than 150 bytes',
    (frames, repeats) => {
      const track = inventTrack('h264', frames)
      const real = writeMp4(track, null, repeats).byteLength - data(track)
      const told = containerOverhead('mp4', frames, repeats)
      expect(told).toBeGreaterThanOrEqual(real)
      expect(told - real).toBeLessThan(150)
    },
  )
  it.each([
    ['a pyramid', [0, 4, 2, 1, 3, 8, 6, 5, 7, 9]],
    ['two frames that change places', [0, 2, 1, 3, 4, 5, 6, 7, 8, 9]],
    ['an order that ends as it begins', [0, 1, 2, 3, 5, 4, 6, 7, 8, 9]],
    ['no order but their own', undefined],
  ])('is known exactly for each turn of frames with %s', (_, order) => {
    const track = inventTrack('h264', 10)
    const frames = track.frames.map((frame, index) =>
      order ? { ...frame, shown: order[index]! } : frame,
    )
    const listed = (times: number): number => writeMp4({ ...track, frames }, null, times).byteLength
    const offsetBytes = offsetBytesOf(frames)
    expect(listed(4) - listed(3)).toBe(turnBytes(10, offsetBytes))
    expect(containerOverhead('mp4', 10, 4, offsetBytes)).toBeGreaterThanOrEqual(
      listed(4) - data(track),
    )
  })
  it.each([24, 240, 900])('is never underrated in WebM for %i frames', (frames) => {
    const track = inventTrack('vp9', frames)
    expect(containerOverhead('webm', frames, 1)).toBeGreaterThanOrEqual(
      writeWebm(track).byteLength - data(track),
    )
  })
})

describe('where the bytes of a loop are', () => {
  const sizes = [900, 100, 100, 100, 300, 300]
  it('is told for each part, a shorter one at the end by its own length', () => {
    expect(bytesEachPart(sizes, 4, 1)).toEqual([
      { from: 0, to: 4, bytesPerSecond: 1200 },
      { from: 4, to: 6, bytesPerSecond: 1200 },
    ])
    expect(bytesEachPart(sizes, 2, 2).map(({ bytesPerSecond }) => bytesPerSecond)).toEqual(
      sizes.map((bytes) => bytes * 2),
    )
  })
  it('loses no frame and no byte, however the loop is parted (seed 71)', () => {
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: 1, max: 90_000 }), { minLength: 1, maxLength: 400 }),
        fc.constantFrom(10, 12.5, 24, 29.97, 60),
        fc.integer({ min: 1, max: 8 }),
        (loop, fps, each) => {
          const parts = bytesEachPart(loop, fps, each)
          expect(parts[0]!.from).toBe(0)
          expect(parts.at(-1)!.to).toBe(loop.length)
          parts.slice(1).forEach(({ from }, index) => expect(from).toBe(parts[index]!.to))
          const total = parts.reduce(
            (sum, { from, to, bytesPerSecond }) => sum + (bytesPerSecond * (to - from)) / fps,
            0,
          )
          expect(total).toBeCloseTo(
            loop.reduce((sum, size) => sum + size, 0),
            3,
          )
        },
      ),
      { seed: 71, numRuns: 120 },
    )
  })
  it('names the frames that cost most, the first of equals first', () =>
    expect(costliestFrames(sizes, 3)).toEqual([
      { k: 0, bytes: 900 },
      { k: 4, bytes: 300 },
      { k: 5, bytes: 300 },
    ]))
})

describe('the table of engines', () => {
  it('keeps its own schema, and every word in it has a source', () => {
    expect(supportSchema.safeParse(SUPPORT).success).toBe(true)
    const sources = new Set(SUPPORT.sources.map(({ id }) => id))
    for (const { plays } of SUPPORT.formats)
      for (const { source, engine } of plays)
        expect([sources.has(source), SUPPORT.engines.some(({ id }) => id === engine)]).toEqual([
          true,
          true,
        ])
  })
  it('has a JSON Schema in docs/ that is up to date', () => {
    const kept = JSON.parse(
      readFileSync(new URL('../../docs/schema/support.schema.json', import.meta.url), 'utf8'),
    ) as object
    expect(kept).toEqual(JSON.parse(JSON.stringify(supportJsonSchema())))
  })
  it('has one format that all engines play', () =>
    expect(enginesFor(SUPPORT, 'h264', 'mp4').every(({ verdict }) => verdict === 'yes')).toBe(true))
  it('takes engines that it says nothing of for ones that do not play a format', () => {
    const table = {
      ...SUPPORT,
      engines: [...SUPPORT.engines, { id: 'new', name: 'Newcomer', where: 'nowhere yet' }],
    }
    expect(enginesFor(table, 'av1', 'mp4').at(-1)).toEqual({
      engine: 'Newcomer',
      verdict: 'no',
      note: '',
    })
    expect(
      enginesFor({ ...SUPPORT, formats: [] }, 'h264', 'mp4').every(
        ({ verdict }) => verdict === 'no',
      ),
    ).toBe(true)
  })
})
