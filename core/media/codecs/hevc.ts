import { ByteReader } from '../../bytes/ByteReader'

/** HEVC codec string from the `hvcC` payload. Source: ISO/IEC 14496-15:2022, annex E.3 and clause 8.3.3.1. */
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
  return [entry, `${space}${general & 31}`, reversed, `${tier}${level}`, ...constraints.map((byte) => byte.toString(16))].join('.')
}

function reverseBits(value: number): number {
  let reversed = 0
  for (let bit = 0; bit < 32; bit++) reversed = reversed * 2 + ((value >>> bit) & 1)
  return reversed
}
