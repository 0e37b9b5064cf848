import { struct, u32 } from '../../../bytes/fields'

/** Pixel aspect. Source: ISO/IEC 14496-12:2022, clause 12.1.4. */
export const pasp = struct({ horizontal: u32, vertical: u32 })
