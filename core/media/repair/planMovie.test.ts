import { describe, expect, it } from 'vitest'
import fc from 'fast-check'
import { memorySource } from '../../bytes/ByteSource'
import { findBox, parseBoxes, readBox, type Box } from '../isobmff/boxTree'
import { BOXES } from '../isobmff/boxes/registry'
import { readSampleTable } from '../isobmff/readSampleTable'
import { IDENTITY_MATRIX, writePictureTrakOf } from '../isobmff/writeMp4'
import type { SampleTable, VideoTrack } from '../MediaFile'
import { inventTrack, seededNumbers } from '../../testing/samples'
import { cutPicture, cutSound } from './cutSamples'
import { lengthOf, type Piece } from './RepairPlan'
import { planMovie, type MovieTrack } from './planMovie'

const FTYP = Uint8Array.from([0, 0, 0, 12, 0x66, 0x74, 0x79, 0x70, 0x69, 0x73, 0x6f, 0x6d])
const [TRAK] = parseBoxes(
  writePictureTrakOf(inventTrack('h264', 1), 1000, { horizontal: 1, vertical: 1 }, 0),
  0,
)

/** A table of samples that lie where they are said to; there need not be any bytes behind it. */
function table(
  rows: readonly {
    offset: number
    size: number
    time?: number
    duration?: number
    key?: boolean
  }[],
): SampleTable {
  return {
    count: rows.length,
    offsets: Float64Array.from(rows, (row) => row.offset),
    sizes: Float64Array.from(rows, (row) => row.size),
    times: Float64Array.from(rows, (row, index) => row.time ?? index * 40),
    durations: Float64Array.from(rows, (row) => row.duration ?? 40),
    keys: Uint8Array.from(rows, (row) => (row.key === false ? 0 : 1)),
  }
}
const track = (samples: SampleTable, sound = false): MovieTrack => ({
  trak: TRAK!,
  samples,
  first: 0,
  end: samples.count,
  timescale: 1000,
  sound,
  shownStart: 0,
  shownEnd: samples.count * 40,
})
const plan = (tracks: readonly MovieTrack[]): { pieces: Piece[]; bytes: number } =>
  planMovie({
    ftyp: FTYP,
    timescale: 1000,
    matrix: IDENTITY_MATRIX,
    creationTime: 0,
    tracks,
    extras: [],
    strip: true,
  })
const moovOf = (pieces: readonly Piece[]): Box =>
  parseBoxes((pieces[1] as { bytes: Uint8Array }).bytes, FTYP.byteLength)[0]!
const stbls = (pieces: readonly Piece[]): Box[] =>
  moovOf(pieces)
    .children.filter((box) => box.type === 'trak')
    .map((trak) => findBox(trak.children, 'mdia/minf/stbl')!)

describe('a movie made of ranges', () => {
  it('has its index before its data, and ranges in the order of the old file', () => {
    const { pieces, bytes } = plan([
      track(
        table([
          { offset: 100, size: 10 },
          { offset: 130, size: 5 },
        ]),
      ),
      track(
        table([
          { offset: 110, size: 20 },
          { offset: 135, size: 7 },
        ]),
        true,
      ),
    ])
    expect(pieces.slice(3)).toEqual([{ offset: 100, length: 42 }])
    expect(bytes).toBe(lengthOf(pieces))
  })

  it('leads every sample back to its own bytes, however tracks are interleaved (seed 4)', () => {
    fc.assert(
      fc.property(
        fc.integer(),
        fc.integer({ min: 1, max: 40 }),
        fc.integer({ min: 1, max: 40 }),
        (seed, first, second) => {
          const random = seededNumbers(seed)
          const rows: { offset: number; size: number }[][] = [[], []]
          let offset = 50
          while (rows[0]!.length < first || rows[1]!.length < second) {
            const into =
              rows[0]!.length < first && (rows[1]!.length >= second || random() < 0.5) ? 0 : 1
            const size = 1 + Math.floor(random() * 30)
            rows[into]!.push({ offset, size })
            offset += size + (random() < 0.3 ? Math.floor(random() * 9) : 0)
          }
          const { pieces } = plan(rows.map((row) => track(table(row))))
          // What the new file's offsets mean in the old one: walk the pieces.
          const whole = lengthOf(pieces)
          const oldOffset = (place: number): number => {
            let at = 0
            for (const piece of pieces) {
              const length = 'bytes' in piece ? piece.bytes.byteLength : piece.length
              if (place < at + length) return 'bytes' in piece ? -1 : piece.offset + place - at
              at += length
            }
            return -1
          }
          stbls(pieces).forEach((stbl, index) => {
            const read = readSampleTable(stbl, whole).finish()
            expect(read.count).toBe(rows[index]!.length)
            rows[index]!.forEach((row, sample) => {
              expect([oldOffset(read.offsets[sample]!), read.sizes[sample]]).toEqual([
                row.offset,
                row.size,
              ])
            })
          })
        },
      ),
      { seed: 4, numRuns: 60 },
    )
  })

  it('takes 64-bit offsets and a 64-bit size where the data are larger than 32 bits tell', () => {
    const large = table(
      Array.from({ length: 6 }, (_, index) => ({
        offset: 1000 + index * 900_000_000,
        size: 900_000_000,
      })),
    )
    const { pieces, bytes } = plan([track(large)])
    expect(bytes).toBeGreaterThan(2 ** 32)
    const [stbl] = stbls(pieces)
    expect([findBox(stbl!.children, 'stco'), findBox(stbl!.children, 'co64')?.type]).toEqual([
      null,
      'co64',
    ])
    const head = (pieces[2] as { bytes: Uint8Array }).bytes
    expect(Number(new DataView(head.buffer).getBigUint64(8))).toBe(6 * 900_000_000 + 16)
    expect(readSampleTable(stbl!, bytes).count).toBe(6)
  })

  it('keeps presentation times that run against decoding order', () => {
    const times = [0, 120, 40, 80, 240, 160, 200]
    const { pieces, bytes } = plan([
      track(table(times.map((time, index) => ({ offset: 100 + index * 10, size: 10, time })))),
    ])
    const [stbl] = stbls(pieces)
    const read = readSampleTable(stbl!, bytes).finish()
    const shift = read.times[0]! - times[0]!
    expect([...read.times].map((time) => time - shift)).toEqual(times)
    expect([...read.times].every((time, index) => time >= index * 40)).toBe(true)
  })

  it('writes one size once, key frames only where some are none, and the edit that hides the start', () => {
    const { pieces } = plan([
      {
        ...track(
          table([
            { offset: 0, size: 8 },
            { offset: 8, size: 8, key: false },
            { offset: 16, size: 8, key: false },
          ]),
        ),
        shownStart: 40,
      },
      track(
        table([
          { offset: 24, size: 8 },
          { offset: 32, size: 8 },
        ]),
        true,
      ),
    ])
    const [picture, sound] = stbls(pieces)
    expect(readBox(BOXES.stsz, findBox(picture!.children, 'stsz')!).sizes).toEqual({
      shared: 8,
      count: 3,
    })
    expect([
      readBox(BOXES.stss, findBox(picture!.children, 'stss')!).sampleNumbers,
      findBox(sound!.children, 'stss'),
    ]).toEqual([[1], null])
    const edits = moovOf(pieces)
      .children.filter((box) => box.type === 'trak')
      .map(
        (trak) => readBox(BOXES.elst, findBox(trak.children, 'edts/elst')!).entries[0]!.mediaTime,
      )
    expect(edits).toEqual([40, 0])
  })
})

describe('choosing samples', () => {
  const video = (
    keys: readonly number[],
    times: readonly number[] = Array.from({ length: 20 }, (_, index) => index * 40),
  ): VideoTrack => ({
    codec: { family: 'other', codec: 'x', name: 'x', description: null, stream: null },
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
    alpha: null,
    samples: table(
      times.map((time, index) => ({
        offset: index * 10,
        size: 10,
        time,
        key: keys.includes(index),
      })),
    ),
    repeats: 1,
    shownStart: 0,
    shownEnd: 800,
  })
  const source = memorySource(new Uint8Array(200))
  it.each([
    [[0, 10], 500, null, { first: 10, end: 20, shownStart: 400, shownEnd: 800 }],
    [[0, 10], 399, 600, { first: 0, end: 15, shownStart: 0, shownEnd: 600 }],
    [[0, 10], null, 601, { first: 0, end: 16, shownStart: 0, shownEnd: 640 }],
    [[0, 10], 400, 401, { first: 10, end: 11, shownStart: 400, shownEnd: 440 }],
    [[0], 700, null, { first: 0, end: 20, shownStart: 0, shownEnd: 800 }],
  ] as const)('with keys at %j from %s to %s', async (keys, start, end, expected) =>
    expect(await cutPicture(source, video(keys), start, end)).toEqual(expected),
  )
  it.each([
    [900, null],
    [300, 300],
    [500, 100],
  ])('finds nothing from %i to %s', async (start, end) => {
    await expect(cutPicture(source, video([0]), start, end)).rejects.toThrow(RangeError)
  })
  it('keeps what is decoded later but shown before the end', async () => {
    const shuffled = [0, 120, 40, 80, 240, 160, 200]
    expect(await cutPicture(source, video([0], shuffled), null, 130)).toMatchObject({
      first: 0,
      end: 4,
    })
  })
  it.each([
    [0, 800, 0, 20],
    [100, 200, 2, 5],
    [790, 900, 19, 20],
    [900, 1000, 20, 20],
  ])('sound from %i to %i is samples %i to %i', (from, to, first, end) => {
    expect(cutSound(video([0]).samples, from, to)).toEqual({ first, end })
  })
})
