import { BitReader } from '../../bytes/BitReader'
import { ContainerError } from '../../bytes/ContainerError'
import type { ColourFacts } from '../MediaFile'

/** What a VP9 frame's own header says; sizes are null unless it is a key frame. */
export interface Vp9FrameFacts {
  readonly keyFrame: boolean
  readonly profile: number
  readonly bitDepth: number
  /** Chroma subsampling as in `vpcC`: 1 is 4:2:0 with co-located chroma, 2 4:2:2, 3 4:4:4. */
  readonly chroma: number
  readonly colour: ColourFacts | null
  readonly width: number | null
  readonly height: number | null
}

/**
 * `color_space` to the matrix codes of ISO/IEC 23091-2; 0 says nothing. Source: VP9 Bitstream
 * specification v0.7, clause 7.2.2.
 */
const MATRICES = [2, 6, 1, 6, 7, 9, 2, 0]
const PRIMARIES = [2, 6, 1, 6, 7, 9, 2, 1]

/**
 * Reads the uncompressed header. Source: VP9 Bitstream specification v0.7, clause 6.2. Errors:
 * `media/bad-value`, `media/truncated`.
 */
export function parseVp9Frame(frame: Uint8Array): Vp9FrameFacts {
  const bits = new BitReader(frame)
  if (bits.bits(2) !== 2)
    throw new ContainerError('media/bad-value', { subject: 'VP9 frame marker' })
  const profile = bits.bit() + 2 * bits.bit()
  if (profile === 3) bits.skip(1)
  const shown: Vp9FrameFacts = {
    keyFrame: false,
    profile,
    bitDepth: 8,
    chroma: 1,
    colour: null,
    width: null,
    height: null,
  }
  if (bits.flag()) return shown // show_existing_frame
  const keyFrame = bits.bit() === 0
  bits.skip(2) // show_frame, error_resilient_mode
  if (!keyFrame) return shown
  if (bits.bits(24) !== 0x498342)
    throw new ContainerError('media/bad-value', { subject: 'VP9 sync code' })
  const bitDepth = profile >= 2 ? (bits.flag() ? 12 : 10) : 8
  const space = bits.bits(3)
  let fullRange = true
  let chroma = 3
  if (space !== 7) {
    fullRange = bits.flag()
    chroma = 1
    if (profile === 1 || profile === 3) {
      const subX = bits.bit()
      const subY = bits.bit()
      chroma = subX ? (subY ? 1 : 2) : 3
      bits.skip(1)
    }
  } else if (profile === 1 || profile === 3) bits.skip(1)
  const colour = {
    primaries: PRIMARIES[space]!,
    transfer: space === 0 ? 2 : 1,
    matrix: MATRICES[space]!,
    fullRange,
  }
  return {
    keyFrame,
    profile,
    bitDepth,
    chroma,
    colour,
    width: bits.bits(16) + 1,
    height: bits.bits(16) + 1,
  }
}

/**
 * Which of the eight reference slots a shown frame replaces, one bit each: all for a key frame;
 * null for a repeated frame and for one without references. Source: VP9 Bitstream specification
 * v0.7, clause 6.2. Errors: `media/bad-value`, `media/truncated`.
 */
export function vp9Refreshes(frame: Uint8Array): number | null {
  const bits = new BitReader(frame)
  if (bits.bits(2) !== 2)
    throw new ContainerError('media/bad-value', { subject: 'VP9 frame marker' })
  if (bits.bit() + 2 * bits.bit() === 3) bits.skip(1)
  if (bits.flag()) return null // show_existing_frame
  if (bits.bit() === 0) return 0xff
  const shown = bits.flag()
  const resilient = bits.flag()
  if (!shown) return null
  if (!resilient) bits.skip(2) // reset_frame_context
  return bits.bits(8)
}

/** Source: "VP Codec ISO Media File Format Binding" v1.0, "Codecs parameter string". */
export function vp9CodecString(facts: {
  profile: number
  level: number
  bitDepth: number
}): string {
  return `vp09.${[facts.profile, facts.level, facts.bitDepth].map((value) => String(value).padStart(2, '0')).join('.')}`
}

/**
 * Level ×10, luma samples a second, luma samples a frame, kbit/s. Source: VP9 levels, WebM project,
 * table of 2016.
 */
const LEVELS = [
  [10, 829_440, 36_864, 200],
  [11, 2_764_800, 73_728, 800],
  [20, 4_608_000, 122_880, 1_800],
  [21, 9_216_000, 245_760, 3_600],
  [30, 20_736_000, 552_960, 7_200],
  [31, 36_864_000, 983_040, 12_000],
  [40, 83_558_400, 2_228_224, 18_000],
  [41, 160_432_128, 2_228_224, 30_000],
  [50, 311_951_360, 8_912_896, 60_000],
  [51, 588_251_136, 8_912_896, 120_000],
  [52, 1_176_502_272, 8_912_896, 180_000],
] as const

/**
 * The lowest level (×10) that holds a picture of this size, rate and bit rate; the highest where
 * none does.
 */
export function lowestVp9Level(
  width: number,
  height: number,
  framesPerSecond: number,
  bitsPerSecond: number,
): number {
  const frame = width * height
  const fitting = LEVELS.find(
    ([, rate, largest, kilobits]) =>
      frame <= largest && frame * framesPerSecond <= rate && bitsPerSecond <= kilobits * 1000,
  )
  return (fitting ?? LEVELS[LEVELS.length - 1]!)[0]
}
