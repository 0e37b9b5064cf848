import { counted, i32, struct, u24, u32, u8 } from '../../../bytes/fields'

/**
 * Composition offsets as runs. Source: ISO/IEC 14496-12:2022, clause 8.6.1.3. Version 0 says
 * unsigned, but files with negative offsets and version 0 are common: signed reading serves both.
 */
export const ctts = struct({
  version: u8,
  flags: u24,
  runs: counted(u32, struct({ count: u32, offset: i32 })),
})
