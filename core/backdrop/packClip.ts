import type { ClipFacts } from '../api/renditions'
import { toNumber } from '../Fraction'
import { av1CodecString, findAv1Sequence } from '../media/codecs/av1'
import { avcCodecString, parseSps } from '../media/codecs/h264'
import { lowestVp9Level, parseVp9Frame, vp9CodecString } from '../media/codecs/vp9'
import { presentationDelays, type EncodedTrack } from '../media/EncodedTrack'
import { bitsPerSecond, writeMp4 } from '../media/isobmff/writeMp4'
import { writeWebm } from '../media/matroska/writeWebm'
import { deliveredRepeats } from './passJob'
import { containerOf, type ClipRecipe } from './recipe'

/** A clip in its container. */
export interface PackedClip {
  readonly bytes: Uint8Array<ArrayBuffer>
  /** What is known of the file without decoding it. */
  readonly facts: ClipFacts
}

/**
 * A track in the container of its recipe, with the facts of the file; its codec string is what the
 * bitstream itself declares.
 */
export function packClip(recipe: ClipRecipe, track: EncodedTrack): PackedClip {
  const container = containerOf(recipe)
  const repeats = deliveredRepeats(
    recipe,
    track.frames.length,
    track.frames.reduce((sum, frame) => sum + frame.data.byteLength, 0),
    presentationDelays(track.frames).delay > 0,
  )
  return {
    bytes: container === 'mp4' ? writeMp4(track, null, repeats) : writeWebm(track),
    facts: {
      kind: 'clip',
      type: `video/${container}`,
      codec: streamCodec(track),
      width: track.width,
      height: track.height,
      frames: track.frames.length,
      repeats,
      seam: null,
      deliveredSeamRatio: null,
      encodeSeconds: 0,
      quality: null,
      passes: 1,
      encoder: recipe.encoder,
    },
  }
}

function streamCodec(track: EncodedTrack): string {
  if (track.family === 'h264') {
    // avcC: version, profile, compatibility, level, length size, count of SPS, then a length and
    // the SPS itself.
    const record = track.description!
    const spsLength = (record[6]! << 8) | record[7]!
    return avcCodecString('avc1', parseSps(record.subarray(8, 8 + spsLength)))
  }
  const first = track.frames[0]!.data
  if (track.family === 'av1') return av1CodecString(findAv1Sequence(first)!.facts)
  const level = lowestVp9Level(
    track.width,
    track.height,
    toNumber(track.frameRate),
    bitsPerSecond(track),
  )
  return vp9CodecString({ ...parseVp9Frame(first), level })
}
