import { readFile as readDisk } from 'node:fs/promises'
import { describe, expect, it } from 'vitest'
import { memorySource } from '../../bytes/ByteSource'
import { join } from '../../testing/movies'
import { writeExif, withExif } from '../../testing/writeExif'
import { wrapBox } from '../isobmff/boxTree'
import { readFile } from '../readMedia'
import { readExif, readXmp } from './readExif'
import { readIccName } from './readIccName'
import { looksLikeSvg } from './readSvg'
import type { ImageFile } from './ImageFile'

const text = (value: string): Uint8Array<ArrayBuffer> =>
  Uint8Array.from([...value].map((letter) => letter.charCodeAt(0)))
const u16 = (value: number): Uint8Array => Uint8Array.from([value >> 8, value & 255])
const u32 = (value: number): Uint8Array =>
  Uint8Array.from([(value >>> 24) & 255, (value >>> 16) & 255, (value >>> 8) & 255, value & 255])
const u32le = (value: number): Uint8Array => u32(value).reverse()

async function read(bytes: Uint8Array): Promise<ImageFile> {
  const result = await readFile(memorySource(bytes))
  if (!result.ok) throw result.error
  if (result.value.kind !== 'image') throw new Error('read as a clip')
  return result.value.image
}
const codeOf = async (bytes: Uint8Array): Promise<string> =>
  readFile(memorySource(bytes)).then((result) => (result.ok ? 'ok' : result.error.code))

const segment = (marker: number, ...body: Uint8Array[]): Uint8Array => {
  const payload = join(...body)
  return join(Uint8Array.from([0xff, marker]), u16(payload.byteLength + 2), payload)
}
const frameHeader = (marker: number, depth = 8): Uint8Array =>
  segment(
    marker,
    Uint8Array.from([depth]),
    u16(30),
    u16(40),
    Uint8Array.from([3, 1, 0x22, 0, 2, 0x11, 1, 3, 0x11, 1]),
  )
const jpeg = (...segments: Uint8Array[]): Uint8Array =>
  join(
    Uint8Array.from([0xff, 0xd8]),
    ...segments,
    Uint8Array.from([0xff, 0xda, 0, 2, 1, 2, 3, 0xff, 0xd9]),
  )
const chunk = (tag: string, ...body: Uint8Array[]): Uint8Array => {
  const payload = join(...body)
  return join(u32(payload.byteLength), text(tag), payload, new Uint8Array(4))
}
const png = (depth: number, colourType: number, ...chunks: Uint8Array[]): Uint8Array =>
  join(
    Uint8Array.from([0x89, 0x50, 0x4e, 0x47, 13, 10, 26, 10]),
    chunk('IHDR', u32(40), u32(30), Uint8Array.from([depth, colourType, 0, 0, 0])),
    ...chunks,
    chunk('IEND'),
  )
const riff = (...chunks: [string, Uint8Array][]): Uint8Array => {
  const body = join(
    text('WEBP'),
    ...chunks.flatMap(([tag, payload]) => [
      text(tag),
      u32le(payload.byteLength),
      payload,
      new Uint8Array(payload.byteLength & 1),
    ]),
  )
  return join(text('RIFF'), u32le(body.byteLength), body)
}
const vp8x = (flags: number): Uint8Array => Uint8Array.from([flags, 0, 0, 0, 39, 0, 0, 29, 0, 0])
const anmf = (ms: number): [string, Uint8Array] => [
  'ANMF',
  Uint8Array.from([0, 0, 0, 0, 0, 0, 39, 0, 0, 29, 0, 0, ms & 255, ms >> 8, 0, 0, 1, 2]),
]

/**
 * An AVIF's items with these properties on the primary one, and an EXIF item behind it where
 * wanted.
 */
function avif(properties: Uint8Array[], exif: Uint8Array | null = null): Uint8Array {
  const full = (type: string, ...body: Uint8Array[]): Uint8Array =>
    wrapBox(type, new Uint8Array(4), ...body)
  const ftyp = wrapBox('ftyp', text('avif'), new Uint8Array(4), text('avifmif1'))
  const infe = (id: number, type: string): Uint8Array =>
    wrapBox('infe', Uint8Array.from([2, 0, 0, 0]), u16(id), u16(0), text(type), new Uint8Array(1))
  const build = (dataAt: number): Uint8Array =>
    wrapBox(
      'meta',
      new Uint8Array(4),
      full('pitm', u16(1)),
      full('iinf', u16(exif ? 2 : 1), infe(1, 'av01'), ...(exif ? [infe(2, 'Exif')] : [])),
      full(
        'iloc',
        Uint8Array.from([0x44, 0]),
        u16(exif ? 2 : 1),
        u16(1),
        u16(0),
        u16(1),
        u32(dataAt),
        u32(4),
        ...(exif ? [u16(2), u16(0), u16(1), u32(dataAt + 4), u32(exif.byteLength + 4)] : []),
      ),
      wrapBox(
        'iprp',
        wrapBox('ipco', ...properties),
        full(
          'ipma',
          u32(1),
          u16(1),
          Uint8Array.from([properties.length, ...properties.map((_, index) => index + 1)]),
        ),
      ),
    )
  const head = build(0)
  return join(
    ftyp,
    build(ftyp.byteLength + head.byteLength + 8),
    wrapBox('mdat', text('data'), ...(exif ? [u32(0), exif] : [])),
  )
}
const ispe = wrapBox('ispe', new Uint8Array(4), u32(40), u32(30))

describe('JPEG', () => {
  it('tells size, depth and whether it is progressive', async () => {
    expect(await read(jpeg(frameHeader(0xc0)))).toMatchObject({
      format: 'jpeg',
      width: 40,
      height: 30,
      bitDepth: 8,
      progressive: false,
      alpha: false,
      profile: null,
    })
    expect(await read(jpeg(frameHeader(0xc2)))).toMatchObject({ progressive: true })
  })
  it.each([
    [1, 40, 30],
    [3, 40, 30],
    [6, 30, 40],
    [8, 30, 40],
  ])('shows orientation %i as %i × %i', async (orientation, displayWidth, displayHeight) => {
    expect(
      await read(withExif(jpeg(frameHeader(0xc0)), writeExif(orientation, false))),
    ).toMatchObject({ orientation, width: 40, displayWidth, displayHeight })
  })
  it('says when it tells of places and devices', async () => {
    expect((await read(withExif(jpeg(frameHeader(0xc0)), writeExif(1, true)))).personal).toEqual([
      'device',
      'location',
    ])
    expect(
      (
        await read(
          jpeg(
            segment(0xe1, text('http://ns.invented/\0<x exif:GPSLatitude="1"/>')),
            frameHeader(0xc0),
          ),
        )
      ).personal,
    ).toEqual(['location'])
  })
  it('names its colour profile', async () => {
    expect(
      (
        await read(
          jpeg(
            segment(
              0xe2,
              text('ICC_PROFILE\0'),
              Uint8Array.from([1, 1]),
              iccProfile('Wide Evening'),
            ),
            frameHeader(0xc0),
          ),
        )
      ).profile,
    ).toBe('Wide Evening')
  })
  it.each([
    ['without its end', jpeg(frameHeader(0xc0)).slice(0, -2), 'media/truncated'],
    [
      'cut in its segments',
      jpeg(segment(0xe0, new Uint8Array(60)), frameHeader(0xc0)).subarray(0, 40),
      'media/truncated',
    ],
    ['of no size', jpeg(segment(0xc0, Uint8Array.from([8, 0, 0, 0, 0, 3]))), 'media/bad-value'],
    ['without a frame header', jpeg(), 'media/bad-value'],
    ['with rubbish between segments', jpeg(text('rubbish')), 'media/bad-value'],
  ])('refuses one %s', async (_, bytes, code) => expect(await codeOf(bytes)).toBe(code))
})

describe('PNG', () => {
  it.each([
    [8, 2, false],
    [16, 6, true],
    [8, 3, false],
    [1, 0, false],
    [8, 4, true],
  ])('tells depth %i and alpha of colour type %i', async (depth, type, alpha) => {
    expect(await read(png(depth, type))).toMatchObject({
      format: 'png',
      width: 40,
      height: 30,
      bitDepth: depth,
      alpha,
    })
  })
  it('finds alpha in a palette, a profile by name, animation and orientation', async () => {
    const image = await read(
      png(
        8,
        3,
        chunk('tRNS', new Uint8Array(3)),
        chunk('iCCP', text('Night Print\0\0zzz')),
        chunk('acTL', new Uint8Array(8)),
        chunk('eXIf', writeExif(6, false)),
        chunk('tEXt', text('Author\0Somebody')),
      ),
    )
    expect(image).toMatchObject({
      alpha: true,
      profile: 'Night Print',
      animated: true,
      orientation: 6,
      displayWidth: 30,
      personal: ['author', 'device'],
    })
  })
  it.each([
    ['cut short', png(8, 2).slice(0, -6), 'media/truncated'],
    ['without its end', png(8, 2).slice(0, -12), 'media/truncated'],
    [
      'whose chunk is larger than the file',
      join(png(8, 2).slice(0, 33), u32(0x7fffffff), text('IDAT')),
      'media/truncated',
    ],
    [
      'of no size',
      png(8, 2).map((byte, at) => (at >= 16 && at < 20 ? 0 : byte)),
      'media/bad-value',
    ],
  ])('refuses one %s', async (_, bytes, code) => expect(await codeOf(bytes)).toBe(code))
})

describe('WebP', () => {
  it('tells the size of each of its three kinds', async () => {
    expect(
      await read(riff(['VP8 ', Uint8Array.from([0, 0, 0, 0x9d, 1, 0x2a, 40, 0, 30, 0])])),
    ).toMatchObject({ format: 'webp', width: 40, height: 30, alpha: false })
    expect(await read(riff(['VP8L', Uint8Array.from([0x2f, 39, 0x40, 0x07, 0x10])]))).toMatchObject(
      { width: 40, height: 30, alpha: true },
    )
    expect(await read(riff(['VP8X', vp8x(0x10)], ['VP8 ', new Uint8Array(10)]))).toMatchObject({
      width: 40,
      height: 30,
      alpha: true,
    })
  })
  it('reads its EXIF and its profile', async () => {
    const image = await read(
      riff(
        ['VP8X', vp8x(0x28)],
        ['ICCP', iccProfile('Dusk')],
        ['VP8 ', new Uint8Array(10)],
        ['EXIF', writeExif(6, true)],
      ),
    )
    expect(image).toMatchObject({
      orientation: 6,
      displayWidth: 30,
      profile: 'Dusk',
      personal: ['device', 'location'],
    })
  })
  it('is footage when it moves', async () => {
    const result = await readFile(
      memorySource(
        riff(['VP8X', vp8x(2)], ['ANIM', new Uint8Array(6)], anmf(40), anmf(5), anmf(60)),
      ),
    )
    if (!result.ok || result.value.kind !== 'clip') throw new Error('not read as a clip')
    expect([...result.value.file.video.samples.durations]).toEqual([40, 100, 60])
  })
  it.each([
    ['cut short', riff(['VP8 ', new Uint8Array(40)]).slice(0, -9), 'media/truncated'],
    ['without a picture', riff(['EXIF', new Uint8Array(4)]), 'media/bad-value'],
  ])('refuses one %s', async (_, bytes, code) => expect(await codeOf(bytes)).toBe(code))
})

describe('AVIF', () => {
  it('tells size, depth, alpha and colour of its primary item', async () => {
    const pixi = wrapBox('pixi', new Uint8Array(4), Uint8Array.from([3, 10, 10, 10]))
    const colr = wrapBox('colr', text('nclx'), u16(12), u16(13), u16(6), Uint8Array.from([0x80]))
    const auxC = wrapBox(
      'auxC',
      new Uint8Array(4),
      text('urn:mpeg:mpegB:cicp:systems:auxiliary:alpha\0'),
    )
    expect(await read(avif([ispe, pixi, colr, auxC]))).toMatchObject({
      format: 'avif',
      width: 40,
      height: 30,
      bitDepth: 10,
      alpha: true,
      profile: 'Display P3',
    })
  })
  it.each([
    [0, 1, 40],
    [1, 8, 30],
    [2, 3, 40],
    [3, 6, 30],
  ])('is turned by %i quarters as orientation %i', async (quarters, orientation, displayWidth) => {
    expect(await read(avif([ispe, wrapBox('irot', Uint8Array.from([quarters]))]))).toMatchObject({
      orientation,
      displayWidth,
    })
  })
  it('finds its EXIF item by type and place', async () =>
    expect((await read(avif([ispe], writeExif(6, true)))).personal).toEqual(['device', 'location']))
  it.each([
    ['without a size', avif([wrapBox('pixi', new Uint8Array(8))]), 'media/bad-value'],
    ['cut short', avif([ispe]).slice(0, -2), 'media/truncated'],
  ])('refuses one %s', async (_, bytes, code) => expect(await codeOf(bytes)).toBe(code))
})

describe('SVG', () => {
  it.each([
    ['<svg width="300" height="200">', 300, 200],
    ['<svg viewBox="0 0 80 60">', 80, 60],
    ['<svg width="2in" height="1in">', 192, 96],
    ['<svg width="160" viewBox="0 0 80 60">', 160, 120],
    ['<svg height="30" viewBox="0,0,80,60">', 40, 30],
    ['<svg>', 300, 150],
    ['<svg width="100%" viewBox="0 0 50 25">', 50, 25],
  ])('reads the size of %s', async (root, width, height) => {
    expect(
      await read(new TextEncoder().encode(`<?xml version="1.0"?>\n<!-- drawn -->\n${root}</svg>`)),
    ).toMatchObject({ format: 'svg', width, height, bitDepth: 0 })
  })
  it('says when it moves by itself', async () => {
    expect(
      (
        await read(
          new TextEncoder().encode('<svg><circle><animate attributeName="r"/></circle></svg>'),
        )
      ).animated,
    ).toBe(true)
  })
  it.each([
    ['<html><svg></svg></html>', false],
    ['svg', false],
    ['\ufeff<svg>', true],
    ['<!DOCTYPE svg><svg >', true],
  ])('looks at the root: %s', (source, is) => {
    expect(looksLikeSvg(new TextEncoder().encode(source))).toBe(is)
  })
})

/** An ICC profile that holds nothing but its description, in the form of version 2. */
function iccProfile(name: string): Uint8Array {
  const description = join(text('desc'), new Uint8Array(4), u32(name.length + 1), text(`${name}\0`))
  return join(
    new Uint8Array(128),
    u32(1),
    text('desc'),
    u32(144),
    u32(description.byteLength),
    description,
  )
}

describe('metadata', () => {
  it('reads a profile’s name in the form of version 4', () => {
    const words = Uint8Array.from([...'Fjord'].flatMap((letter) => [0, letter.charCodeAt(0)]))
    const description = join(
      text('mluc'),
      new Uint8Array(4),
      u32(1),
      u32(12),
      text('enGB'),
      u32(words.byteLength),
      u32(28),
      words,
    )
    expect(
      readIccName(
        join(
          new Uint8Array(128),
          u32(1),
          text('desc'),
          u32(144),
          u32(description.byteLength),
          description,
        ),
      ),
    ).toBe('Fjord')
  })
  it.each([0, 7, 9, 20, 40])('survives an EXIF block of %i bytes', (length) => {
    expect(readExif(writeExif(6, true).subarray(0, length)).orientation).toBeGreaterThanOrEqual(1)
  })
  it('is not held up by a directory that points to itself', () => {
    const exif = writeExif(6, false)
    exif.set([0x87, 0x69, 0, 4, 0, 0, 0, 1, 0, 0, 0, 8], 10)
    expect(readExif(exif).orientation).toBe(6)
  })
  it('tells nothing where there is nothing', () => expect(readXmp('<x:xmpmeta/>')).toEqual([]))
})

describe('the demonstration’s pictures', () => {
  it.each([
    [
      'first-snow.jpg',
      {
        format: 'jpeg',
        width: 900,
        height: 1600,
        orientation: 6,
        displayWidth: 1600,
        displayHeight: 900,
        personal: ['device', 'location'],
      },
    ],
    [
      'fjord-night.webp',
      { format: 'webp', displayWidth: 1920, displayHeight: 1080, orientation: 1 },
    ],
    ['window-seat.png', { format: 'png', displayWidth: 960, displayHeight: 540, bitDepth: 8 }],
    ['route-map.svg', { format: 'svg', displayWidth: 800, displayHeight: 500 }],
  ])('are read as what they are: %s', async (name, facts) => {
    expect(
      await read(
        new Uint8Array(await readDisk(new URL(`../../../demo/files/${name}`, import.meta.url))),
      ),
    ).toMatchObject(facts)
  })
})
