import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { memorySource } from '../bytes/ByteSource'
import { inventTrack } from '../testing/samples'
import { foldRepeats } from './foldRepeats'
import { parseBoxes } from './isobmff/boxTree'
import { writeMp4 } from './isobmff/writeMp4'
import { presentationOf } from './presentation'
import { factsOf } from './probe'
import { readMedia } from './readMedia'
import { SampleTableBuilder } from './SampleTableBuilder'
import { withPlainIndex } from './withPlainIndex'

async function read(bytes: Uint8Array) {
  const result = await readMedia(memorySource(bytes))
  if (!result.ok) throw result.error
  return result.value
}

describe('an index that plays a loop over and over', () => {
  const track = inventTrack('h264', 48, [0, 30])
  const once = writeMp4(track)
  const often = writeMp4(track, null, 23)
  it('lets the data stand once: the file grows by its index alone', () => {
    const data = (bytes: Uint8Array): number =>
      parseBoxes(bytes, 0).find((box) => box.type === 'mdat')!.payload.byteLength
    expect(data(often)).toBe(data(once))
    // Four bytes for each frame listed, and four for each chunk and key frame.
    expect(often.byteLength - once.byteLength).toBe(22 * (48 * 4 + 4 + 2 * 4))
  })
  it('is read as one loop that is played 23 times', async () => {
    const [plain, repeated] = [factsOf(await read(once)), factsOf(await read(often))]
    expect(repeated.video).toMatchObject({
      repeats: 23,
      frameCount: 48,
      durationTicks: plain.video.durationTicks,
      bytesPerSecond: plain.video.bytesPerSecond,
    })
    expect(repeated.durationMs).toBe(plain.durationMs)
    expect(plain.video.repeats).toBe(1)
  })
  it('leads to the same bytes of every frame', async () => {
    const [plain, repeated] = [await read(once), await read(often)]
    const frames = (bytes: Uint8Array, { video: { samples } }: typeof plain): Uint8Array[] =>
      Array.from({ length: samples.count }, (_, at) =>
        bytes.slice(samples.offsets[at], samples.offsets[at]! + samples.sizes[at]!),
      )
    expect(frames(often, repeated)).toEqual(frames(once, plain))
    expect(presentationOf(repeated.video)).toEqual(presentationOf(plain.video))
    expect(repeated.video.samples.keys).toEqual(plain.video.samples.keys)
  })
  it('tells players a length of all turns together', () => {
    const mvhd = parseBoxes(often, 0)
      .find((box) => box.type === 'moov')!
      .children.find((box) => box.type === 'mvhd')!
    expect(new DataView(mvhd.payload.buffer, mvhd.payload.byteOffset).getUint32(16)).toBe(
      Math.round((48 * 23 * 1001 * 1000) / 24000),
    )
  })
})

describe('folding repeated samples', () => {
  const table = (offsets: readonly number[]) => {
    const builder = new SampleTableBuilder()
    offsets.forEach((offset, index) => builder.add(offset, 10, index * 40, 40, index === 0))
    return builder.finish()
  }
  it.each([
    ['samples that all differ', [0, 10, 20, 30]],
    ['one picture held', [0, 0, 0, 0]],
    ['a turn that breaks off', [0, 10, 20, 0, 10]],
    ['one frame that comes again', [0, 10, 0, 30]],
    ['a single sample', [5]],
  ])('leaves %s alone', (_, offsets) => {
    expect(foldRepeats(table(offsets)).repeats).toBe(1)
  })
  it('finds the number of turns, whatever it is (seed 14)', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 2, max: 40 }),
        fc.integer({ min: 2, max: 12 }),
        (length, turns) => {
          const folded = foldRepeats(
            table(Array.from({ length: length * turns }, (_, index) => (index % length) * 10)),
          )
          expect([folded.repeats, folded.samples.count]).toEqual([turns, length])
        },
      ),
      { seed: 14 },
    )
  })
})

describe('a plain index', () => {
  it.each(['h264', 'vp9'] as const)(
    'of a clip in %s gives the file that would have been written without repeats',
    async (family) => {
      const track = inventTrack(family, 48, [0, 30])
      expect(await withPlainIndex(writeMp4(track, null, 23))).toEqual(writeMp4(track))
    },
  )
  it('is left as it is where it is one already', async () => {
    const once = writeMp4(inventTrack('h264', 12, [0]))
    expect(await withPlainIndex(once)).toBe(once)
  })
  it('is refused of a file that cannot be read', async () =>
    await expect(withPlainIndex(new Uint8Array(64))).rejects.toThrow(/cannot be read/))
})
