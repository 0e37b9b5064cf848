import {
  byVersion,
  counted,
  i16,
  i32,
  i64,
  struct,
  u24,
  u32,
  u64,
  u8,
  type Field,
  type Scope,
  type StructOf,
} from '../../../bytes/fields'

const entryFields = {
  segmentDuration: byVersion(u32, u64), // in ticks of the movie's timescale
  mediaTime: byVersion(i32, i64), // in ticks of the media's timescale; −1 is an empty edit
  rateInteger: i16,
  rateFraction: i16,
}

/** Like `struct`, but its fields look at the version of the box around them. */
function inOuterScope<F extends Record<string, Field<number>>>(fields: F): Field<StructOf<F>> {
  const entries = Object.entries(fields)
  return {
    minBytes: entries.reduce((sum, [, field]) => sum + field.minBytes, 0),
    read: (reader, scope: Scope) =>
      Object.fromEntries(
        entries.map(([name, field]) => [name, field.read(reader, scope)]),
      ) as StructOf<F>,
    write: (writer, value, scope) => {
      for (const [name, field] of entries)
        field.write(writer, (value as Record<string, number>)[name]!, scope)
    },
  }
}

/** Edit list. Source: ISO/IEC 14496-12:2022, clause 8.6.6. */
export const elst = struct({
  version: u8,
  flags: u24,
  entries: counted(u32, inOuterScope(entryFields)),
})
