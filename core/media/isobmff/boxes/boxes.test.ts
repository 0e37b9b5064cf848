import { describe, expect, it } from 'vitest'
import { ByteReader } from '../../../bytes/ByteReader'
import { ByteWriter } from '../../../bytes/ByteWriter'
import type { Field } from '../../../bytes/fields'
import { ContainerError } from '../../../bytes/ContainerError'
import { BOXES } from './registry'

const hex = (text: string): Uint8Array =>
  Uint8Array.from(text.replaceAll(/\s/g, '').match(/../g) ?? [], (pair) => parseInt(pair, 16))
const zeros = (count: number): string => '00'.repeat(count)

/**
 * Literal bytes of each box, and some of the fields they hold. Every box of the registry stands
 * here (see the last test).
 */
const EXAMPLES: { [K in keyof typeof BOXES]: { bytes: string; fields: Record<string, unknown> } } =
  {
    av1C: {
      bytes: '81 08 0c 00 0a0b',
      fields: { marker: 0x81, profileLevel: 8, tierDepthChroma: 12, configObus: hex('0a0b') },
    },
    avcC: {
      bytes: '01 64 00 1f ff e1 0003 674d01 01 0002 68ee',
      fields: { profile: 100, level: 31, sps: [hex('674d01')], pps: [hex('68ee')] },
    },
    co64: { bytes: '00 000000 00000001 0000000100000000', fields: { offsets: [4294967296] } },
    colr: {
      bytes: '6e636c78 0001 0001 0001 80',
      fields: { colourType: 'nclx', matrixCoefficients: 1, fullRange: 0x80 },
    },
    ctts: {
      bytes: '00 000000 00000002 00000001 00000400 00000002 fffffc00',
      fields: {
        runs: [
          { count: 1, offset: 1024 },
          { count: 2, offset: -1024 },
        ],
      },
    },
    elst: {
      bytes: '00 000000 00000002 000003e8 ffffffff 0001 0000 00001f40 00000400 0001 0000',
      fields: {
        entries: [
          { segmentDuration: 1000, mediaTime: -1, rateInteger: 1, rateFraction: 0 },
          { segmentDuration: 8000, mediaTime: 1024, rateInteger: 1, rateFraction: 0 },
        ],
      },
    },
    ftyp: {
      bytes: '69736f6d 00000200 69736f6d',
      fields: { majorBrand: 'isom', minorVersion: 512 },
    },
    hdlr: {
      bytes: `00 000000 00000000 76696465 ${zeros(12)} 5400`,
      fields: { handlerType: 'vide' },
    },
    iloc: {
      bytes: '00 000000 4400 0001 0001 0000 0001 00000130 00001f40',
      fields: {
        sizes: 0x4400,
        items: [{ itemId: 1, dataReferenceIndex: 0, extents: [{ offset: 304, length: 8000 }] }],
      },
    },
    infe: {
      bytes: '02 000000 0001 0000 61763031 00',
      fields: { version: 2, itemId: 1, itemType: 'av01' },
    },
    ipma: {
      bytes: '00 000000 00000001 0001 04 01 02 83 04',
      fields: { entries: [{ itemId: 1, properties: [1, 2, 0x83, 4] }] },
    },
    ispe: { bytes: '00 000000 00000780 00000438', fields: { width: 1920, height: 1080 } },
    mdhd: {
      bytes: '01 000000 0000000000000000 0000000000000000 00005dc0 0000000000012c00 55c4 0000',
      fields: { version: 1, timescale: 24000, duration: 76800, language: 0x55c4 },
    },
    mvhd: {
      bytes: `00 000000 00000000 00000000 000003e8 00001f40 00010000 0100 ${zeros(10)} ${zeros(36)} ${zeros(24)} 00000002`,
      fields: { timescale: 1000, duration: 8000, rate: 1, volume: 1, nextTrackId: 2 },
    },
    pasp: { bytes: '00000004 00000003', fields: { horizontal: 4, vertical: 3 } },
    pitm: { bytes: '00 000000 0001', fields: { itemId: 1 } },
    pixi: { bytes: '00 000000 03 08 08 08', fields: { bits: [8, 8, 8] } },
    smhd: { bytes: '00 000000 ff80 0000', fields: { balance: -0.5 } },
    stco: { bytes: '00 000000 00000002 00000030 ffffffff', fields: { offsets: [48, 4294967295] } },
    stsc: {
      bytes: '00 000000 00000001 00000001 0000000a 00000001',
      fields: { runs: [{ firstChunk: 1, samplesPerChunk: 10, descriptionIndex: 1 }] },
    },
    stsd: { bytes: '00 000000 00000001 aabb', fields: { entryCount: 1, entries: hex('aabb') } },
    stss: { bytes: '00 000000 00000002 00000001 00000031', fields: { sampleNumbers: [1, 49] } },
    stsz: {
      bytes: '00 000000 00000000 00000002 00000010 00000020',
      fields: { sizes: { each: [16, 32] } },
    },
    stts: {
      bytes: '00 000000 00000001 000000c0 000003e9',
      fields: { runs: [{ count: 192, delta: 1001 }] },
    },
    tfdt: { bytes: '01 000000 0000000000000100', fields: { baseMediaDecodeTime: 256 } },
    tfhd: {
      bytes: '00 020008 00000001 00000200',
      fields: { trackId: 1, sampleDuration: 512, baseDataOffset: null },
    },
    tkhd: {
      bytes: `00 000003 00000000 00000000 00000001 00000000 00001f40 ${zeros(8)} 0000 0000 0000 0000 00000000 00010000 00000000 ffff0000 00000000 00000000 00000000 00000000 40000000 07800000 04380000`,
      fields: { trackId: 1, duration: 8000, a: 0, b: 65536, c: -65536, width: 1920, height: 1080 },
    },
    trex: {
      bytes: '00 000000 00000001 00000001 00000200 00000000 00010000',
      fields: { trackId: 1, sampleDuration: 512, sampleFlags: 0x10000 },
    },
    trun: {
      bytes: '01 000a01 00000002 00000064 00000010 ffffff00 00000020 00000100',
      fields: {
        sampleCount: 2,
        dataOffset: 100,
        samples: [
          { duration: null, size: 16, flags: null, compositionOffset: -256 },
          { duration: null, size: 32, flags: null, compositionOffset: 256 },
        ],
      },
    },
    vmhd: { bytes: '00 000001 0000 000000000000', fields: { flags: 1 } },
    vpcC: {
      bytes: '01 000000 00 1f 82 01 01 01 0000',
      fields: { version: 1, level: 31, depthChromaRange: 0x82 },
    },
  }

const NAMES = Object.keys(BOXES) as (keyof typeof BOXES)[]
/** Boxes whose tail is free bytes: cut short there, they are still whole. */
const OPEN_TAIL: Partial<Record<keyof typeof BOXES, number>> = {
  av1C: 2,
  avcC: 0,
  ftyp: 4,
  hdlr: 2,
  infe: 1,
  stsd: 2,
  vpcC: 0,
}

describe.each(NAMES)('box %s', (name) => {
  const field = BOXES[name] as Field<Record<string, unknown>>
  const bytes = hex(EXAMPLES[name].bytes)

  it('reads literal bytes into its fields', () => {
    const reader = new ByteReader(bytes)
    expect(field.read(reader, {})).toMatchObject(EXAMPLES[name].fields)
    expect(reader.remaining).toBe(0)
  })

  it('writes what it has read, byte for byte', () => {
    const writer = new ByteWriter()
    field.write(writer, field.read(new ByteReader(bytes), {}), {})
    expect(writer.finish()).toEqual(bytes)
  })

  it('ends in a coded error when cut short at any byte', () => {
    for (let length = 0; length < bytes.byteLength - (OPEN_TAIL[name] ?? 0); length++) {
      expect(
        () => field.read(new ByteReader(bytes.subarray(0, length)), {}),
        `cut to ${length}`,
      ).toThrow(ContainerError)
    }
  })
})

describe('box fields', () => {
  it.each([
    ['stss', { version: 0, flags: 0, sampleNumbers: [2 ** 32] }],
    ['stss', { version: 256, flags: 0, sampleNumbers: [] }],
    [
      'tfhd',
      {
        version: 0,
        flags: 0,
        trackId: 1,
        baseDataOffset: 4,
        descriptionIndex: null,
        sampleDuration: null,
        sampleSize: null,
        sampleFlags: null,
      },
    ],
    [
      'colr',
      {
        colourType: 'nclxx',
        colourPrimaries: 1,
        transferCharacteristics: 1,
        matrixCoefficients: 1,
        fullRange: 0,
      },
    ],
    ['pasp', { horizontal: -1, vertical: 1 }],
    [
      'mdhd',
      {
        version: 0,
        flags: 0,
        creationTime: 0,
        modificationTime: 0,
        timescale: 1.5,
        duration: 0,
        language: 0,
        predefined: 0,
      },
    ],
  ] as const)('refuses to write a value of %s that does not fit', (name, value) => {
    expect(() => (BOXES[name] as Field<unknown>).write(new ByteWriter(), value, {})).toThrow(
      RangeError,
    )
  })

  it('refuses a count that the bytes left cannot hold, before allocating', () => {
    expect(() => BOXES.stss.read(new ByteReader(hex('00 000000 ffffffff 00000001')), {})).toThrow(
      expect.objectContaining({ code: 'media/bad-size' }),
    )
  })

  it('keeps a shared sample size as one number, whatever count it claims', () => {
    expect(BOXES.stsz.read(new ByteReader(hex('00 000000 00000010 ffffffff')), {}).sizes).toEqual({
      shared: 16,
      count: 4294967295,
    })
  })

  it('has an example for every box in the registry', () => {
    expect(Object.keys(EXAMPLES).sort()).toEqual(Object.keys(BOXES).sort())
  })
})
