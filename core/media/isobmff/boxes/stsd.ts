import { rest, struct, u24, u32, u8 } from '../../../bytes/fields'

/**
 * Sample descriptions; the entries are boxes themselves. Source: ISO/IEC 14496-12:2022, clause
 * 8.5.2.
 */
export const stsd = struct({ version: u8, flags: u24, entryCount: u32, entries: rest })
