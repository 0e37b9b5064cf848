import { blob, struct, u16, u24, u8 } from '../../../bytes/fields'

/** Video media header. Source: ISO/IEC 14496-12:2022, clause 12.1.2. */
export const vmhd = struct({ version: u8, flags: u24, graphicsMode: u16, opColor: blob(6) })
