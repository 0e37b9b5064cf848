import { struct, tag, u16, u8 } from '../../../bytes/fields'

/**
 * Colour by code points (`nclx`). Source: ISO/IEC 14496-12:2022, clause 12.1.5; codes of ISO/IEC
 * 23091-2.
 */
export const colr = struct({
  colourType: tag, // 'nclx'; other kinds are read as unknown
  colourPrimaries: u16,
  transferCharacteristics: u16,
  matrixCoefficients: u16,
  fullRange: u8, // top bit
})
