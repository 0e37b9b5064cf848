import { describe, expect, it } from 'vitest'
import { memorySource } from '../bytes/ByteSource'
import { join, rebuild, reindex } from '../testing/movies'
import { AVC_RECORD, AV1_KEY, inventTrack, SPS, VP9_DELTA, VP9_KEY } from '../testing/samples'
import { isAv1KeyFrame } from './codecs/av1'
import { describeStream } from './codecs/describeStream'
import { isKeyFrame } from './codecs/isKeyFrame'
import { saneCodecStrings } from './codecs/saneCodecStrings'
import { displaySize, reduceAspect } from './displaySize'
import { wrapBox, writeBox } from './isobmff/boxTree'
import { BOXES } from './isobmff/boxes/registry'
import { writeMp4 } from './isobmff/writeMp4'
import { binary, unsigned, writeWebm } from './matroska/writeWebm'
import type { MediaFile } from './MediaFile'
import { presentationOf } from './presentation'
import { bytesEachSecond, factsOf } from './probe'
import { readMedia } from './readMedia'

/*
 * What real files do to assumptions, each built as such a file. Source: docs/method.md.
 */

async function read(bytes: Uint8Array): Promise<MediaFile> {
  const result = await readMedia(memorySource(bytes))
  if (!result.ok) throw result.error
  return result.value
}
const text = (value: string): Uint8Array<ArrayBuffer> =>
  Uint8Array.from([...value].map((letter) => letter.charCodeAt(0)))
const plain = writeMp4(inventTrack('h264', 20))

describe('MP4 and MOV from elsewhere', () => {
  it('may begin with their sound track', async () => {
    const both = writeMp4(inventTrack('h264', 10), {
      channels: 1,
      sampleRate: 8000,
      pcm: new Uint8Array(1600),
    })
    const swapped = rebuild(both, (box) => {
      if (box.type !== 'moov') return null
      const [mvhd, picture, sound] = box.children
      return wrapBox(
        'moov',
        wrapBox('mvhd', mvhd!.payload),
        wrapBox('trak', sound!.payload),
        wrapBox('trak', picture!.payload),
      )
    })
    expect(await read(swapped)).toMatchObject({
      audio: true,
      audioBytes: 1600,
      video: { samples: { count: 10 } },
    })
  })

  it('may disagree in the length of their tables', async () => {
    const shorter = rebuild(plain, (box) =>
      box.type === 'stts'
        ? writeBox('stts', BOXES.stts, { version: 0, flags: 0, runs: [{ count: 3, delta: 1001 }] })
        : null,
    )
    const { video } = await read(reindex(plain, shorter))
    expect(video.samples.count).toBe(20)
    expect(video.samples.times[19]).toBe(19 * 1001)
    const fewer = rebuild(plain, (box) =>
      box.type === 'stsc'
        ? writeBox('stsc', BOXES.stsc, {
            version: 0,
            flags: 0,
            runs: [{ firstChunk: 1, samplesPerChunk: 7, descriptionIndex: 1 }],
          })
        : null,
    )
    expect((await read(fewer)).video.samples.count).toBe(7)
  })

  it('may give the last frame a strange duration, which the edit list hides', async () => {
    const strange = rebuild(plain, (box) =>
      box.type === 'stts'
        ? writeBox('stts', BOXES.stts, {
            version: 0,
            flags: 0,
            runs: [
              { count: 19, delta: 1001 },
              { count: 1, delta: 240_000 },
            ],
          })
        : null,
    )
    const edits = writeBox('elst', BOXES.elst, {
      version: 0,
      flags: 0,
      entries: [{ segmentDuration: 834, mediaTime: 0, rateInteger: 1, rateFraction: 0 }],
    })
    const grown = rebuild(strange, (box) =>
      box.type === 'trak'
        ? wrapBox(
            'trak',
            ...box.children.map((child) => wrapBox(child.type, child.payload)),
            wrapBox('edts', edits),
          )
        : null,
    )
    const { video } = await read(reindex(plain, grown))
    expect(video.shownEnd - video.shownStart).toBe(Math.round(0.834 * 24_000))
    expect(presentationOf(video).order).toHaveLength(20)
  })

  const withAspect = (horizontal: number, vertical: number): Uint8Array =>
    rebuild(plain, (box) => {
      if (box.type !== 'stsd') return null
      const payload = box.payload.slice()
      const at = payload.findIndex(
        (_, index) => String.fromCharCode(...payload.subarray(index, index + 4)) === 'pasp',
      )
      new DataView(payload.buffer).setUint32(at + 4, horizontal)
      new DataView(payload.buffer).setUint32(at + 8, vertical)
      return wrapBox('stsd', payload)
    })
  it.each([
    [4, 3, 427, { horizontal: 4, vertical: 3 }],
    [65536, 65536, 320, { horizontal: 1, vertical: 1 }],
    [0, 5, 320, { horizontal: 1, vertical: 1 }],
    [100, 1, 320, { horizontal: 1, vertical: 1 }],
  ])(
    'have pixels of %i : %i and are shown %i wide',
    async (horizontal, vertical, width, pixelAspect) => {
      expect((await read(withAspect(horizontal, vertical))).video).toMatchObject({
        displayWidth: width,
        pixelAspect,
      })
    },
  )

  it('show what the container says of a larger picture', async () => {
    // The parameter set codes 640 × 360; the sample entry shows 320 × 180 of it.
    expect((await read(plain)).video).toMatchObject({
      codedWidth: 640,
      codedHeight: 360,
      visibleWidth: 320,
      visibleHeight: 180,
      displayWidth: 320,
    })
  })

  it('are described by their bitstream: profile, level, depth, chroma', async () => {
    expect(factsOf(await read(plain)).video.stream).toEqual({
      profile: 'Baseline',
      level: '3.0',
      bitDepth: 8,
      chroma: '4:2:0',
    })
    expect(factsOf(await read(writeMp4(inventTrack('vp9', 5)))).video).toMatchObject({
      codecName: 'VP9',
      stream: { profile: '0', bitDepth: 8, chroma: '4:2:0' },
    })
  })

  it.each([
    ['\xa9xyz', ['location']],
    ['\xa9mod', ['device']],
    ['\xa9ART', ['author']],
    ['\xa9day', ['date']],
    ['name', []],
  ])('may tell of people and places in user data: %s', async (type, personal) => {
    expect(
      (await read(withMeta(wrapBox('udta', wrapBox(type, text('\x00\x04\x00\x00Here')))))).personal,
    ).toEqual(personal)
  })
  it('may tell of them by keys, whatever their maker’s prefix', async () => {
    const entry = (name: string): Uint8Array =>
      join(Uint8Array.from([0, 0, 0, name.length + 8]), text('mdta'), text(name))
    const keys = wrapBox(
      'keys',
      Uint8Array.from([0, 0, 0, 0, 0, 0, 0, 2]),
      entry('org.invented.location.place'),
      entry('org.invented.creationdate'),
    )
    expect(
      (await read(withMeta(wrapBox('meta', wrapBox('hdlr', new Uint8Array(24)), keys)))).personal,
    ).toEqual(['date', 'location'])
  })
  it('are not refused for damaged metadata', async () => {
    expect(
      (await read(withMeta(wrapBox('udta', Uint8Array.from([0, 0, 1, 0, 1, 2, 3, 4]))))).personal,
    ).toEqual([])
  })

  it('are known by their bytes, whatever their name: a WebM is one', async () => {
    expect((await read(writeWebm(inventTrack('vp9', 5)))).container).toBe('webm')
  })

  it('count bytes each second, and the heaviest', async () => {
    const file = await read(writeMp4(inventTrack('h264', 50)))
    const seconds = bytesEachSecond(file)
    expect(seconds).toHaveLength(3)
    expect(seconds.reduce((sum, bytes) => sum + bytes, 0)).toBe(
      file.video.samples.sizes.reduce((sum, size) => sum + size, 0),
    )
    expect(factsOf(file).video.peakBytesPerSecond).toBe(Math.max(...seconds))
  })
  it('tell how far key frames lie apart', async () => {
    expect(factsOf(await read(writeMp4(inventTrack('h264', 48, [0, 36])))).video.keyEveryMs).toBe(
      Math.round((36 * 1001) / 24),
    )
  })
})

/** A file whose movie box has one more box at its end. */
function withMeta(box: Uint8Array): Uint8Array {
  const grown = rebuild(plain, (each) =>
    each.type === 'moov'
      ? wrapBox('moov', ...each.children.map((child) => wrapBox(child.type, child.payload)), box)
      : null,
  )
  return reindex(plain, grown)
}

describe('WebM and MKV from elsewhere', () => {
  const video = (...more: Uint8Array[]): Uint8Array =>
    binary(
      'Tracks',
      binary(
        'TrackEntry',
        unsigned('TrackNumber', 1),
        unsigned('TrackType', 1),
        binary('CodecID', text('V_VP9')),
        ...more,
        binary('Video', unsigned('PixelWidth', 320), unsigned('PixelHeight', 180)),
      ),
    )
  const file = (tracks: Uint8Array, ...rest: Uint8Array[]): Uint8Array =>
    join(binary('EBML', binary('DocType', text('webm'))), binary('Segment', tracks, ...rest))
  const block = (relative: number, flags: number, ...body: Uint8Array[]): Uint8Array =>
    binary(
      'SimpleBlock',
      Uint8Array.from([0x81, (relative >> 8) & 255, relative & 255, flags]),
      ...body,
    )
  const cluster = (time: number, ...blocks: Uint8Array[]): Uint8Array =>
    binary('Cluster', unsigned('Timestamp', time), ...blocks)
  const frame = (bytes: number): Uint8Array =>
    join(VP9_KEY, new Uint8Array(bytes - VP9_KEY.byteLength).fill(7))

  it('may have block times before zero, and no cues', async () => {
    const { video: track } = await read(
      file(
        video(),
        cluster(0, block(-33, 0x80, VP9_KEY), block(0, 0, VP9_DELTA), block(33, 0, VP9_DELTA)),
      ),
    )
    expect([...track.samples.times]).toEqual([-33, 0, 33])
    expect(presentationOf(track).times[0]).toBe(0)
  })

  const sizes = [20, 30, 40]
  const frames = sizes.map(frame)
  it.each([
    ['Xiph', 0x82, Uint8Array.from([2, 20, 30])],
    ['EBML', 0x86, Uint8Array.from([2, 0x80 | 20, 0x80 | (10 + 63)])],
  ])('may lace frames into one block, %s', async (_, flags, lengths) => {
    const { video: track } = await read(
      file(
        video(unsigned('DefaultDuration', 40_000_000)),
        cluster(100, block(0, flags, lengths, ...frames), block(120, 0x80, frame(25))),
      ),
    )
    expect([...track.samples.sizes]).toEqual([...sizes, 25])
    expect([...track.samples.times]).toEqual([100, 140, 180, 220])
  })
  it('may lace frames of one size, and spread their times evenly where no duration is told', async () => {
    const { video: track } = await read(
      file(
        video(),
        cluster(
          0,
          block(0, 0x84, Uint8Array.from([2]), frame(20), frame(20), frame(20)),
          block(90, 0x80, frame(20)),
        ),
      ),
    )
    expect([...track.samples.times]).toEqual([0, 30, 60, 90])
  })
  it.each([
    ['sizes larger than the block', Uint8Array.from([2, 200, 200])],
    ['no room for a size', Uint8Array.from([255])],
  ])('end in a coded error for laces with %s', async (_, lengths) => {
    const result = await readMedia(
      memorySource(file(video(), cluster(0, block(0, 0x82, lengths, frame(20))))),
    )
    expect(result.ok ? 'ok' : result.error.code).toMatch(/^media\/(bad-size|truncated)$/)
  })
  it('may carry tags that tell of places', async () => {
    const tags = binary(
      'Tags',
      binary(
        'Tag',
        binary(
          'SimpleTag',
          binary('TagName', text('RECORDING_LOCATION')),
          binary('TagString', text('Here')),
        ),
      ),
    )
    expect((await read(file(video(), cluster(0, block(0, 0x80, VP9_KEY)), tags))).personal).toEqual(
      ['location'],
    )
  })
})

describe('key frames', () => {
  const h264 = { family: 'h264', description: AVC_RECORD } as const
  const nal = (type: number): Uint8Array => Uint8Array.from([0, 0, 0, 2, type, 9])
  it.each([
    ['an IDR picture', h264, nal(0x65), true],
    ['a picture behind its parameter sets', h264, join(nal(0x67), nal(0x68), nal(0x65)), true],
    ['a predicted picture', h264, nal(0x41), false],
    ['nothing but parameter sets', h264, nal(0x67), null],
    ['no bytes', h264, new Uint8Array(0), null],
    ['a VP9 key frame', { family: 'vp9', description: null } as const, VP9_KEY, true],
    ['a VP9 frame that is none', { family: 'vp9', description: null } as const, VP9_DELTA, false],
    ['no VP9 at all', { family: 'vp9', description: null } as const, Uint8Array.from([0]), null],
    ['an AV1 still', { family: 'av1', description: null } as const, AV1_KEY, true],
    [
      'an AV1 frame without its sequence',
      { family: 'av1', description: null } as const,
      Uint8Array.from([0x32, 0x02, 0x10, 0]),
      false,
    ],
    [
      'an HEVC IDR picture',
      { family: 'hevc', description: null } as const,
      Uint8Array.from([0, 0, 0, 3, 19 << 1, 1, 0]),
      true,
    ],
    [
      'an HEVC trailing picture',
      { family: 'hevc', description: null } as const,
      Uint8Array.from([0, 0, 0, 3, 2, 1, 0]),
      false,
    ],
    [
      'a codec that is only named',
      { family: 'other', description: null } as const,
      Uint8Array.from([1]),
      null,
    ],
  ])('are told by the codec’s own header: %s', (_, codec, bytes, expected) =>
    expect(isKeyFrame(codec, bytes)).toBe(expected),
  )
  it('are judged from what was read, though the frame goes on', () => {
    const long = join(
      AV1_KEY.subarray(0, 2),
      AV1_KEY.subarray(2, 10),
      Uint8Array.from([0x32, 0xff, 0x7f, 0x10, 0]),
    )
    expect(isAv1KeyFrame(long)).toBe(true)
  })
})

describe('stream descriptions', () => {
  it('come from the first frame where the record holds no parameter set', () => {
    const record = Uint8Array.from([1, 0x42, 0xc0, 0x1e, 0xff, 0xe0, 0])
    const first = join(
      Uint8Array.from([0, 0, 0, SPS.byteLength]),
      SPS,
      Uint8Array.from([0, 0, 0, 1, 0x65]),
    )
    expect(describeStream({ family: 'h264', description: record }, first)).toMatchObject({
      width: 640,
      height: 360,
      profile: 'Baseline',
    })
  })
  it('are null rather than wrong where headers are damaged', () => {
    expect(
      describeStream({ family: 'vp9', description: null }, Uint8Array.from([0x82, 0x49])),
    ).toBeNull()
    expect(
      describeStream(
        { family: 'h264', description: AVC_RECORD.subarray(0, 12) },
        new Uint8Array(0),
      ),
    ).toBeNull()
    expect(
      describeStream({ family: 'vp8', description: null }, Uint8Array.from([1, 2, 3])),
    ).toBeNull()
  })
  it('tell VP8, AV1 and HEVC by their own headers', () => {
    expect(
      describeStream(
        { family: 'vp8', description: null },
        Uint8Array.from([0, 0, 0, 0x9d, 1, 0x2a, 0x40, 1, 0xb4, 0]),
      ),
    ).toMatchObject({ width: 320, height: 180 })
    expect(describeStream({ family: 'av1', description: null }, AV1_KEY)).toMatchObject({
      profile: 'Main',
      width: 64,
      height: 64,
      chroma: '4:2:0',
      bitDepth: 8,
    })
    const hvcC = Uint8Array.from([
      1, 2, 0x20, 0, 0, 0, 0xb0, 0, 0, 0, 0, 0, 123, 0xf0, 0, 0xfc, 0xfd, 0xfa, 0xfa, 0, 0, 0x0f, 0,
    ])
    expect(describeStream({ family: 'hevc', description: hvcC }, new Uint8Array(0))).toMatchObject({
      profile: 'Main 10',
      level: '4.1',
      bitDepth: 10,
      chroma: '4:2:0',
    })
  })
})

describe('codec strings that are refused', () => {
  it.each([
    ['avc1.640009', ['avc1.640009', 'avc1.640028', 'avc1.640033', 'avc1.640034']],
    ['vp09.00.10.08', ['vp09.00.10.08', 'vp09.00.40.08', 'vp09.00.51.08', 'vp09.00.52.08']],
    ['av01.0.00M.08', ['av01.0.00M.08', 'av01.0.08M.08', 'av01.0.13M.08', 'av01.0.16M.08']],
    ['hvc1.1.6.L30.b0', ['hvc1.1.6.L30.b0', 'hvc1.1.6.L120.b0', 'hvc1.1.6.L153.b0']],
    ['vp8', ['vp8']],
  ])('are tried again with a sane level: %s', (codec, expected) =>
    expect(saneCodecStrings(codec, 1920, 1080, 30)).toEqual(expected),
  )
})

describe('pixel shapes', () => {
  it.each([
    [40, 33, 40, 33],
    [8, 6, 4, 3],
    [0, 1, 1, 1],
    [1.5, 1, 1, 1],
  ])('%d : %d is %d : %d in lowest terms', (horizontal, vertical, a, b) => {
    expect(reduceAspect({ horizontal, vertical })).toEqual({ horizontal: a, vertical: b })
  })
  it('never shrink the picture', () => {
    expect(displaySize(720, 576, { horizontal: 16, vertical: 15 }, 0)).toEqual({
      displayWidth: 768,
      displayHeight: 576,
    })
    expect(displaySize(720, 480, { horizontal: 8, vertical: 9 }, 0)).toEqual({
      displayWidth: 720,
      displayHeight: 540,
    })
  })
})
