import { ContainerError } from '../../bytes/ContainerError'
import type { CodecFacts } from '../MediaFile'
import { isAv1KeyFrame } from './av1'
import { avcNals } from './h264'
import { isVp8KeyFrame } from './vp8'
import { parseVp9Frame } from './vp9'

/**
 * Bytes of a frame that are enough to detect a key frame, including parameter sets and delimiters
 * before it.
 */
export const KEY_HEAD_BYTES = 2048

/**
 * Whether decoding can start at a frame, according to the codec's own header; null where the bytes
 * do not say (another codec, damage). Containers, WebM above all, flag key frames wrongly too often
 * for a decoder to rely on the flag.
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
