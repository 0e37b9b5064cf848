import { rest, struct, tag, u16, u24, u8 } from '../../../bytes/fields'

/** An item's entry (version 2). Source: ISO/IEC 14496-12:2022, clause 8.11.6. */
export const infe = struct({
  version: u8,
  flags: u24,
  itemId: u16,
  protectionIndex: u16, // 0: not protected
  itemType: tag, // 'av01'
  name: rest, // ends in a zero
})
