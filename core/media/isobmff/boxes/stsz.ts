import { checkCount, struct, u24, u8, type Field } from '../../../bytes/fields'

/**
 * One size for all samples, or a size each. A shared size is kept as a number and never spread out
 * here.
 */
export type SampleSizes =
  { readonly shared: number; readonly count: number } | { readonly each: readonly number[] }

const sizes: Field<SampleSizes> = {
  minBytes: 8,
  read(reader) {
    const shared = reader.u32()
    const count = reader.u32()
    if (shared !== 0) return { shared, count }
    checkCount(reader, count, 4)
    return { each: Array.from({ length: count }, () => reader.u32()) }
  },
  write(writer, value) {
    if ('shared' in value) {
      writer.u32(value.shared)
      writer.u32(value.count)
      return
    }
    writer.u32(0)
    writer.u32(value.each.length)
    for (const size of value.each) writer.u32(size)
  },
}

/** Sample sizes in bytes. Source: ISO/IEC 14496-12:2022, clause 8.7.3.2. */
export const stsz = struct({ version: u8, flags: u24, sizes })
