import { struct, u16, u24, u8 } from '../../../bytes/fields'

/** The primary item (version 0). Source: ISO/IEC 14496-12:2022, clause 8.11.4. */
export const pitm = struct({ version: u8, flags: u24, itemId: u16 })
