import { stripDelimiters } from '../../../core/media/codecs/av1'
import type { EncodeOrder } from './EncoderSession'

/**
 * The bytes of a coded frame as containers store it, which is what counts in a budget: of AV1
 * without the delimiter that its encoders put before each.
 */
export function storedBytes(family: EncodeOrder['family'], chunk: EncodedVideoChunk): Uint8Array {
  const bytes = new Uint8Array(chunk.byteLength)
  chunk.copyTo(bytes)
  return family === 'av1' ? stripDelimiters(bytes) : bytes
}
