import { counted, struct, u24, u32, u8 } from '../../../bytes/fields'

/** Samples to chunks, as runs. Source: ISO/IEC 14496-12:2022, clause 8.7.4. */
export const stsc = struct({
  version: u8,
  flags: u24,
  runs: counted(u32, struct({ firstChunk: u32, samplesPerChunk: u32, descriptionIndex: u32 })),
})
