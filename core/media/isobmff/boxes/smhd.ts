import { fixed, reserved, struct, u24, u8 } from '../../../bytes/fields'

/** Sound media header. Source: ISO/IEC 14496-12:2022, clause 12.2.2. */
export const smhd = struct({
  version: u8,
  flags: u24,
  balance: fixed('i16', 8),
  reserved: reserved(2),
})
