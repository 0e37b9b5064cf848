import { struct, u24, u32, u64, u8, whenFlag } from '../../../bytes/fields'

/** Track fragment header. Source: ISO/IEC 14496-12:2022, clause 8.8.7. */
export const tfhd = struct({
  version: u8,
  flags: u24, // 0x20000: offsets count from the start of this moof
  trackId: u32,
  baseDataOffset: whenFlag(0x1, u64),
  descriptionIndex: whenFlag(0x2, u32),
  sampleDuration: whenFlag(0x8, u32),
  sampleSize: whenFlag(0x10, u32),
  sampleFlags: whenFlag(0x20, u32),
})
