import { readFile } from 'node:fs/promises'
import { describe, expect, it } from 'vitest'
import { countingSource, memorySource } from '../bytes/ByteSource'
import {
  firstFrameAt,
  fragmented,
  join,
  readerOf,
  rebuild,
  replaceStbl,
  withEdits,
  withSampleEntry,
} from '../testing/movies'
import { inventTrack, seededNumbers, VP9_KEY } from '../testing/samples'
import { writeAlphaWebm } from '../testing/writeAlphaWebm'
import { writeGif } from '../testing/writeGif'
import { ContainerError } from '../bytes/ContainerError'
import { describeContainerError } from './describeContainerError'
import type { AlphaSamples, MediaFile } from './MediaFile'
import { wrapBox, writeBox, parseBoxes } from './isobmff/boxTree'
import { BOXES } from './isobmff/boxes/registry'
import { writeMp4 } from './isobmff/writeMp4'
import { binary, unsigned, writeWebm } from './matroska/writeWebm'
import { presentationOf } from './presentation'
import { factsOf, probe } from './probe'
import { readMedia } from './readMedia'

const demo = async (name: string): Promise<Uint8Array> =>
  new Uint8Array(await readFile(new URL(`../../demo/files/${name}`, import.meta.url)))

async function read(bytes: Uint8Array): Promise<MediaFile> {
  const result = await readMedia(memorySource(bytes))
  if (!result.ok) throw result.error
  return result.value
}

async function codeOf(bytes: Uint8Array): Promise<string> {
  const result = await readMedia(memorySource(bytes))
  return result.ok ? 'ok' : result.error.code
}

describe('reading real files', () => {
  it.each([
    [
      'dusk-window.mov',
      { container: 'mov', durationMs: 14000, audio: true, indexFirst: true },
      { family: 'h264', displayWidth: 1920, displayHeight: 1080, averageFps: 24, frameCount: 336 },
    ],
    [
      'aurora-fjord.webm',
      { container: 'webm', durationMs: 12000, audio: false, indexFirst: null },
      {
        family: 'vp9',
        codec: 'vp09.00.31.08',
        displayWidth: 1280,
        averageFps: 25,
        frameCount: 300,
      },
    ],
    [
      'rain-platform.mp4',
      { container: 'mp4', durationMs: 6000, audio: false, indexFirst: true },
      { family: 'h264', averageFps: 30, frameCount: 180 },
    ],
    [
      'viaduct-crossing.mp4',
      { container: 'mp4', durationMs: 9000, audio: false },
      { family: 'h264', displayWidth: 640, displayHeight: 360, frameCount: 225 },
    ],
  ])('tells what %s is', async (name, facts, video) => {
    expect(factsOf(await read(await demo(name)))).toMatchObject({ ...facts, video })
  })

  it('understands an MP4 by its index only', async () => {
    const source = countingSource(memorySource(await demo('rain-platform.mp4')))
    expect((await probe(source)).ok).toBe(true)
    expect(source.counts.bytes).toBeLessThan(source.size / 200)
  })

  it('gives byte ranges that follow each other and end with the file', async () => {
    const bytes = await demo('viaduct-crossing.mp4')
    const { samples } = (await read(bytes)).video
    for (let index = 1; index < samples.count; index++)
      expect(samples.offsets[index]).toBe(samples.offsets[index - 1]! + samples.sizes[index - 1]!)
    expect(samples.offsets[samples.count - 1]! + samples.sizes[samples.count - 1]!).toBe(
      bytes.byteLength,
    )
  })
})

describe('what is written can be read', () => {
  it.each(['h264', 'vp9'] as const)('gives back every frame of an MP4 with %s', async (family) => {
    const track = inventTrack(family, 50, [0, 24])
    const bytes = writeMp4(track)
    const { video, indexFirst, audio } = await read(bytes)
    expect({ indexFirst, audio, timescale: video.timescale, width: video.displayWidth }).toEqual({
      indexFirst: true,
      audio: false,
      timescale: 24000,
      width: 320,
    })
    expect([...video.samples.keys].flatMap((key, index) => (key ? [index] : []))).toEqual([0, 24])
    track.frames.forEach((frame, index) => {
      const { offsets, sizes, times } = video.samples
      expect(bytes.subarray(offsets[index]!, offsets[index]! + sizes[index]!)).toEqual(frame.data)
      expect(times[index]).toBe(index * 1001)
    })
    expect(video.colour).toEqual(track.colour)
  })

  it('tells depth, chroma and range of VP9 in its configuration, bit by bit', () => {
    const track = inventTrack('vp9', 2)
    const bytes = Buffer.from(writeMp4(track))
    // Behind the type: version and flags (4 bytes), profile, level; then depth, chroma, range.
    const [profile, , packed] = bytes.subarray(bytes.indexOf('vpcC') + 8)
    expect([profile, packed]).toEqual([0, (8 << 4) | (1 << 1) | 0])
  })
  it('gives back every frame of a WebM, across clusters', async () => {
    const track = inventTrack('vp9', 300, [0, 100])
    const bytes = writeWebm(track)
    const { video } = await read(bytes)
    expect(video.samples.count).toBe(300)
    track.frames.forEach((frame, index) => {
      const { offsets, sizes, times } = video.samples
      expect(bytes.subarray(offsets[index]!, offsets[index]! + sizes[index]!)).toEqual(frame.data)
      expect(times[index]).toBe(Math.round((index * 1001) / 24))
    })
    expect([...video.samples.keys].reduce((sum, key) => sum + key, 0)).toBe(2)
  })

  it('refuses H.264 in WebM and files without frames', () => {
    expect(() => writeWebm(inventTrack('h264', 2))).toThrow(RangeError)
    expect(() => writeMp4({ ...inventTrack('h264', 1), frames: [] })).toThrow(RangeError)
  })

  it('keeps a sound track apart from the picture', async () => {
    const file = await read(
      writeMp4(inventTrack('h264', 10), {
        channels: 1,
        sampleRate: 8000,
        pcm: new Uint8Array(1600),
      }),
    )
    expect(file.audio).toBe(true)
    expect(file.video.samples.count).toBe(10)
  })
})

describe('what ordinary files do', () => {
  const track = inventTrack('h264', 20)
  const plain = writeMp4(track)

  it('finds the index at the end', async () => {
    const [ftyp, moov, mdat] = parseBoxes(plain, 0)
    const shift = -(moov!.payload.byteLength + 8)
    const moved = rebuild(join(wrapBox('moov', moov!.payload)), (box) =>
      box.type === 'stco'
        ? writeBox('stco', BOXES.stco, {
            version: 0,
            flags: 0,
            offsets: BOXES.stco.read(readerOf(box), {}).offsets.map((offset) => offset + shift),
          })
        : null,
    )
    const file = await read(
      join(wrapBox('ftyp', ftyp!.payload), wrapBox('mdat', mdat!.payload), moved),
    )
    expect(file.indexFirst).toBe(false)
    expect(file.video.samples.count).toBe(20)
  })

  it('honours an edit list that trims the start', async () => {
    const edits = writeBox('elst', BOXES.elst, {
      version: 0,
      flags: 0,
      entries: [{ segmentDuration: 500, mediaTime: 2002, rateInteger: 1, rateFraction: 0 }],
    })
    const bytes = withEdits(plain, wrapBox('edts', edits))
    const { video } = await read(bytes)
    const shown = presentationOf(video)
    expect(shown.times[0]).toBe(0)
    // 500 ms of 24000/1001 frames: twelve, the last of them cut short.
    expect(shown.order).toEqual(Array.from({ length: 12 }, (_, index) => index + 2))
  })

  it('ignores an empty edit that delays the start', async () => {
    const edits = writeBox('elst', BOXES.elst, {
      version: 0,
      flags: 0,
      entries: [
        { segmentDuration: 40, mediaTime: -1, rateInteger: 1, rateFraction: 0 },
        { segmentDuration: 834, mediaTime: 0, rateInteger: 1, rateFraction: 0 },
      ],
    })
    expect(
      presentationOf((await read(withEdits(plain, wrapBox('edts', edits)))).video).times[0],
    ).toBe(0)
  })

  it.each([
    [90, 0, 0x10000, -0x10000, 0],
    [180, -0x10000, 0, 0, -0x10000],
    [270, 0, -0x10000, 0x10000, 0],
  ])('reads a rotation of %i degrees and swaps the sides', async (degrees, a, b, c, d) => {
    const { video } = await read(
      rebuild(plain, (box) =>
        box.type === 'tkhd'
          ? writeBox('tkhd', BOXES.tkhd, {
              ...BOXES.tkhd.read(readerOf(box), {}),
              a: a!,
              b: b!,
              c: c!,
              d: d!,
            })
          : null,
      ),
    )
    expect(video.rotationDeg).toBe(degrees)
    expect([video.displayWidth, video.displayHeight]).toEqual(
      degrees === 180 ? [320, 180] : [180, 320],
    )
  })

  it('orders frames by composition time', async () => {
    const offsets = Array.from({ length: 20 }, (_, index) => ({
      count: 1,
      offset: (index === 0 ? 1 : index % 2 === 1 ? 2 : 0) * 1001,
    }))
    const bytes = replaceStbl(
      plain,
      writeBox('ctts', BOXES.ctts, { version: 0, flags: 0, runs: offsets }),
    )
    expect(presentationOf((await read(bytes)).video).order.slice(0, 5)).toEqual([0, 2, 1, 4, 3])
  })

  it('reads movie fragments', async () => {
    const file = fragmented(track.frames.map((frame) => frame.data))
    const { video } = await read(file)
    expect(video.samples.count).toBe(20)
    expect([...video.samples.times].slice(0, 3)).toEqual([0, 1001, 2002])
    expect(
      file.subarray(video.samples.offsets[7]!, video.samples.offsets[7]! + video.samples.sizes[7]!),
    ).toEqual(track.frames[7]!.data)
  })

  it('reads clusters of unknown size and block groups', async () => {
    const block = (relative: number, key: boolean): Uint8Array =>
      binary(
        'BlockGroup',
        binary('Block', Uint8Array.from([0x81, relative >> 8, relative & 255, 0, ...VP9_KEY])),
        ...(key ? [] : [binary('ReferenceBlock', Uint8Array.from([1]))]),
      )
    const unknown = (id: number[], ...parts: Uint8Array[]): Uint8Array =>
      join(Uint8Array.from([...id, 0x01, 255, 255, 255, 255, 255, 255, 255]), ...parts)
    const tracks = binary(
      'Tracks',
      binary(
        'TrackEntry',
        unsigned('TrackNumber', 1),
        unsigned('TrackType', 1),
        binary('CodecID', new TextEncoder().encode('V_VP9')),
        binary('Video', unsigned('PixelWidth', 320), unsigned('PixelHeight', 180)),
      ),
    )
    const clusters = [0, 80].map((time) =>
      unknown(
        [0x1f, 0x43, 0xb6, 0x75],
        unsigned('Timestamp', time),
        block(0, true),
        block(40, false),
      ),
    )
    const { video, container } = await read(
      join(
        binary('EBML', binary('DocType', new TextEncoder().encode('matroska'))),
        unknown([0x18, 0x53, 0x80, 0x67], tracks, ...clusters),
      ),
    )
    expect(container).toBe('mkv')
    expect([...video.samples.times]).toEqual([0, 40, 80, 120])
    expect([...video.samples.keys]).toEqual([1, 0, 1, 0])
  })
})

describe('transparency', () => {
  const track = inventTrack('vp9', 6)
  const alphas = track.frames.map((_, index) => Uint8Array.from([7, 8, index]))
  it('of a WebM is a second picture for each frame', async () => {
    const bytes = writeAlphaWebm(track, [...alphas.slice(0, 4), null, alphas[5]!])
    const { video } = await read(bytes)
    expect(video.samples.count).toBe(6)
    const { offsets, sizes } = video.alpha as AlphaSamples
    expect([...sizes]).toEqual([3, 3, 3, 3, 0, 3])
    for (const sample of [0, 1, 2, 3, 5])
      expect([...bytes.subarray(offsets[sample]!, offsets[sample]! + 3)]).toEqual([7, 8, sample])
    expect(factsOf(await read(bytes)).video.alpha).toBe(true)
  })
  it('is not assumed where the track does not say so', async () => {
    const bytes = writeAlphaWebm(track, alphas)
    // AlphaMode (0x53c0, always eight bytes here) set to 0.
    const flag = bytes.findIndex((byte, at) => byte === 0x53 && bytes[at + 1] === 0xc0) + 2
    const [size] = bytes.subarray(flag)
    expect(size! & 0x7f).toBeLessThan(9)
    bytes[bytes.indexOf(1, flag + 1)] = 0
    expect((await read(bytes)).video.alpha).toBeNull()
  })
  it.each([
    ['a first picture that leaves parts out', 1, 0, true],
    ['a picture that covers everything', 1, undefined, false],
    ['an emptied canvas', 2, 0, true],
  ] as const)('of a GIF: %s', async (_, disposal, transparent, alpha) => {
    const indexes = new Uint8Array(16)
    const picture = { width: 4, height: 4, indexes, delayCs: 5, disposal }
    const palette = [
      [0, 0, 0],
      [255, 255, 255],
    ] as const
    const extra = transparent === undefined ? {} : { transparent }
    const bytes = writeGif(4, 4, palette, [{ ...picture, ...extra }, picture])
    expect((await read(bytes)).video.alpha !== null).toBe(alpha)
  })
  it('in later pictures of a GIF means "as before", not transparent', async () => {
    const picture = { width: 4, height: 4, indexes: new Uint8Array(16), delayCs: 5 }
    const palette = [
      [0, 0, 0],
      [255, 255, 255],
    ] as const
    const bytes = writeGif(4, 4, palette, [picture, { ...picture, transparent: 0 }])
    expect((await read(bytes)).video.alpha).toBeNull()
  })
})

describe('files that cannot be used', () => {
  const plain = writeMp4(inventTrack('h264', 20))
  const text = (value: string): Uint8Array => new TextEncoder().encode(value)
  it.each([
    ['an empty file', new Uint8Array(0), 'media/empty'],
    ['a text file', text('hello, this is no video at all'), 'media/unknown-format'],
    ['a GIF without colours', text('GIF89a..........'), 'media/bad-value'],
    [
      'a JPEG whose segment is shorter than its length',
      Uint8Array.from([0xff, 0xd8, 0xff, 0xe0, 0, 0, 0, 0, 0, 0, 0, 0]),
      'media/bad-size',
    ],
    [
      'an AVIF image without items',
      join(Uint8Array.from([0, 0, 0, 16]), text('ftypavif'), new Uint8Array(8)),
      'media/index-missing',
    ],
    [
      'a HEIC image',
      join(Uint8Array.from([0, 0, 0, 16]), text('ftypheic'), new Uint8Array(8)),
      'media/image-unsupported',
    ],
    ['a TIFF image', join(text('II*\0'), new Uint8Array(20)), 'media/image-unsupported'],
    [
      'an MP4 without index',
      join(wrapBox('ftyp', text('isom0000')), wrapBox('mdat', new Uint8Array(20))),
      'media/index-missing',
    ],
    ['an MP4 cut in its index', plain.subarray(0, 200), 'media/truncated'],
    [
      'an MP4 cut before its first frame ends',
      plain.subarray(0, firstFrameAt(plain) + 2),
      'media/truncated',
    ],
    [
      'a track whose size is nothing',
      rebuild(plain, (box) =>
        box.type === 'stsd'
          ? wrapBox(
              'stsd',
              box.payload.map((byte, at) => (at >= 40 && at < 44 ? 0 : byte)),
            )
          : null,
      ),
      'media/bad-value',
    ],
    [
      'a box larger than its parent',
      join(
        wrapBox('ftyp', text('isom0000')),
        wrapBox('moov', Uint8Array.from([0, 0, 0, 200]), text('mvhd'), new Uint8Array(40)),
      ),
      'media/bad-size',
    ],
    [
      'a timescale of nothing',
      rebuild(plain, (box) =>
        box.type === 'mdhd'
          ? writeBox('mdhd', BOXES.mdhd, { ...BOXES.mdhd.read(readerOf(box), {}), timescale: 0 })
          : null,
      ),
      'media/bad-value',
    ],
    [
      'an MP4 with sound only',
      rebuild(plain, (box) =>
        box.type === 'hdlr'
          ? writeBox('hdlr', BOXES.hdlr, {
              ...BOXES.hdlr.read(readerOf(box), {}),
              handlerType: 'soun',
            })
          : null,
      ),
      'media/no-video',
    ],
    [
      'an encrypted track',
      rebuild(plain, (box) =>
        box.type === 'stsd'
          ? wrapBox(
              'stsd',
              box.payload.map(
                (byte, at) => [...'encv'].map((c) => c.charCodeAt(0))[at - 12] ?? byte,
              ),
            )
          : null,
      ),
      'media/encrypted',
    ],
    ['a WebM without tracks', binary('EBML', binary('DocType', text('webm'))), 'media/truncated'],
  ])('tells of %s', async (_, bytes, code) => {
    expect(await codeOf(bytes)).toBe(code)
  })

  it('names a codec it cannot decode, and says what to export instead', async () => {
    const prores = rebuild(plain, (box) =>
      box.type === 'stsd'
        ? wrapBox(
            'stsd',
            box.payload.map((byte, at) => [...'apch'].map((c) => c.charCodeAt(0))[at - 12] ?? byte),
          )
        : null,
    )
    expect((await read(prores)).video.codec).toMatchObject({
      family: 'other',
      name: 'ProRes 422 HQ',
    })
    const error = new ContainerError('media/codec-unsupported', { subject: 'ProRes 422 HQ' })
    expect(describeContainerError(error)).toMatch(/ProRes 422 HQ.*H\.264/)
  })

  it.each([
    ['MPEG-2', 0x61],
    ['MPEG-1', 0x6a],
    ['MPEG-4 Part 2', 0x20],
  ])('names %s, which shares its box with others', async (name, objectType) => {
    // Descriptor 3 (size in four bytes, id, flags), in it descriptor 4.
    const esds = wrapBox(
      'esds',
      Uint8Array.from([0, 0, 0, 0, 3, 0x80, 0x80, 0x80, 20, 0, 1, 0, 4, 13, objectType]),
      new Uint8Array(12),
    )
    const bytes = withSampleEntry(plain, 'mp4v', esds)
    expect((await read(bytes)).video.codec).toMatchObject({ family: 'other', name })
  })
})

describe('damaged files', () => {
  /**
   * Bit flips, cuts, and length fields that lie; the seed is fixed, so a failure can be run again.
   */
  function mutate(bytes: Uint8Array, random: () => number): Uint8Array {
    const copy = bytes.slice()
    const hits = 1 + Math.floor(random() * 6)
    for (let hit = 0; hit < hits; hit++) {
      const at = Math.floor(random() * Math.min(copy.byteLength, 1500))
      if (random() < 0.5) copy[at] = copy[at]! ^ (1 << Math.floor(random() * 8))
      else copy.set([0xff, 0xff, 0xff, 0xff].slice(0, Math.min(4, copy.byteLength - at)), at)
    }
    return random() < 0.3 ? copy.subarray(0, Math.floor(random() * copy.byteLength)) : copy
  }

  it.each([
    ['MP4', writeMp4(inventTrack('h264', 40, [0, 20])), 11],
    ['MP4 with VP9', writeMp4(inventTrack('vp9', 40)), 12],
    ['fragmented MP4', fragmented(inventTrack('h264', 30).frames.map((frame) => frame.data)), 13],
    ['WebM', writeWebm(inventTrack('vp9', 60, [0, 30])), 14],
  ])('always end in a value or a coded error: 1500 mutants of an %s', async (_, bytes, seed) => {
    const random = seededNumbers(seed)
    const outcomes = new Set<string>()
    for (let mutant = 0; mutant < 1500; mutant++) {
      const damaged = mutate(bytes, random)
      const outcome = await readMedia(memorySource(damaged)).catch((error: unknown) => {
        throw new Error(`seed ${seed}, mutant ${mutant} threw`, { cause: error })
      })
      if (outcome.ok) {
        const { samples } = outcome.value.video
        for (let index = 0; index < samples.count; index++)
          expect(
            samples.offsets[index]! + samples.sizes[index]!,
            `seed ${seed}, mutant ${mutant}`,
          ).toBeLessThanOrEqual(damaged.byteLength)
        presentationOf(outcome.value.video)
      }
      outcomes.add(outcome.ok ? 'ok' : outcome.error.code)
    }
    // A set of one would mean that the mutants never reached the parser.
    expect(outcomes.size).toBeGreaterThan(2)
  })
})
