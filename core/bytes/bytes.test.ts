import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { BitReader } from './BitReader'
import { ByteReader } from './ByteReader'
import { countingSource, memorySource, windowedSource } from './ByteSource'
import { ByteWriter } from './ByteWriter'
import {
  byVersion,
  counted,
  fixed,
  struct,
  u16,
  u32,
  u64,
  u8,
  whenFlag,
  type Field,
} from './fields'

const SEED = 77
type NumberKind = 'u8' | 'u16' | 'u24' | 'u32' | 'i16' | 'i32' | 'u64' | 'i64'

/** What each kind of number can hold. */
const RANGES: Record<NumberKind, readonly [number, number]> = {
  u8: [0, 255],
  u16: [0, 65_535],
  u24: [0, 16_777_215],
  u32: [0, 4_294_967_295],
  i16: [-32_768, 32_767],
  i32: [-2_147_483_648, 2_147_483_647],
  u64: [0, Number.MAX_SAFE_INTEGER],
  i64: [Number.MIN_SAFE_INTEGER, Number.MAX_SAFE_INTEGER],
}
const KINDS = Object.keys(RANGES) as NumberKind[]

function roundTrip<T>(field: Field<T>, value: T): T {
  const writer = new ByteWriter()
  field.write(writer, value, {})
  return field.read(new ByteReader(writer.finish()), {})
}

describe.each(KINDS)('numbers of kind %s', (kind) => {
  const [low, high] = RANGES[kind]

  it(`come back as they were written (seed ${SEED})`, () => {
    fc.assert(
      fc.property(
        fc.maxSafeInteger().map((value) => Math.min(high, Math.max(low, value))),
        (value) => {
          const writer = new ByteWriter()
          writer[kind](value)
          expect(new ByteReader(writer.finish())[kind]()).toBe(value)
        },
      ),
      { seed: SEED },
    )
  })

  it('come back at both ends of their range', () => {
    for (const value of [low, high]) {
      const writer = new ByteWriter()
      writer[kind](value)
      expect(new ByteReader(writer.finish())[kind]()).toBe(value)
    }
  })

  it('are refused outside their range and between integers', () => {
    for (const value of [low - 1, high + 1, 0.5, NaN, Infinity]) {
      expect(() => new ByteWriter()[kind](value), String(value)).toThrow(RangeError)
    }
  })

  it('are not read past the end', () => {
    expect(() => new ByteReader(new Uint8Array(0))[kind]()).toThrow(
      expect.objectContaining({ code: 'media/truncated' }),
    )
  })
})

describe('a byte reader', () => {
  it('tells where in the file it stopped', () => {
    const reader = new ByteReader(Uint8Array.from([1, 2, 3]), 1000)
    reader.u16()
    expect(() => reader.u32()).toThrow(
      expect.objectContaining({ code: 'media/truncated', offset: 1002 }),
    )
  })
  it('refuses 64-bit numbers that a double cannot hold', () => {
    const bytes = Uint8Array.from([0x00, 0x20, 0, 0, 0, 0, 0, 1])
    expect(() => new ByteReader(bytes).u64()).toThrow(
      expect.objectContaining({ code: 'media/bad-value' }),
    )
  })
  it('gives views, not copies', () => {
    const bytes = Uint8Array.from([1, 2, 3, 4])
    expect(new ByteReader(bytes).raw(2).buffer).toBe(bytes.buffer)
  })
})

describe('a byte writer', () => {
  it('keeps what stands when it grows, whatever the size (seed 77)', () => {
    fc.assert(
      fc.property(fc.array(fc.uint8Array({ maxLength: 400 }), { maxLength: 12 }), (parts) => {
        const writer = new ByteWriter()
        for (const part of parts) writer.raw(part)
        expect([...writer.finish()]).toEqual(parts.flatMap((part) => [...part]))
      }),
      { seed: SEED },
    )
  })
  it('patches a size that is known only afterwards', () => {
    const writer = new ByteWriter()
    writer.u32(0)
    writer.tag('free')
    writer.patchU32(0, writer.length)
    expect([...writer.finish()]).toEqual([0, 0, 0, 8, 0x66, 0x72, 0x65, 0x65])
  })
})

describe('a bit reader', () => {
  // The examples of ITU-T H.264, table 9-2.
  it.each([
    ['1', 0],
    ['010', 1],
    ['011', 2],
    ['00100', 3],
    ['00111', 6],
    ['0001000', 7],
  ])('reads Exp-Golomb %s as %i', (bits, value) => {
    expect(new BitReader(Uint8Array.from([parseInt(bits.padEnd(8, '0'), 2)])).ue()).toBe(value)
  })
  it.each([
    ['1', 0],
    ['010', 1],
    ['011', -1],
    ['00100', 2],
    ['00101', -2],
  ])('reads signed Exp-Golomb %s as %i', (bits, value) => {
    expect(new BitReader(Uint8Array.from([parseInt(bits.padEnd(8, '0'), 2)])).se()).toBe(value)
  })
  it('ends in a coded error on a run of zeros without end', () => {
    expect(() => new BitReader(new Uint8Array(16)).ue()).toThrow(
      expect.objectContaining({ code: 'media/bad-value' }),
    )
    expect(() => new BitReader(new Uint8Array(1)).ue()).toThrow(
      expect.objectContaining({ code: 'media/truncated' }),
    )
  })
})

describe('fields', () => {
  it('round fixed point instead of cutting it', () => {
    const field = fixed('u32', 16)
    expect(roundTrip(field, 640.5)).toBe(640.5)
    expect(roundTrip(field, 1 / 3)).toBeCloseTo(1 / 3, 4)
    expect(() => roundTrip(fixed('u16', 8), 256)).toThrow(RangeError)
  })
  it('take the shape that the version asks for', () => {
    const field = struct({ version: u8, time: byVersion(u32, u64) })
    expect(roundTrip(field, { version: 1, time: 2 ** 40 })).toEqual({ version: 1, time: 2 ** 40 })
    expect(() => roundTrip(field, { version: 0, time: 2 ** 40 })).toThrow(RangeError)
  })
  it('are there only when their flag says so', () => {
    const field = struct({ flags: u8, extra: whenFlag(4, u16) })
    expect(roundTrip(field, { flags: 4, extra: 9 })).toEqual({ flags: 4, extra: 9 })
    expect(roundTrip(field, { flags: 3, extra: null })).toEqual({ flags: 3, extra: null })
    expect(() => roundTrip(field, { flags: 0, extra: 9 })).toThrow(RangeError)
  })
  it('count their items, and refuse a count beyond the bytes', () => {
    const field = counted(u32, u16)
    expect(roundTrip(field, [1, 2, 3])).toEqual([1, 2, 3])
    const lying = Uint8Array.from([0, 0, 0, 9, 0, 1])
    expect(() => field.read(new ByteReader(lying), {})).toThrow(
      expect.objectContaining({ code: 'media/bad-size' }),
    )
  })
})

describe('byte sources', () => {
  const bytes = Uint8Array.from({ length: 1000 }, (_, index) => index & 255)

  it('give fewer bytes only where the file ends', async () => {
    expect(await memorySource(bytes).read(990, 50)).toHaveLength(10)
    expect(await memorySource(bytes).read(2000, 50)).toHaveLength(0)
  })
  it('count what is read through them', async () => {
    const source = countingSource(memorySource(bytes))
    await source.read(0, 10)
    await source.read(995, 10)
    expect(source.counts).toEqual({ reads: 2, bytes: 15 })
  })
  it('serve neighbours from one window, and give the same bytes as without (seed 77)', async () => {
    const counting = countingSource(memorySource(bytes))
    const windowed = windowedSource(counting, 256)
    for (let at = 0; at < 200; at += 10) await windowed.read(at, 10)
    expect(counting.counts.reads).toBe(1)
    await fc.assert(
      fc.asyncProperty(fc.nat(1100), fc.nat(600), async (offset, length) => {
        expect([...(await windowed.read(offset, length))]).toEqual([
          ...(await memorySource(bytes).read(offset, length)),
        ])
      }),
      { seed: SEED },
    )
  })
})
