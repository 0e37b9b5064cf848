import { counted, struct, u16, u24, u32, u8 } from '../../../bytes/fields'

/**
 * Where items lie (version 0, offsets and lengths of four bytes, no base). Source: ISO/IEC
 * 14496-12:2022, clause 8.11.3.
 */
export const iloc = struct({
  version: u8,
  flags: u24,
  sizes: u16, // 0x4400: offset size, length size, base offset size (4 bits each), reserved
  items: counted(
    u16,
    struct({
      itemId: u16,
      dataReferenceIndex: u16,
      extents: counted(u16, struct({ offset: u32, length: u32 })),
    }),
  ),
})
