import { blob, fixed, reserved, rest, struct, u16 } from '../../../bytes/fields'

/**
 * What every picture codec's sample entry begins with. Source: ISO/IEC 14496-12:2022, clause
 * 12.1.3.
 */
export const visualSampleEntry = struct({
  reserved1: reserved(6),
  dataReferenceIndex: u16,
  reserved2: reserved(16),
  width: u16, // coded size in pixels
  height: u16,
  horizontalResolution: fixed('u32', 16), // dots an inch; 72 by custom
  verticalResolution: fixed('u32', 16),
  reserved3: reserved(4),
  frameCount: u16, // frames a sample: 1
  compressorName: blob(32),
  depth: u16, // 0x18: colour without alpha
  predefined: reserved(2, [0xff, 0xff]),
  boxes: rest,
})
