import { ByteReader } from '../../bytes/ByteReader'
import type { StreamFacts } from '../MediaFile'

/**
 * HEVC codec string from the `hvcC` payload. Source: ISO/IEC 14496-15:2022, annex E.3 and clause
 * 8.3.3.1.
 */
export function hevcCodecString(entry: string, hvcC: Uint8Array): string {
  const reader = new ByteReader(hvcC)
  reader.u8()
  const general = reader.u8()
  const compatibility = reader.u32()
  const constraints = [...reader.raw(6)]
  const level = reader.u8()
  const space = ['', 'A', 'B', 'C'][general >> 6]!
  const tier = general & 0x20 ? 'H' : 'L'
  while (constraints.length > 0 && constraints[constraints.length - 1] === 0) constraints.pop()
  const reversed = reverseBits(compatibility).toString(16)
  return [
    entry,
    `${space}${general & 31}`,
    reversed,
    `${tier}${level}`,
    ...constraints.map((byte) => byte.toString(16)),
  ].join('.')
}

const PROFILES: Readonly<Record<number, string>> = {
  1: 'Main',
  2: 'Main 10',
  3: 'Main Still Picture',
  4: 'Range Extensions',
}
const CHROMA = ['4:0:0', '4:2:0', '4:2:2', '4:4:4'] as const

/**
 * What the configuration record says of the stream; it carries no picture size. Source: ISO/IEC
 * 14496-15:2022, clause 8.3.3.1.
 */
export function describeHevc(hvcC: Uint8Array): StreamFacts {
  const reader = new ByteReader(hvcC)
  reader.raw(1)
  const profile = reader.u8() & 31
  reader.raw(10)
  // general_level_idc is thirty times the level.
  const level = (reader.u8() / 30).toFixed(1)
  reader.raw(3)
  const chroma = CHROMA[reader.u8() & 3]!
  return {
    profile: PROFILES[profile] ?? String(profile),
    level,
    bitDepth: 8 + (reader.u8() & 7),
    chroma,
    width: null,
    height: null,
    colour: null,
  }
}

function reverseBits(value: number): number {
  let reversed = 0
  for (let bit = 0; bit < 32; bit++) reversed = reversed * 2 + ((value >>> bit) & 1)
  return reversed
}
