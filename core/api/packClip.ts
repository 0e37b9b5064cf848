import { deliveredRepeats } from '../backdrop/passJob'
import { containerOf, type ClipRecipe } from '../backdrop/recipe'
import { toNumber } from '../Fraction'
import { av1CodecString, findAv1Sequence } from '../media/codecs/av1'
import { avcCodecString, parseSps } from '../media/codecs/h264'
import { lowestVp9Level, parseVp9Frame, vp9CodecString } from '../media/codecs/vp9'
import type { EncodedTrack } from '../media/EncodedTrack'
import { bitsPerSecond, offsetBytesOf, writeMp4 } from '../media/isobmff/writeMp4'
import { writeWebm } from '../media/matroska/writeWebm'
import type { ClipFacts } from './renditions'

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
  const { bytes, repeats } =
    container === 'mp4' ? movie(recipe, track) : { bytes: writeWebm(track), repeats: 1 }
  return {
    bytes,
    facts: {
      kind: 'clip',
      type: `video/${container}`,
      codec: streamCodec(track),
      width: track.width,
      height: track.height,
      frames: track.frames.length,
      repeats,
      seam: null,
      deliveredSeam: null,
      encodeSeconds: 0,
      quality: null,
      passes: 1,
      encoder: recipe.encoder,
    },
  }
}

/**
 * The MP4 of a track, its loop listed as often as planned; less often where the index of reordered
 * frames, which cannot be told before they are coded, would exceed the budget.
 */
function movie(
  recipe: ClipRecipe,
  track: EncodedTrack,
): Pick<PackedClip, 'bytes'> & { readonly repeats: number } {
  const offsetBytes = offsetBytesOf(track.frames)
  const bytes = track.frames.reduce((sum, frame) => sum + frame.data.byteLength, 0)
  const planned = deliveredRepeats(recipe, track.frames.length, bytes, offsetBytes)
  const whole = writeMp4(track, null, planned)
  const budget = recipe.goal?.kind === 'budget' ? recipe.goal.bytes : Infinity
  const excess = offsetBytes > 0 ? whole.byteLength - budget : 0
  if (excess <= 0 || planned <= MIN_REPEATS) return { bytes: whole, repeats: planned }
  const turn = (whole.byteLength - writeMp4(track, null, 1).byteLength) / (planned - 1)
  const fitting = Math.max(MIN_REPEATS, planned - Math.ceil(excess / turn))
  // Of frames that exceed the budget by themselves nothing is gained.
  return whole.byteLength - (planned - fitting) * turn > budget
    ? { bytes: whole, repeats: planned }
    : { bytes: writeMp4(track, null, fitting), repeats: fitting }
}

/** So often at least, that every other loop point is gapless. */
const MIN_REPEATS = 2

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
