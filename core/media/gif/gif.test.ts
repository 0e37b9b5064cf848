import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { memorySource } from '../../bytes/ByteSource'
import { seededNumbers } from '../../testing/samples'
import { writeGif, type GifPicture } from '../../testing/writeGif'
import { factsOf } from '../probe'
import { readFile } from '../readMedia'
import { decodeLzw } from './decodeLzw'
import { GifDecoder, interlacedRows } from './GifDecoder'
import { readGif } from './readGif'

const PALETTE = [
  [0, 0, 0],
  [255, 0, 0],
  [0, 255, 0],
  [0, 0, 255],
] as const
const whole = (color: number, delayCs = 5): GifPicture => ({
  width: 4,
  height: 3,
  indexes: new Uint8Array(12).fill(color),
  delayCs,
})
const decoderOf = async (bytes: Uint8Array): Promise<GifDecoder> =>
  new GifDecoder(bytes, await readGif(memorySource(bytes)))
const pixel = (canvas: Uint8ClampedArray, at: number): number[] => [
  ...canvas.subarray(at * 4, at * 4 + 4),
]
const RED = [255, 0, 0, 255]
const GREEN = [0, 255, 0, 255]
const BLUE = [0, 0, 255, 255]
const CLEAR = [0, 0, 0, 0]

describe('reading a GIF', () => {
  it('tells size, frames, delays and how often it plays', async () => {
    const gif = await readGif(memorySource(writeGif(4, 3, PALETTE, [whole(1), whole(2, 12)], 2)))
    expect(gif).toMatchObject({ width: 4, height: 3, plays: 3 })
    expect(gif.frames.map((frame) => frame.delayCs)).toEqual([5, 12])
  })
  it.each([
    [0, 10],
    [1, 10],
    [2, 2],
    [5, 5],
  ])('plays a delay of %i hundredths as %i, as browsers do', async (written, played) => {
    expect(
      (await readGif(memorySource(writeGif(4, 3, PALETTE, [whole(1, written)])))).frames[0]!
        .delayCs,
    ).toBe(played)
  })
  it('plays for ever where the file says 0, and once where it says nothing', async () => {
    expect((await readGif(memorySource(writeGif(4, 3, PALETTE, [whole(1)], 0)))).plays).toBe(0)
    expect((await readGif(memorySource(writeGif(4, 3, PALETTE, [whole(1)], null)))).plays).toBe(1)
  })
  it('keeps the whole frames of a file cut short', async () => {
    const bytes = writeGif(4, 3, PALETTE, [whole(1), whole(2), whole(3)])
    const gif = await readGif(memorySource(bytes.subarray(0, bytes.byteLength - 8)))
    expect(gif.frames).toHaveLength(2)
  })
  it.each([
    ['cut in its head', 9, 'media/truncated'],
    ['cut in its first picture', 60, 'media/truncated'],
  ])('refuses a file %s', async (_, length, code) => {
    const bytes = writeGif(4, 3, PALETTE, [whole(1)]).subarray(0, length)
    await expect(readGif(memorySource(bytes))).rejects.toMatchObject({ code })
  })
  it('refuses a canvas of nothing, one that is far too large, and a picture larger than any canvas', async () => {
    const bytes = writeGif(4, 3, PALETTE, [whole(1)])
    const sized = (at: number, ...values: number[]): Uint8Array => {
      const copy = bytes.slice()
      copy.set(values, at)
      return copy
    }
    await expect(readGif(memorySource(sized(6, 0, 0)))).rejects.toMatchObject({
      code: 'media/bad-value',
    })
    await expect(readGif(memorySource(sized(6, 255, 255, 255, 255)))).rejects.toMatchObject({
      code: 'media/bad-value',
    })
    const picture = bytes.indexOf(0x2c, 13 + 12)
    await expect(
      readGif(memorySource(sized(picture + 5, 255, 255, 255, 255))),
    ).rejects.toMatchObject({ code: 'media/bad-value' })
  })
  it('counts as footage when it moves, as an image when it does not', async () => {
    const moving = await readFile(memorySource(writeGif(4, 3, PALETTE, [whole(1), whole(2, 15)])))
    if (!moving.ok || moving.value.kind !== 'clip') throw new Error('not read as a clip')
    expect(factsOf(moving.value.file)).toMatchObject({
      container: 'gif',
      durationMs: 200,
      video: { frameCount: 2, displayWidth: 4, codecName: 'GIF' },
    })
    const image = await readFile(memorySource(writeGif(4, 3, PALETTE, [whole(1)])))
    expect(image).toMatchObject({
      ok: true,
      value: { kind: 'image', image: { format: 'gif', width: 4, height: 3 } },
    })
  })
})

describe('unpacking its codes', () => {
  it('gives back what was packed, whatever the pictures (seed 3)', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.integer({ min: 1, max: 40 }),
        fc.integer({ min: 1, max: 40 }),
        fc.integer(),
        fc.constantFrom(2, 4, 16, 256),
        async (width, height, seed, colours) => {
          const random = seededNumbers(seed)
          const indexes = Uint8Array.from({ length: width * height }, () =>
            Math.floor(random() * colours),
          )
          const palette = Array.from(
            { length: colours },
            (_, index) => [index, 255 - index, index] as const,
          )
          const canvas = (
            await decoderOf(
              writeGif(width, height, palette, [{ width, height, indexes, delayCs: 5 }]),
            )
          ).frame(0)
          for (let at = 0; at < indexes.length; at++) expect(canvas[at * 4]).toBe(indexes[at])
        },
      ),
      { seed: 3, numRuns: 60 },
    )
  })
  it('goes on behind a full table of codes', async () => {
    const random = seededNumbers(8)
    const indexes = Uint8Array.from({ length: 300 * 200 }, () => Math.floor(random() * 256))
    const palette = Array.from({ length: 256 }, (_, index) => [index, 0, 0] as const)
    const canvas = (
      await decoderOf(
        writeGif(300, 200, palette, [{ width: 300, height: 200, indexes, delayCs: 5 }]),
      )
    ).frame(0)
    expect(indexes.every((index, at) => canvas[at * 4] === index)).toBe(true)
  })
  it.each([[[0]], [[12, 1, 0]], [[2, 3, 255, 255, 255, 0]], [[8, 255, 1]], [[]]])(
    'ends early on damage rather than fail: %j',
    (blocks) => {
      const { indexes, filled } = decodeLzw(Uint8Array.from(blocks), 50)
      expect(indexes).toHaveLength(50)
      expect(filled).toBeLessThanOrEqual(50)
    },
  )
})

describe('drawing its frames', () => {
  const corner = (color: number, disposal: 0 | 1 | 2 | 3, transparent?: number): GifPicture => ({
    x: 0,
    y: 0,
    width: 2,
    height: 1,
    indexes: Uint8Array.from([color, color === 1 ? 1 : 3]),
    delayCs: 5,
    disposal,
    ...(transparent === undefined ? {} : { transparent }),
  })
  it('leaves, clears or puts back what a frame drew, as its disposal says', async () => {
    const after = async (disposal: 1 | 2 | 3): Promise<number[]> =>
      pixel(
        (
          await decoderOf(
            writeGif(4, 3, PALETTE, [
              whole(2),
              { ...corner(1, disposal) },
              { ...whole(3), width: 1, height: 1, x: 3, y: 2, indexes: Uint8Array.from([3]) },
            ]),
          )
        ).frame(2),
        0,
      )
    expect(await after(1)).toEqual(RED)
    expect(await after(2)).toEqual(CLEAR)
    expect(await after(3)).toEqual(GREEN)
  })
  it('lets the picture below show through its transparent colour', async () => {
    const canvas = (
      await decoderOf(writeGif(4, 3, PALETTE, [whole(2), { ...corner(3, 1, 3) }]))
    ).frame(1)
    expect(pixel(canvas, 0)).toEqual(GREEN)
  })
  it('gives the same picture in whatever order frames are asked for', async () => {
    const decoder = await decoderOf(writeGif(4, 3, PALETTE, [whole(2), corner(1, 1), whole(3)]))
    const forward = [0, 1, 2].map((number) => [...decoder.frame(number)])
    expect([2, 0, 1].map((number) => [...decoder.frame(number)])).toEqual([
      forward[2],
      forward[0],
      forward[1],
    ])
    expect(pixel(decoder.frame(2), 5)).toEqual(BLUE)
  })
  it('cuts a frame that reaches over the canvas', async () => {
    const wide = {
      x: 3,
      y: 2,
      width: 4,
      height: 4,
      indexes: new Uint8Array(16).fill(1),
      delayCs: 5,
    }
    const canvas = (await decoderOf(writeGif(4, 3, PALETTE, [whole(2), wide]))).frame(1)
    expect([pixel(canvas, 11), pixel(canvas, 10), canvas.length]).toEqual([RED, GREEN, 48])
  })
  it('has no frame beyond its last', async () => {
    const decoder = await decoderOf(writeGif(4, 3, PALETTE, [whole(2)]))
    expect(() => decoder.frame(1)).toThrow(RangeError)
  })
  it('stores interlaced rows in four passes', () => {
    expect(interlacedRows(10)).toEqual([0, 8, 4, 2, 6, 1, 3, 5, 7, 9])
    expect([...interlacedRows(37)].sort((a, b) => a - b)).toEqual(
      Array.from({ length: 37 }, (_, row) => row),
    )
  })
})
