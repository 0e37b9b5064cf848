import { byVersion, struct, u24, u32, u64, u8 } from '../../../bytes/fields'

/** Decode time of a fragment's first sample. Source: ISO/IEC 14496-12:2022, clause 8.8.12. */
export const tfdt = struct({ version: u8, flags: u24, baseMediaDecodeTime: byVersion(u32, u64) })
