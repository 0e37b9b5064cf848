import { counted, struct, u24, u8 } from '../../../bytes/fields'

/** Bits of each channel of an image item. Source: ISO/IEC 23008-12:2022, clause 6.5.6. */
export const pixi = struct({ version: u8, flags: u24, bits: counted(u8, u8) })
