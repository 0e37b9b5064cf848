import type { CodecFamily, ColourFacts } from './MediaFile'

/** Code points of ITU-T H.273 for SD (SMPTE 170M, as BT.601) and HD (BT.709), limited range. */
const SD: ColourFacts = { primaries: 6, transfer: 6, matrix: 6, fullRange: false }
const HD: ColourFacts = { primaries: 1, transfer: 1, matrix: 1, fullRange: false }
const UNSPECIFIED = 2

/**
 * The colour that players assume where file and bitstream do not say it completely: BT.601 below
 * 720 lines, BT.709 from there on, limited range; what is said in part, a full range too, they
 * disregard. Null where the file says it, and for VP9 and AV1, for which the decoder decides.
 * Measured in Chromium: untagged H.264 of 320 × 180 shown as BT.709 had its green off by 18 of 255,
 * and one that says matrix and full range alone was off by 6.7 as full range.
 */
export function assumedColour(
  family: CodecFamily,
  colour: ColourFacts | null,
  height: number,
): ColourFacts | null {
  if (family !== 'h264' && family !== 'vp8') return null
  const isKnown =
    colour !== null &&
    [colour.primaries, colour.transfer, colour.matrix].every((point) => point !== UNSPECIFIED)
  if (isKnown) return null
  return height < 720 ? SD : HD
}
