import { struct, u24, u32, u8 } from '../../../bytes/fields'

/** Defaults for a track's fragments. Source: ISO/IEC 14496-12:2022, clause 8.8.3. */
export const trex = struct({
  version: u8,
  flags: u24,
  trackId: u32,
  descriptionIndex: u32,
  sampleDuration: u32,
  sampleSize: u32,
  sampleFlags: u32,
})
