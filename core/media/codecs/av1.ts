import { BitReader } from '../../bytes/BitReader'
import { ContainerError } from '../../bytes/ContainerError'
import type { ColourFacts } from '../MediaFile'

/** What names an AV1 stream in a codec string and in `av1C`. */
export interface Av1Facts {
  readonly profile: number
  /** `seq_level_idx`: 5 is 3.1. */
  readonly level: number
  readonly highTier: boolean
  readonly bitDepth: number
  readonly monochrome: boolean
  readonly subX: number
  readonly subY: number
}

/** A sequence header: the facts with size and colour. */
export interface Av1Sequence extends Av1Facts {
  readonly width: number
  readonly height: number
  readonly colour: ColourFacts
}

/** The facts in an `av1C` record. */
export function readAv1Config(record: { profileLevel: number; tierDepthChroma: number }): Av1Facts {
  const flags = record.tierDepthChroma
  return {
    profile: record.profileLevel >> 5,
    level: record.profileLevel & 31,
    highTier: (flags & 0x80) !== 0,
    bitDepth: flags & 0x40 ? (flags & 0x20 ? 12 : 10) : 8,
    monochrome: (flags & 0x10) !== 0,
    subX: (flags >> 3) & 1,
    subY: (flags >> 2) & 1,
  }
}

/** Source: "AV1 Codec ISO Media File Format Binding" v1.2.0, clause 5, the short form. */
export function av1CodecString(facts: Av1Facts): string {
  const level = String(facts.level).padStart(2, '0')
  return `av01.${facts.profile}.${level}${facts.highTier ? 'H' : 'M'}.${String(facts.bitDepth).padStart(2, '0')}`
}

/**
 * `seq_level_idx` with the largest picture, its longest sides, and the samples a second it allows.
 * Source: AV1 Bitstream & Decoding Process specification, annex A.3.
 */
const LEVELS = [
  { index: 0, samples: 147_456, width: 2048, height: 1152, rate: 4_423_680 },
  { index: 1, samples: 278_784, width: 2816, height: 1584, rate: 8_363_520 },
  { index: 4, samples: 665_856, width: 4352, height: 2448, rate: 19_975_680 },
  { index: 5, samples: 1_065_024, width: 5504, height: 3096, rate: 31_950_720 },
  { index: 8, samples: 2_359_296, width: 6144, height: 3456, rate: 70_778_880 },
  { index: 9, samples: 2_359_296, width: 6144, height: 3456, rate: 141_557_760 },
  { index: 12, samples: 8_912_896, width: 8192, height: 4352, rate: 267_386_880 },
  { index: 13, samples: 8_912_896, width: 8192, height: 4352, rate: 534_773_760 },
] as const

/**
 * The lowest level, as `seq_level_idx`, that allows pictures of this size so often; 13 (level 5.1)
 * for all that exceed them.
 */
export function lowestAv1Level(width: number, height: number, framesPerSecond: number): number {
  const fits = LEVELS.find(
    (level) =>
      width * height <= level.samples &&
      width <= level.width &&
      height <= level.height &&
      width * height * framesPerSecond <= level.rate,
  )
  return (fits ?? LEVELS[LEVELS.length - 1]!).index
}

/** An open bitstream unit: its type and its bytes, whole and without header. */
export interface Obu {
  readonly type: number
  readonly whole: Uint8Array
  readonly payload: Uint8Array
}

const SEQUENCE_HEADER = 1
const TEMPORAL_DELIMITER = 2

/**
 * Splits a temporal unit. Source: AV1 Bitstream & Decoding Process specification, clauses 5.3 and
 * 4.10.5.
 */
export function splitObus(bytes: Uint8Array): Obu[] {
  const found: Obu[] = []
  let at = 0
  while (at < bytes.byteLength) {
    const header = bytes[at]!
    const start = at
    at += header & 4 ? 2 : 1
    let size = bytes.byteLength - at
    if (header & 2) {
      const length = leb128(bytes, at)
      if (!length) throw new ContainerError('media/truncated', { offset: at, subject: 'OBU' })
      size = length.value
      at = length.next
    }
    if (size < 0 || size > bytes.byteLength - at)
      throw new ContainerError('media/bad-size', { offset: start, subject: 'OBU' })
    found.push({
      type: (header >> 3) & 15,
      whole: bytes.subarray(start, at + size),
      payload: bytes.subarray(at, at + size),
    })
    at += size
  }
  return found
}

/** A temporal unit without its delimiters, as containers want it. */
export function stripDelimiters(unit: Uint8Array): Uint8Array {
  const kept = splitObus(unit).filter((obu) => obu.type !== TEMPORAL_DELIMITER)
  const joined = new Uint8Array(kept.reduce((sum, obu) => sum + obu.whole.byteLength, 0))
  kept.reduce((at, obu) => {
    joined.set(obu.whole, at)
    return at + obu.whole.byteLength
  }, 0)
  return joined
}

/** The sequence header of a temporal unit and its facts, or null where there is none. */
export function findAv1Sequence(unit: Uint8Array): { obu: Uint8Array; facts: Av1Sequence } | null {
  const obu = obusSoFar(unit).find((each) => each.type === SEQUENCE_HEADER)
  return obu ? { obu: obu.whole, facts: parseAv1Sequence(obu.payload) } : null
}

const FRAME_HEADER = 3
const FRAME = 6

/**
 * Whether a temporal unit begins with a key frame: a sequence header, then a frame of type
 * KEY_FRAME that is shown; null where it holds no frame. A unit that was read in part is judged by
 * what is there. Source: AV1 specification, clauses 5.9.2 and 7.6.
 */
export function isAv1KeyFrame(unit: Uint8Array): boolean | null {
  const obus = obusSoFar(unit)
  const sequence = obus.find((each) => each.type === SEQUENCE_HEADER)
  const frame = obus.find((each) => each.type === FRAME || each.type === FRAME_HEADER)
  if (!frame || frame.payload.byteLength === 0) return null
  if (!sequence) return false
  const reduced = sequence.payload.byteLength > 0 && (sequence.payload[0]! & 0x08) !== 0
  if (reduced) return true
  const head = frame.payload[0]!
  const showsExisting = (head & 0x80) !== 0
  return !showsExisting && ((head >> 5) & 3) === 0
}

/** Like `splitObus`, but the last unit may be cut short. */
function obusSoFar(bytes: Uint8Array): Obu[] {
  const obus: Obu[] = []
  let at = 0
  while (at < bytes.byteLength) {
    const header = bytes[at]!
    let body = at + (header & 4 ? 2 : 1)
    let size = bytes.byteLength - body
    if (header & 2) {
      const length = leb128(bytes, body)
      if (!length) break
      size = length.value
      body = length.next
    }
    const end = Math.min(bytes.byteLength, body + size)
    if (body > bytes.byteLength) break
    obus.push({
      type: (header >> 3) & 15,
      whole: bytes.subarray(at, end),
      payload: bytes.subarray(body, end),
    })
    at = Math.max(end, at + 1)
  }
  return obus
}

/**
 * A little-endian number in groups of seven bits; null where it does not end in time. Source: AV1
 * specification, clause 4.10.5.
 */
function leb128(bytes: Uint8Array, start: number): { value: number; next: number } | null {
  let value = 0
  for (let index = 0; index < 5; index++) {
    const byte = bytes[start + index]
    if (byte === undefined) return null
    value += (byte & 127) * 2 ** (7 * index)
    if (byte < 128) return { value, next: start + index + 1 }
  }
  return null
}

/** Reads a sequence header OBU's payload. Source: AV1 specification, clause 5.5. */
function parseAv1Sequence(payload: Uint8Array): Av1Sequence {
  const bits = new BitReader(payload)
  const profile = bits.bits(3)
  bits.skip(1)
  const reduced = bits.flag()
  const { level, highTier } = reduced
    ? { level: bits.bits(5), highTier: false }
    : operatingPoint(bits)
  const widthBits = bits.bits(4) + 1
  const heightBits = bits.bits(4) + 1
  const width = bits.bits(widthBits) + 1
  const height = bits.bits(heightBits) + 1
  if (!reduced && bits.flag()) bits.skip(7) // frame ids
  bits.skip(3) // superblock size, filter intra, intra edge filter
  if (!reduced) skipTools(bits)
  bits.skip(3) // superres, cdef, restoration
  return { profile, level, highTier, width, height, ...colourConfig(bits, profile) }
}

/** Clause 5.5.1: timing, decoder model and operating points; the first point counts. */
function operatingPoint(bits: BitReader): { level: number; highTier: boolean } {
  let modelInfo = false
  let delayBits = 0
  if (bits.flag()) {
    bits.skip(64)
    if (bits.flag()) bits.ue()
    modelInfo = bits.flag()
    if (modelInfo) {
      delayBits = bits.bits(5) + 1
      bits.skip(42)
    }
  }
  const initialDelay = bits.flag()
  const points = bits.bits(5) + 1
  let first = { level: 0, highTier: false }
  for (let point = 0; point < points; point++) {
    bits.skip(12)
    const level = bits.bits(5)
    const highTier = level > 7 && bits.flag()
    if (modelInfo && bits.flag()) bits.skip(2 * delayBits + 1)
    if (initialDelay && bits.flag()) bits.skip(4)
    if (point === 0) first = { level, highTier }
  }
  return first
}

/** Clause 5.5.1, from enable_interintra_compound to order_hint_bits_minus_1. */
function skipTools(bits: BitReader): void {
  bits.skip(4) // interintra, masked compound, warped motion, dual filter
  const orderHint = bits.flag()
  if (orderHint) bits.skip(2) // jnt_comp, ref_frame_mvs
  const screenContent = bits.flag() ? 2 : bits.bit()
  if (screenContent > 0 && !bits.flag()) bits.skip(1) // integer motion vectors
  if (orderHint) bits.skip(3)
}

function colourConfig(bits: BitReader, profile: number) {
  const high = bits.flag()
  const bitDepth = profile === 2 && high ? (bits.flag() ? 12 : 10) : high ? 10 : 8
  const monochrome = profile !== 1 && bits.flag()
  const described = bits.flag()
  const [primaries, transfer, matrix] = described
    ? [bits.bits(8), bits.bits(8), bits.bits(8)]
    : [2, 2, 2]
  if (!monochrome && primaries === 1 && transfer === 13 && matrix === 0) {
    return {
      bitDepth,
      monochrome,
      subX: 0,
      subY: 0,
      colour: { primaries, transfer, matrix, fullRange: true },
    }
  }
  const fullRange = bits.flag()
  let [subX, subY] = [1, 1]
  if (!monochrome && profile === 1) [subX, subY] = [0, 0]
  else if (!monochrome && profile === 2) {
    subX = bitDepth === 12 ? bits.bit() : 1
    subY = bitDepth === 12 ? (subX ? bits.bit() : 0) : 0
  }
  return { bitDepth, monochrome, subX, subY, colour: { primaries, transfer, matrix, fullRange } }
}
