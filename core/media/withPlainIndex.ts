import { memorySource } from '../bytes/ByteSource'
import { writeMp4 } from './isobmff/writeMp4'
import { presentationOf } from './presentation'
import { readMedia } from './readMedia'

/**
 * A delivered clip again, with an index that lists its loop once: tools that rewrite files take
 * each repeat of the index for new data and write it out. The coded frames stay byte for byte. A
 * file that lists them once already comes back as it is. Throws for anything but an MP4 that Telon
 * wrote.
 */
export async function withPlainIndex(
  bytes: Uint8Array<ArrayBuffer>,
): Promise<Uint8Array<ArrayBuffer>> {
  const read = await readMedia(memorySource(bytes))
  if (!read.ok) throw new Error(`this clip cannot be read again: ${read.error.code}`)
  const { video, container } = read.value
  const { samples, codec, repeats } = video
  if (repeats === 1) return bytes
  const { family } = codec
  if (
    container !== 'mp4' ||
    !video.colour ||
    (family !== 'h264' && family !== 'vp9' && family !== 'av1')
  )
    throw new Error('this clip was not written by Telon')
  const order = presentationOf(video).order
  const shown = new Array<number>(samples.count)
  order.forEach((sample, place) => (shown[sample] = place))
  const isReordered = order.some((sample, place) => sample !== place)
  return writeMp4({
    family,
    width: video.visibleWidth,
    height: video.visibleHeight,
    frameRate: { num: video.timescale, den: samples.durations[0]! },
    frames: Array.from({ length: samples.count }, (_, index) => ({
      data: bytes.subarray(
        samples.offsets[index]!,
        samples.offsets[index]! + samples.sizes[index]!,
      ),
      key: samples.keys[index] === 1,
      ...(isReordered && { shown: shown[index]! }),
    })),
    description: family === 'h264' ? codec.description : null,
    colour: video.colour,
  })
}
