import { rest, struct, u16, u24, u8 } from '../../../bytes/fields'

/** VP8/VP9 configuration. Source: "VP Codec ISO Media File Format Binding", v1.0 (WebM project). */
export const vpcC = struct({
  version: u8, // 1
  flags: u24,
  profile: u8,
  level: u8, // 10 times the level: 31 is 3.1
  depthChromaRange: u8, // bit depth (4 bits), chroma subsampling (3), full range (1)
  colourPrimaries: u8, // ISO/IEC 23091-2 code points
  transferCharacteristics: u8,
  matrixCoefficients: u8,
  initialisationSize: u16, // 0
  initialisation: rest,
})
