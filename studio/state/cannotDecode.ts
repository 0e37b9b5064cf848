import { describeContainerError } from '../../core/media/describeContainerError'
import { isPictureSequence } from '../../core/media/MediaFile'
import type { SourceFacts } from '../../core/media/probe'
import { refusalOf } from '../../core/media/refusal'

/** Why this browser cannot decode a clip, with what to export instead; null when it can. */
export async function cannotDecode(facts: SourceFacts): Promise<string | null> {
  if (facts.kind === 'image') return null
  const { video } = facts
  const refusal = refusalOf(video, true)
  if (refusal) return describeContainerError(refusal)
  if (isPictureSequence(video.family)) return null
  if (typeof VideoDecoder === 'undefined') {
    return 'This browser has no access to video decoding. Use a current browser over https or on localhost.'
  }
  if (video.family !== 'hevc') return null
  const answer = await VideoDecoder.isConfigSupported({ codec: video.codec }).catch(() => null)
  if (answer?.supported) return null
  return describeContainerError(refusalOf(video, false)!)
}
