import { BitReader } from '../../bytes/BitReader'
import { ContainerError } from '../../bytes/ContainerError'
import type { ColourFacts } from '../MediaFile'

/** What an H.264 sequence parameter set says. Sizes in pixels, after cropping. */
export interface SpsFacts {
  readonly profile: number
  readonly compatibility: number
  readonly level: number
  readonly width: number
  readonly height: number
  readonly bitDepth: number
  readonly chroma: number
  /** Whether pictures may be coded as two fields, one after another. */
  readonly interlaced: boolean
  /**
   * How slices say when their picture is shown: the type of the count, and the bits of it and of
   * the frame number.
   */
  readonly order: {
    readonly type: number
    readonly frameNumBits: number
    readonly countBits: number
  }
  readonly colour: ColourFacts | null
}

/** Profiles whose SPS carries chroma and depth. Source: ITU-T H.264 (08/2021), clause 7.3.2.1.1. */
const HIGH_PROFILES = new Set([100, 110, 122, 244, 44, 83, 86, 118, 128, 138, 139, 134, 135])

/**
 * The NAL units of a sample as MP4 and Matroska store them, each after its length; a truncated one
 * is returned as far as it goes.
 */
export function avcNals(sample: Uint8Array, lengthBytes: number): Uint8Array[] {
  const found: Uint8Array[] = []
  let at = 0
  while (at + lengthBytes < sample.byteLength) {
    let length = 0
    for (let index = 0; index < lengthBytes; index++) length = length * 256 + sample[at++]!
    if (length === 0) continue
    found.push(sample.subarray(at, at + length))
    at += length
  }
  return found
}

/** Bytes of the length before each NAL unit, from `avcC`; null if it is too short. */
export function avcLengthBytes(description: Uint8Array | null): number | null {
  return description && description.byteLength > 4 ? (description[4]! & 3) + 1 : null
}

/** Slices and data partitions: the units that hold a picture. */
const isPictureUnit = (nal: Uint8Array): boolean => (nal[0]! & 31) >= 1 && (nal[0]! & 31) <= 5
/** SEI, sequence and picture parameter sets. Source: ITU-T H.264 (08/2021), table 7-1. */
const START_UNIT_TYPES = new Set([6, 7, 8])

/**
 * The SEI and parameter sets before the first picture unit of a sample, each after its length of
 * `lengthBytes`, as in the sample. Units that are cut short are left out.
 */
export function unitsBeforePicture(
  sample: Uint8Array,
  lengthBytes: number,
): Uint8Array<ArrayBuffer> {
  const kept: Uint8Array[] = []
  for (const nal of avcNals(sample, lengthBytes)) {
    if (isPictureUnit(nal)) break
    const isWhole = nal.byteOffset + nal.byteLength < sample.byteOffset + sample.byteLength
    if (isWhole && START_UNIT_TYPES.has(nal[0]! & 31)) kept.push(nal)
  }
  const units = new Uint8Array(kept.reduce((sum, nal) => sum + lengthBytes + nal.byteLength, 0))
  let at = 0
  for (const nal of kept) {
    for (let index = lengthBytes - 1; index >= 0; index--)
      units[at++] = (nal.byteLength >>> (8 * index)) & 255
    units.set(nal, at)
    at += nal.byteLength
  }
  return units
}

/**
 * Removes the emulation prevention bytes (00 00 03). Source: ITU-T H.264 (08/2021), clause 7.4.1.
 */
export function unescapeNal(nal: Uint8Array): Uint8Array {
  const plain = new Uint8Array(nal.byteLength)
  let length = 0
  let zeros = 0
  for (const byte of nal) {
    if (zeros >= 2 && byte === 3) {
      zeros = 0
      continue
    }
    zeros = byte === 0 ? zeros + 1 : 0
    plain[length++] = byte
  }
  return plain.subarray(0, length)
}

/**
 * Reads a sequence parameter set (with its NAL header byte). Source: ITU-T H.264 (08/2021), clauses
 * 7.3.2.1.1 and E.1.1.
 */
export function parseSps(nal: Uint8Array): SpsFacts {
  const bits = new BitReader(unescapeNal(nal))
  bits.skip(8)
  const profile = bits.bits(8)
  const compatibility = bits.bits(8)
  const level = bits.bits(8)
  bits.ue() // seq_parameter_set_id
  let chroma = 1
  let bitDepth = 8
  let separatePlanes = false
  if (HIGH_PROFILES.has(profile)) {
    chroma = bits.ue()
    if (chroma === 3) separatePlanes = bits.flag()
    bitDepth = 8 + bits.ue()
    bits.ue()
    bits.skip(1)
    if (bits.flag()) skipScalingLists(bits, chroma === 3 ? 12 : 8)
  }
  const frameNumBits = bits.ue() + 4
  const order = { frameNumBits, ...readOrderCount(bits) }
  bits.ue() // max_num_ref_frames
  bits.skip(1)
  const widthInBlocks = bits.ue() + 1
  const heightInUnits = bits.ue() + 1
  const framesOnly = bits.flag()
  if (!framesOnly) bits.skip(1)
  bits.skip(1)
  const crop = bits.flag() ? [bits.ue(), bits.ue(), bits.ue(), bits.ue()] : [0, 0, 0, 0]
  if (chroma > 3 || bitDepth > 14 || Math.max(frameNumBits, order.countBits) > 16)
    throw new ContainerError('media/bad-value', { subject: 'H.264 parameter set' })
  const subX = separatePlanes || chroma === 0 || chroma === 3 ? 1 : 2
  const subY = (separatePlanes || chroma !== 1 ? 1 : 2) * (framesOnly ? 1 : 2)
  const width = widthInBlocks * 16 - subX * (crop[0]! + crop[1]!)
  const height = heightInUnits * 16 * (framesOnly ? 1 : 2) - subY * (crop[2]! + crop[3]!)
  if (width <= 0 || height <= 0)
    throw new ContainerError('media/bad-value', { subject: 'H.264 picture size' })
  return {
    profile,
    compatibility,
    level,
    bitDepth,
    chroma,
    interlaced: !framesOnly,
    order,
    width,
    height,
    colour: bits.flag() ? readVuiColour(bits) : null,
  }
}

function skipScalingLists(bits: BitReader, count: number): void {
  for (let list = 0; list < count; list++) {
    if (!bits.flag()) continue
    let next = 8
    for (let index = 0, last = 8; index < (list < 6 ? 16 : 64); index++) {
      if (next !== 0) next = (last + bits.se() + 256) % 256
      last = next === 0 ? last : next
    }
  }
}

function readOrderCount(bits: BitReader): { readonly type: number; readonly countBits: number } {
  const type = bits.ue()
  const countBits = type === 0 ? bits.ue() + 4 : 0
  if (type !== 1) return { type, countBits }
  bits.skip(1)
  bits.se()
  bits.se()
  const cycle = Math.min(255, bits.ue())
  for (let index = 0; index < cycle; index++) bits.se()
  return { type, countBits }
}

function readVuiColour(bits: BitReader): ColourFacts | null {
  if (bits.flag() && bits.bits(8) === 255) bits.skip(32) // aspect_ratio_idc, extended
  if (bits.flag()) bits.skip(1) // overscan
  if (!bits.flag()) return null // video_signal_type_present_flag
  bits.skip(3)
  const fullRange = bits.flag()
  if (!bits.flag()) return { primaries: 2, transfer: 2, matrix: 2, fullRange }
  return { primaries: bits.bits(8), transfer: bits.bits(8), matrix: bits.bits(8), fullRange }
}

/** Source: RFC 6381, clause 3.3: `avc1.` and three bytes in hex. */
export function avcCodecString(
  entry: string,
  facts: Pick<SpsFacts, 'profile' | 'compatibility' | 'level'>,
): string {
  return `${entry}.${[facts.profile, facts.compatibility, facts.level].map((byte) => byte.toString(16).padStart(2, '0')).join('')}`
}

/**
 * Table A-1 of ITU-T H.264 (08/2021): level number ×10, macroblocks a second, macroblocks a frame,
 * kbit/s (Baseline and Main).
 */
const LEVELS = [
  [30, 40_500, 1_620, 10_000],
  [31, 108_000, 3_600, 14_000],
  [32, 216_000, 5_120, 20_000],
  [40, 245_760, 8_192, 20_000],
  [42, 522_240, 8_704, 50_000],
  [50, 589_824, 22_080, 135_000],
  [51, 983_040, 36_864, 240_000],
  [52, 2_073_600, 36_864, 240_000],
] as const

/**
 * The lowest level (×10) that holds a picture of this size, rate and bit rate; the highest where
 * none does.
 */
export function lowestAvcLevel(
  width: number,
  height: number,
  framesPerSecond: number,
  bitsPerSecond: number,
): number {
  const blocks = Math.ceil(width / 16) * Math.ceil(height / 16)
  const fitting = LEVELS.find(
    ([, rate, frame, kilobits]) =>
      blocks <= frame && blocks * framesPerSecond <= rate && bitsPerSecond <= kilobits * 1000,
  )
  return (fitting ?? LEVELS[LEVELS.length - 1]!)[0]
}
