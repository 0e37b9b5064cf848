import { counted, struct, u24, u32, u8 } from '../../../bytes/fields'

/** Decoding times as runs. Source: ISO/IEC 14496-12:2022, clause 8.6.1.2. */
export const stts = struct({
  version: u8,
  flags: u24,
  runs: counted(u32, struct({ count: u32, delta: u32 })),
})
