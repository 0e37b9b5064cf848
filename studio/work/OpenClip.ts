import type { ByteSource } from '../../core/bytes/ByteSource'
import { describeContainerError } from '../../core/media/describeContainerError'
import type { MediaFile } from '../../core/media/MediaFile'
import { presentationOf, type Presentation } from '../../core/media/presentation'
import { readMedia } from '../../core/media/readMedia'
import { WorkError } from './WorkError'

/** A clip ready to be decoded: its index, its frames in order of presentation, and where to start for each. */
export interface OpenClip {
  readonly source: ByteSource
  readonly file: MediaFile
  readonly presentation: Presentation
  readonly config: VideoDecoderConfig
  /** For each sample (in decoding order) its place among all samples by time: what decoders are given as timestamp. */
  readonly rankOf: Int32Array
  /** For each shown frame the rank of its sample. */
  readonly ranks: Int32Array
}

/** Reads a clip's index and makes sure that the browser decodes it. Errors: `work/cannot-decode`, `work/unreadable`. */
export async function openClip(source: ByteSource): Promise<OpenClip> {
  const read = await readMedia(source)
  if (!read.ok) throw new WorkError('work/cannot-decode', describeContainerError(read.error))
  const { video } = read.value
  const config: VideoDecoderConfig = {
    codec: video.codec.codec,
    codedWidth: video.codedWidth,
    codedHeight: video.codedHeight,
    ...(video.codec.description ? { description: video.codec.description } : {}),
    hardwareAcceleration: 'no-preference',
    // Without it H.264 holds a frame back; with it, frames that are stored out of order could come out so.
    optimizeForLatency: video.samples.times.every((time, index) => index === 0 || time >= video.samples.times[index - 1]!),
  }
  const supported = typeof VideoDecoder === 'undefined' ? false : await VideoDecoder.isConfigSupported(config).then((answer) => answer.supported, () => false)
  if (!supported) {
    const message = `The picture is coded as ${video.codec.name} (${video.codec.codec}), which this browser cannot decode. Export it again as MP4 with H.264, or as WebM with VP9.`
    throw new WorkError('work/cannot-decode', message)
  }
  const byTime = Array.from({ length: video.samples.count }, (_, index) => index).sort((a, b) => video.samples.times[a]! - video.samples.times[b]!)
  const rankOf = new Int32Array(video.samples.count)
  byTime.forEach((sample, rank) => (rankOf[sample] = rank))
  const presentation = presentationOf(video)
  return { source, file: read.value, presentation, config, rankOf, ranks: Int32Array.from(presentation.order, (sample) => rankOf[sample]!) }
}

/** The sample to start decoding at, to reach a sample: the last key frame in decoding order that is not shown after it. */
export function keyBefore(clip: OpenClip, sample: number): number {
  const { samples } = clip.file.video
  for (let index = sample; index > 0; index--) {
    if (samples.keys[index] === 1 && samples.times[index]! <= samples.times[sample]!) return index
  }
  return 0
}
