import { wrapBox, writeBox } from '../media/isobmff/boxTree'
import { BOXES } from '../media/isobmff/boxes/registry'
import { writeMp4 } from '../media/isobmff/writeMp4'
import { binary, unsigned, writeWebm } from '../media/matroska/writeWebm'
import type { FuzzSample } from './fuzz'
import { fragmented, join, replaceStbl, withEdits } from './movies'
import { inventTrack, VP9_KEY } from './samples'
import { writeExif } from './writeExif'
import { writeAlphaWebm } from './writeAlphaWebm'
import { writeGif } from './writeGif'

const text = (value: string): Uint8Array<ArrayBuffer> =>
  Uint8Array.from([...value].map((letter) => letter.charCodeAt(0)))
const u16 = (value: number): Uint8Array => Uint8Array.from([value >> 8, value & 255])
const u32 = (value: number): Uint8Array =>
  Uint8Array.from([(value >>> 24) & 255, (value >>> 16) & 255, (value >>> 8) & 255, value & 255])

function reordered(): Uint8Array {
  const offsets = replaceStbl(
    writeMp4(inventTrack('h264', 30, [0, 15])),
    writeBox('ctts', BOXES.ctts, {
      version: 0,
      flags: 0,
      runs: [
        { count: 10, offset: 1001 },
        { count: 20, offset: 2002 },
      ],
    }),
  )
  const edits = writeBox('elst', BOXES.elst, {
    version: 0,
    flags: 0,
    entries: [{ segmentDuration: 500, mediaTime: 1001, rateInteger: 1, rateFraction: 0 }],
  })
  return withEdits(offsets, wrapBox('edts', edits))
}

function laced(): Uint8Array {
  const frame = (bytes: number): Uint8Array =>
    join(VP9_KEY, new Uint8Array(bytes - VP9_KEY.byteLength).fill(7))
  const block = (flags: number, ...body: Uint8Array[]): Uint8Array =>
    binary('SimpleBlock', Uint8Array.from([0x81, 0, 0, flags]), ...body)
  const tracks = binary(
    'Tracks',
    binary(
      'TrackEntry',
      unsigned('TrackNumber', 1),
      unsigned('TrackType', 1),
      binary('CodecID', text('V_VP9')),
      binary('Video', unsigned('PixelWidth', 320), unsigned('PixelHeight', 180)),
    ),
  )
  const blocks = [
    block(0x82, Uint8Array.from([2, 20, 30]), frame(20), frame(30), frame(40)),
    block(0x86, Uint8Array.from([2, 0x94, 0xc9]), frame(20), frame(30), frame(40)),
    block(0x84, Uint8Array.from([1]), frame(20), frame(20)),
  ]
  const unknown = (id: readonly number[], ...parts: Uint8Array[]): Uint8Array =>
    join(Uint8Array.from([...id, 0x01, 255, 255, 255, 255, 255, 255, 255]), ...parts)
  const group = binary(
    'BlockGroup',
    binary('Block', Uint8Array.from([0x81, 0, 90, 0]), frame(24)),
    binary('ReferenceBlock', Uint8Array.from([1])),
  )
  const tags = binary(
    'Tags',
    binary('Tag', binary('SimpleTag', binary('TagName', text('LOCATION')))),
  )
  return join(
    binary('EBML', binary('DocType', text('matroska'))),
    unknown(
      [0x18, 0x53, 0x80, 0x67],
      tracks,
      tags,
      unknown([0x1f, 0x43, 0xb6, 0x75], unsigned('Timestamp', 0), ...blocks, group),
    ),
  )
}

function avif(): Uint8Array {
  const full = (type: string, ...body: Uint8Array[]): Uint8Array =>
    wrapBox(type, new Uint8Array(4), ...body)
  const infe = (id: number, type: string): Uint8Array =>
    wrapBox('infe', Uint8Array.from([2, 0, 0, 0]), u16(id), u16(0), text(type), new Uint8Array(1))
  const exif = writeExif(6, true)
  const properties = [
    full('ispe', u32(40), u32(30)),
    full('pixi', Uint8Array.from([3, 8, 8, 8])),
    wrapBox('colr', text('nclx'), u16(1), u16(13), u16(6), Uint8Array.from([0x80])),
    wrapBox('irot', Uint8Array.from([1])),
  ]
  const meta = (at: number): Uint8Array =>
    full(
      'meta',
      full('pitm', u16(1)),
      full('iinf', u16(2), infe(1, 'av01'), infe(2, 'Exif')),
      full(
        'iloc',
        Uint8Array.from([0x44, 0]),
        u16(2),
        u16(1),
        u16(0),
        u16(1),
        u32(at),
        u32(4),
        u16(2),
        u16(0),
        u16(1),
        u32(at + 4),
        u32(exif.byteLength + 4),
      ),
      wrapBox(
        'iprp',
        wrapBox('ipco', ...properties),
        full('ipma', u32(1), u16(1), Uint8Array.from([4, 1, 2, 3, 4])),
      ),
    )
  const ftyp = wrapBox('ftyp', text('avif'), new Uint8Array(4), text('avifmif1'))
  return join(
    ftyp,
    meta(ftyp.byteLength + meta(0).byteLength + 8),
    wrapBox('mdat', text('data'), u32(0), exif),
  )
}

function jpeg(): Uint8Array {
  const segment = (marker: number, ...body: Uint8Array[]): Uint8Array =>
    join(Uint8Array.from([0xff, marker]), u16(join(...body).byteLength + 2), ...body)
  return join(
    Uint8Array.from([0xff, 0xd8]),
    segment(0xe1, text('Exif\0\0'), writeExif(6, true)),
    segment(
      0xc2,
      Uint8Array.from([8]),
      u16(30),
      u16(40),
      Uint8Array.from([3, 1, 0x22, 0, 2, 0x11, 1, 3, 0x11, 1]),
    ),
    Uint8Array.from([0xff, 0xda, 0, 2, 1, 2, 3, 0xff, 0xd9]),
  )
}

function png(): Uint8Array {
  const chunk = (tag: string, ...body: Uint8Array[]): Uint8Array =>
    join(u32(join(...body).byteLength), text(tag), ...body, new Uint8Array(4))
  return join(
    Uint8Array.from([0x89, 0x50, 0x4e, 0x47, 13, 10, 26, 10]),
    chunk('IHDR', u32(40), u32(30), Uint8Array.from([8, 6, 0, 0, 0])),
    chunk('iCCP', text('Night\0\0zz')),
    chunk('eXIf', writeExif(3, true)),
    chunk('tEXt', text('Author\0x')),
    chunk('IDAT', new Uint8Array(60)),
    chunk('IEND'),
  )
}

function webp(frames: number): Uint8Array {
  const chunk = (tag: string, body: Uint8Array): Uint8Array =>
    join(text(tag), u32(body.byteLength).reverse(), body, new Uint8Array(body.byteLength & 1))
  const anmf = chunk(
    'ANMF',
    Uint8Array.from([0, 0, 0, 0, 0, 0, 39, 0, 0, 29, 0, 0, 40, 0, 0, 0, 1, 2, 3, 4]),
  )
  const body = join(
    text('WEBP'),
    chunk('VP8X', Uint8Array.from([0x2a, 0, 0, 0, 39, 0, 0, 29, 0, 0])),
    chunk('ANIM', new Uint8Array(6)),
    ...Array.from({ length: frames }, () => anmf),
    chunk('VP8 ', new Uint8Array(20)),
    chunk('EXIF', writeExif(6, true)),
  )
  return join(text('RIFF'), u32(body.byteLength).reverse(), body)
}

function gif(): Uint8Array {
  const palette = [
    [0, 0, 0],
    [200, 40, 40],
    [40, 200, 40],
    [40, 40, 200],
  ] as const
  return writeGif(
    24,
    18,
    palette,
    Array.from({ length: 5 }, (_, frame) => ({
      width: 24,
      height: 18,
      indexes: Uint8Array.from({ length: 24 * 18 }, (__, at) => (at * 7 + frame * at) % 4),
      delayCs: 5,
    })),
  )
}

/** A small well-formed file of every kind that Telon reads. */
export function fuzzSamples(): FuzzSample[] {
  return [
    {
      name: 'MP4, H.264',
      bytes: writeMp4(inventTrack('h264', 40, [0, 20]), {
        channels: 1,
        sampleRate: 8000,
        pcm: new Uint8Array(400),
      }),
    },
    { name: 'MP4, VP9', bytes: writeMp4(inventTrack('vp9', 40)) },
    { name: 'MP4 with composition offsets and an edit list', bytes: reordered() },
    {
      name: 'fragmented MP4',
      bytes: fragmented(inventTrack('h264', 30).frames.map((frame) => frame.data)),
    },
    { name: 'WebM', bytes: writeWebm(inventTrack('vp9', 60, [0, 30])) },
    {
      name: 'WebM with alpha',
      bytes: writeAlphaWebm(
        inventTrack('vp9', 20),
        Array.from({ length: 20 }, () => new Uint8Array(30)),
      ),
    },
    { name: 'MKV with laces, groups, unknown sizes and tags', bytes: laced() },
    { name: 'GIF', bytes: gif() },
    { name: 'animated WebP', bytes: webp(4) },
    { name: 'WebP', bytes: webp(0) },
    { name: 'AVIF', bytes: avif() },
    { name: 'JPEG', bytes: jpeg() },
    { name: 'PNG', bytes: png() },
    {
      name: 'SVG',
      bytes: text(
        '<?xml version="1.0"?><!-- a --><svg xmlns="http://www.w3.org/2000/svg" width="40mm" viewBox="0 0 40 30"><animate/></svg>',
      ),
    },
  ]
}
