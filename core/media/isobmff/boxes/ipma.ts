import { counted, struct, u16, u24, u32, u8 } from '../../../bytes/fields'

/**
 * Which properties an item has (version 0, short indexes). Source: ISO/IEC 23008-12:2022, clause
 * 9.3.
 */
export const ipma = struct({
  version: u8,
  flags: u24,
  // Top bit: essential; the rest: number of the property, from 1.
  entries: counted(u32, struct({ itemId: u16, properties: counted(u8, u8) })),
})
