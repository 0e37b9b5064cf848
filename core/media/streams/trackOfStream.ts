import { ContainerError } from '../../bytes/ContainerError'
import { isKeyFrame } from '../codecs/isKeyFrame'
import type { EncodedTrack } from '../EncodedTrack'
import type { ColourFacts } from '../MediaFile'
import { readAnnexB } from './readAnnexB'
import { readIvf } from './readIvf'

/** What is known of a stream before it is read. */
export interface StreamFacts {
  readonly family: 'h264' | 'vp9' | 'av1'
  readonly width: number
  readonly height: number
  readonly frameRate: EncodedTrack['frameRate']
  /** How many pictures it shows. */
  readonly frames: number
  readonly colour: Omit<ColourFacts, 'fullRange'>
}

/**
 * The stream of an encoder program as a track: of limited range, beginning with a key frame, with
 * as many pictures as went in. Errors: those of `readAnnexB` and `readIvf`; `media/bad-value` where
 * it has other pictures than it should.
 */
export function trackOfStream(
  bytes: Uint8Array,
  form: 'annexb' | 'ivf',
  { family, width, height, frameRate, frames: count, colour }: StreamFacts,
): EncodedTrack {
  const avc = form === 'annexb' ? readAnnexB(bytes) : null
  const frames =
    avc?.frames ??
    readIvf(bytes).map((data) => ({
      data,
      key: isKeyFrame({ family, description: null }, data) === true,
    }))
  if (frames.length !== count || !frames[0]!.key)
    throw new ContainerError('media/bad-value', { subject: 'pictures of the stream' })
  if (avc && (avc.sps.width !== width || avc.sps.height !== height))
    throw new ContainerError('media/bad-value', { subject: 'size of the stream' })
  return {
    family,
    width,
    height,
    frameRate,
    frames,
    description: avc?.description ?? null,
    colour: { ...colour, fullRange: false },
  }
}
