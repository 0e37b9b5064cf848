import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { ContainerError } from '../../bytes/ContainerError'
import { AV1_KEY, AVC_RECORD, SPS, VP9_DELTA, VP9_KEY } from '../../testing/samples'
import { av1CodecString, lowestAv1Level, splitObus, stripDelimiters } from './av1'
import {
  avcCodecString,
  avcLengthBytes,
  lowestAvcLevel,
  parseSps,
  unescapeNal,
  unitsBeforePicture,
} from './h264'
import { hevcCodecString } from './hevc'
import { isVp8KeyFrame } from './vp8'
import { lowestVp9Level, parseVp9Frame, vp9CodecString, vp9Refreshes } from './vp9'

describe('units before the first picture of a sample', () => {
  const unit = (type: number, ...bytes: number[]): number[] => {
    const nal = [type, ...bytes]
    return [0, 0, 0, nal.length, ...nal]
  }
  it('are its SEI and parameter sets, each after its length', () => {
    const kept = [...unit(0x06, 5, 1, 2), ...unit(0x67, 9), ...unit(0x68, 8)]
    const sample = [...unit(0x09, 0xf0), ...kept, ...unit(0x65, 1, 2, 3), ...unit(0x06, 7)]
    expect([...unitsBeforePicture(Uint8Array.from(sample), 4)]).toEqual(kept)
  })
  it('are read with lengths of any size', () => {
    const sample = [0, 2, 0x06, 5, 0, 2, 0x65, 1]
    expect([...unitsBeforePicture(Uint8Array.from(sample), 2)]).toEqual([0, 2, 0x06, 5])
  })
  it.each([
    ['a sample that is cut short within one', [...unit(0x06, 5).slice(0, 5)]],
    ['a sample that begins with a picture', unit(0x41, 1)],
    ['no sample', []],
    ['lengths beyond the sample', [255, 255, 255, 255, 6, 1]],
  ])('are none in %s', (_, sample) =>
    expect(unitsBeforePicture(Uint8Array.from(sample), 4).byteLength).toBe(0),
  )
  it('have their length size in the configuration record', () => {
    expect(avcLengthBytes(AVC_RECORD)).toBe(4)
    expect(avcLengthBytes(Uint8Array.from([1, 66, 0, 30, 0xfd, 0xe1]))).toBe(2)
    expect(avcLengthBytes(Uint8Array.from([1, 66, 0, 30]))).toBeNull()
    expect(avcLengthBytes(null)).toBeNull()
  })
})

describe('H.264', () => {
  it('reads size, profile and level from a parameter set', () => {
    const facts = parseSps(SPS)
    expect(facts).toMatchObject({
      profile: 66,
      level: 30,
      width: 640,
      height: 360,
      bitDepth: 8,
      chroma: 1,
    })
    expect(avcCodecString('avc1', facts)).toBe('avc1.42c01e')
  })

  it('removes emulation prevention bytes and nothing else', () => {
    expect([...unescapeNal(Uint8Array.from([0, 0, 3, 1, 0, 3, 0, 0, 3]))]).toEqual([
      0, 0, 1, 0, 3, 0, 0,
    ])
  })

  it('ends in a coded error when the parameter set is cut', () => {
    for (const length of [1, 3, 5, 7])
      expect(() => parseSps(SPS.subarray(0, length))).toThrow(
        expect.objectContaining({ code: 'media/truncated' }),
      )
  })

  it.each([
    [640, 360, 30, 1e6, 30],
    [1280, 720, 30, 2e6, 31],
    [1280, 720, 60, 2e6, 32],
    [1920, 1080, 30, 4e6, 40],
    [1920, 1080, 60, 4e6, 42],
    [3840, 2160, 30, 1e7, 51],
    [1280, 720, 30, 18e6, 32],
  ])('asks level for %i × %i at %i fps and %i bit/s: %i', (width, height, fps, bits, level) =>
    expect(lowestAvcLevel(width, height, fps, bits)).toBe(level),
  )
})

describe('VP9', () => {
  it('reads size and colour from a key frame', () => {
    expect(parseVp9Frame(VP9_KEY)).toMatchObject({
      keyFrame: true,
      profile: 0,
      bitDepth: 8,
      width: 320,
      height: 180,
      colour: { matrix: 1, fullRange: false },
    })
  })
  it('knows a frame that is no key frame by its own bit', () =>
    expect(parseVp9Frame(VP9_DELTA).keyFrame).toBe(false))
  it.each([
    [Uint8Array.from([0]), 'media/bad-value'],
    [Uint8Array.from([0x82, 1, 2, 3]), 'media/bad-value'],
    [Uint8Array.from([0x82, 0x49]), 'media/truncated'],
    [new Uint8Array(0), 'media/truncated'],
  ])('refuses what is no VP9 frame', (bytes, code) =>
    expect(() => parseVp9Frame(bytes)).toThrow(expect.objectContaining({ code })),
  )
  it('tells which kept frames a frame replaces', () => {
    expect(vp9Refreshes(VP9_KEY)).toBe(0xff)
    // Marker 10, profile 0, no repeat, not a key frame, shown, resilient or not (then two bits for
    // the context), then the slots.
    expect(vp9Refreshes(Uint8Array.from([0b1000_0111, 0b0000_0011, 0]))).toBe(0b0000_0011)
    expect(vp9Refreshes(Uint8Array.from([0b1000_0110, 0b0000_0000, 0b1100_0000, 0]))).toBe(
      0b0000_0011,
    )
  })
  it('says nothing of frames that are repeated or not shown', () => {
    expect(vp9Refreshes(Uint8Array.from([0b1000_1000, 0]))).toBeNull()
    expect(vp9Refreshes(Uint8Array.from([0b1000_0100, 0]))).toBeNull()
  })
  it.each([
    [Uint8Array.from([0]), 'media/bad-value'],
    [Uint8Array.from([0b1000_0111]), 'media/truncated'],
    [new Uint8Array(0), 'media/truncated'],
  ])('tells no slots of what is no VP9 frame', (bytes, code) =>
    expect(() => vp9Refreshes(bytes)).toThrow(expect.objectContaining({ code })),
  )
  it('writes its codec string with two digits each', () =>
    expect(vp9CodecString({ profile: 0, level: 31, bitDepth: 8 })).toBe('vp09.00.31.08'))
  it.each([
    [640, 360, 24, 21],
    [1280, 720, 30, 31],
    [1920, 1080, 30, 40],
    [1920, 1080, 60, 41],
  ])('finds the level of %i × %i at %i fps', (width, height, fps, level) =>
    expect(lowestVp9Level(width, height, fps, 1e6)).toBe(level),
  )
})

describe('AV1', () => {
  it('splits a temporal unit and drops its delimiter', () => {
    expect(splitObus(AV1_KEY).map((obu) => obu.type)).toEqual([2, 1, 6])
    expect(stripDelimiters(AV1_KEY)).toEqual(AV1_KEY.subarray(2))
  })
  it('lose delimiters wherever they stand, and nothing else (seed 121)', () => {
    const obu = fc.record({
      type: fc.constantFrom(1, 2, 3, 4, 5, 6, 15),
      payload: fc.uint8Array({ maxLength: 200 }),
      extended: fc.boolean(),
    })
    fc.assert(
      fc.property(fc.array(obu, { maxLength: 8 }), (obus) => {
        const written = obus.map(({ type, payload, extended }) => {
          const size =
            payload.length < 128
              ? [payload.length]
              : [(payload.length & 127) | 128, payload.length >> 7]
          return [
            (type << 3) | 2 | (extended ? 4 : 0),
            ...(extended ? [0] : []),
            ...size,
            ...payload,
          ]
        })
        const unit = Uint8Array.from(written.flat())
        expect(splitObus(unit).map(({ type, payload }) => [type, ...payload])).toEqual(
          obus.map(({ type, payload }) => [type, ...payload]),
        )
        expect([...stripDelimiters(unit)]).toEqual(
          written.filter((_, index) => obus[index]!.type !== 2).flat(),
        )
      }),
      { seed: 121, numRuns: 150 },
    )
  })
  it('are split, or refused with the place where they break, whatever the bytes (seed 122)', () => {
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 300 }), (bytes) => {
        try {
          const found = splitObus(bytes)
          expect(found.reduce((sum, { whole }) => sum + whole.byteLength, 0)).toBe(bytes.byteLength)
        } catch (error) {
          expect(error).toBeInstanceOf(ContainerError)
        }
      }),
      { seed: 122, numRuns: 500 },
    )
  })
  it('refuses a unit whose size lies', () =>
    expect(() => splitObus(Uint8Array.from([0x0a, 0x7f, 0]))).toThrow(
      expect.objectContaining({ code: 'media/bad-size' }),
    ))
  it('refuses a size that never ends', () =>
    expect(() => splitObus(Uint8Array.from([0x0a, 0x80, 0x80, 0x80, 0x80, 0x80, 0x80]))).toThrow(
      expect.objectContaining({ code: 'media/truncated' }),
    ))
  it.each([
    [320, 180, 30, 0],
    [640, 360, 30, 1],
    [1280, 720, 30, 5],
    [1280, 720, 60, 8],
    [1920, 1080, 30, 8],
    [1920, 1080, 60, 9],
    [3840, 2160, 30, 12],
    [3840, 2160, 60, 13],
    [7680, 4320, 60, 13],
  ])('needs for %i × %i at %i at least the level with index %i', (width, height, fps, level) => {
    expect(lowestAv1Level(width, height, fps)).toBe(level)
  })
  it('writes its codec string', () => {
    expect(
      av1CodecString({
        profile: 0,
        level: 8,
        highTier: false,
        bitDepth: 10,
        monochrome: false,
        subX: 1,
        subY: 1,
      }),
    ).toBe('av01.0.08M.10')
  })
})

describe('others', () => {
  it('writes the codec string of HEVC', () => {
    expect(
      hevcCodecString('hvc1', Uint8Array.from([1, 1, 0x60, 0, 0, 0, 0xb0, 0, 0, 0, 0, 0, 93])),
    ).toBe('hvc1.1.6.L93.b0')
  })
  it.each([
    [[0x10], true],
    [[0x11], false],
    [[], false],
  ])('reads the key bit of VP8', (bytes, key) =>
    expect(isVp8KeyFrame(Uint8Array.from(bytes))).toBe(key),
  )
})
