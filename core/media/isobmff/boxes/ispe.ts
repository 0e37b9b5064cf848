import { struct, u24, u32, u8 } from '../../../bytes/fields'

/** Size of an image item in pixels. Source: ISO/IEC 23008-12:2022, clause 6.5.3. */
export const ispe = struct({ version: u8, flags: u24, width: u32, height: u32 })
