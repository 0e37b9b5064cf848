import { rest, struct, u8 } from '../../../bytes/fields'

/** AV1 configuration. Source: "AV1 Codec ISO Media File Format Binding", v1.2.0, clause 2.3. */
export const av1C = struct({
  marker: u8, // 0x81: marker and version 1
  profileLevel: u8, // seq_profile (3 bits), seq_level_idx_0 (5)
  tierDepthChroma: u8, // tier, high depth, twelve bit, mono, subsampling x and y, position (2)
  presentationDelay: u8,
  configObus: rest, // the sequence header OBU
})
