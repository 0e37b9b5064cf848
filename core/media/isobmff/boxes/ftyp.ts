import { rest, struct, tag, u32 } from '../../../bytes/fields'

/** File type. Source: ISO/IEC 14496-12:2022, clause 4.3. */
export const ftyp = struct({
  majorBrand: tag,
  minorVersion: u32,
  compatibleBrands: rest, // four bytes a brand
})
