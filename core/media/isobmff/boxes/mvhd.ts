import { blob, byVersion, fixed, reserved, struct, u24, u32, u64, u8 } from '../../../bytes/fields'

/** Movie header. Source: ISO/IEC 14496-12:2022, clause 8.2.2. */
export const mvhd = struct({
  version: u8,
  flags: u24,
  creationTime: byVersion(u32, u64), // seconds since 1904-01-01
  modificationTime: byVersion(u32, u64),
  timescale: u32, // ticks a second, for edit lists and the movie's duration
  duration: byVersion(u32, u64), // in ticks of `timescale`
  rate: fixed('i32', 16),
  volume: fixed('i16', 8),
  reserved: reserved(10),
  matrix: blob(36),
  predefined: reserved(24),
  nextTrackId: u32,
})
