import { reserved, rest, struct, tag, u24, u32, u8 } from '../../../bytes/fields'

/** Handler. Source: ISO/IEC 14496-12:2022, clause 8.4.3. */
export const hdlr = struct({
  version: u8,
  flags: u24,
  predefined: u32,
  handlerType: tag, // 'vide', 'soun', 'hint', 'meta', …
  reserved: reserved(12),
  name: rest,
})
