import { byVersion, struct, u16, u24, u32, u64, u8 } from '../../../bytes/fields'

/** Media header. Source: ISO/IEC 14496-12:2022, clause 8.4.2. */
export const mdhd = struct({
  version: u8,
  flags: u24,
  creationTime: byVersion(u32, u64),
  modificationTime: byVersion(u32, u64),
  timescale: u32, // ticks a second
  duration: byVersion(u32, u64), // in ticks of `timescale`
  language: u16, // three letters of five bits; 0x55c4 is "und"
  predefined: u16,
})
