import { ContainerError } from '../../bytes/ContainerError'
import type { CodecFacts } from '../MediaFile'
import { isAv1KeyFrame } from './av1'
import { avcNals } from './h264'
import { isVp8KeyFrame } from './vp8'
import { parseVp9Frame } from './vp9'

/**
 * So many bytes of a frame tell whether it is a key frame, parameter sets and delimiters before it
 * included.
 */
export const KEY_HEAD_BYTES = 2048

/**
 * Whether decoding can start at a frame, by the codec's own header; null where the bytes do not
 * tell (another codec, damage). Containers flag key frames wrongly often enough, WebM above all,
 * that no decoder should be started on their word.
 */
export function isKeyFrame(
  { family, description }: Pick<CodecFacts, 'family' | 'description'>,
  frame: Uint8Array,
): boolean | null {
  try {
    switch (family) {
      case 'vp8':
        return frame.byteLength > 0 ? isVp8KeyFrame(frame) : null
      case 'vp9':
        return parseVp9Frame(frame).keyFrame
      case 'av1':
        return isAv1KeyFrame(frame)
      case 'h264': {
        const types = avcNals(
          frame,
          description && description.byteLength > 4 ? (description[4]! & 3) + 1 : 4,
        ).map((nal) => nal[0]! & 31)
        // A recovery point without an IDR picture decodes, but from later on; only the IDR is a
        // sure start.
        return types.includes(5)
          ? true
          : types.some((type) => type >= 1 && type <= 4)
            ? false
            : null
      }
      case 'hevc': {
        const types = avcNals(
          frame,
          description && description.byteLength > 21 ? (description[21]! & 3) + 1 : 4,
        ).map((nal) => (nal[0]! >> 1) & 63)
        return types.some((type) => type >= 16 && type <= 23)
          ? true
          : types.some((type) => type < 16)
            ? false
            : null
      }
      default:
        return null
    }
  } catch (error) {
    if (error instanceof ContainerError) return null
    throw error
  }
}
