import { counted, struct, u24, u32, u8 } from '../../../bytes/fields'

/** Key frames, numbered from 1. Source: ISO/IEC 14496-12:2022, clause 8.6.2. */
export const stss = struct({ version: u8, flags: u24, sampleNumbers: counted(u32, u32) })
