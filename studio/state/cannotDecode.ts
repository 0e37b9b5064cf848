import type { SourceFacts } from '../../core/media/probe'

/** Why this browser cannot decode a clip, with what to export instead; null when it can. */
export async function cannotDecode(facts: SourceFacts): Promise<string | null> {
  if (facts.kind === 'image') return null
  const { video } = facts
  const advice = `The picture is coded as ${video.codecName}, which this browser cannot decode. Export it again as MP4 with H.264, or as WebM with VP9.`
  if (video.family === 'other') return advice
  if (video.family === 'gif' || video.family === 'webp') return null
  if (typeof VideoDecoder === 'undefined') {
    return 'This browser has no access to video decoding. Use a current browser over https or on localhost.'
  }
  if (video.family !== 'hevc') return null
  const answer = await VideoDecoder.isConfigSupported({ codec: video.codec }).catch(() => null)
  return answer?.supported ? null : advice
}
