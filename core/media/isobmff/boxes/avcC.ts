import { blob, checkCount, rest, struct, u16, u8, type Field } from '../../../bytes/fields'

/** A NAL unit with its 16-bit length before it. */
const unit: Field<Uint8Array> = {
  minBytes: 2,
  read: (reader, scope) => {
    const length = u16.read(reader, scope)
    return blob(length).read(reader, scope)
  },
  write: (writer, value, scope) => {
    u16.write(writer, value.byteLength, scope)
    writer.raw(value)
  },
}

/** A count in the low `bits` bits of a byte (the rest are ones), then so many NAL units. */
function units(bits: number): Field<Uint8Array[]> {
  const mask = 2 ** bits - 1
  return {
    minBytes: 1,
    read: (reader, scope) => {
      const count = reader.u8() & mask
      checkCount(reader, count, unit.minBytes)
      return Array.from({ length: count }, () => unit.read(reader, scope))
    },
    write: (writer, value, scope) => {
      if (value.length > mask)
        throw new RangeError(`${value.length} NAL units do not fit in ${bits} bits`)
      writer.u8((0xff & ~mask) | value.length)
      for (const each of value) unit.write(writer, each, scope)
    },
  }
}

/** H.264 decoder configuration. Source: ISO/IEC 14496-15:2022, clause 5.3.3.1. */
export const avcC = struct({
  configurationVersion: u8, // 1
  profile: u8, // profile_idc
  compatibility: u8, // constraint flags
  level: u8, // level_idc
  lengthSizeMinusOne: u8, // low two bits; the rest are ones
  sps: units(5),
  pps: units(8),
  extension: rest, // chroma and depth, for the high profiles
})
