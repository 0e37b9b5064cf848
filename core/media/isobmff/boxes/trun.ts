import { checkCount, i32, struct, u24, u32, u8, whenFlag, type Field } from '../../../bytes/fields'

/** A sample of a run; null where the defaults of `tfhd` or `trex` hold. */
export interface RunSample {
  readonly duration: number | null
  readonly size: number | null
  readonly flags: number | null
  readonly compositionOffset: number | null
}

const COLUMNS = [
  ['duration', 0x100, u32],
  ['size', 0x200, u32],
  ['flags', 0x400, u32],
  ['compositionOffset', 0x800, i32],
] as const

/** The samples; their count comes before the optional fields, so it is a field of its own. */
const samples: Field<RunSample[]> = {
  minBytes: 0,
  read(reader, scope) {
    const flags = scope['flags'] as number
    const count = scope['sampleCount'] as number
    const columns = COLUMNS.filter(([, mask]) => (flags & mask) !== 0)
    checkCount(reader, columns.length === 0 ? 0 : count, columns.length * 4)
    if (columns.length === 0 && count > MAX_DEFAULTED_SAMPLES) checkCount(reader, count, 1)
    return Array.from({ length: count }, () => {
      const sample = { duration: null, size: null, flags: null, compositionOffset: null } as Record<
        string,
        number | null
      >
      for (const [name, , field] of columns) sample[name] = field.read(reader, scope)
      return sample as unknown as RunSample
    })
  },
  write(writer, value, scope) {
    const flags = scope['flags'] as number
    for (const sample of value) {
      for (const [name, mask, field] of COLUMNS) {
        if ((flags & mask) !== 0) field.write(writer, sample[name]!, scope)
      }
    }
  },
}

/**
 * A run without any column takes no bytes a sample, so its count cannot be checked against them.
 */
const MAX_DEFAULTED_SAMPLES = 65536

/** Track fragment run. Source: ISO/IEC 14496-12:2022, clause 8.8.8. */
export const trun = struct({
  version: u8,
  flags: u24,
  sampleCount: u32,
  dataOffset: whenFlag(0x1, i32), // bytes from the base offset
  firstSampleFlags: whenFlag(0x4, u32),
  samples,
})
