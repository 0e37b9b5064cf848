import { counted, struct, u24, u32, u8 } from '../../../bytes/fields'

/** Chunk offsets from the start of the file. Source: ISO/IEC 14496-12:2022, clause 8.7.5. */
export const stco = struct({ version: u8, flags: u24, offsets: counted(u32, u32) })
