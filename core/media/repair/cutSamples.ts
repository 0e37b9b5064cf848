import type { ByteSource } from '../../bytes/ByteSource'
import { isKeyFrame, KEY_HEAD_BYTES } from '../codecs/isKeyFrame'
import type { SampleTable, VideoTrack } from '../MediaFile'

/** The samples to copy, in decoding order, and what of them is shown, in ticks of the track. */
export interface SampleCut {
  /** The first sample, and the one behind the last. */
  readonly first: number
  readonly end: number
  readonly shownStart: number
  readonly shownEnd: number
}

/** Times that differ by less are the same: what is left over when milliseconds become ticks. */
const TOUCH = 1e-3

/**
 * The samples between two times in ticks of the track. Decoding can only start at a key frame, so
 * the start moves back to one, as detected from the bitstream. Throws RangeError if there are none
 * between the times.
 */
export async function cutPicture(
  source: ByteSource,
  video: VideoTrack,
  startTicks: number | null,
  endTicks: number | null,
): Promise<SampleCut> {
  const { samples } = video
  const from = Math.max(
    video.shownStart,
    startTicks === null ? -Infinity : startTicks + video.shownStart,
  )
  const to = Math.min(video.shownEnd, endTicks === null ? Infinity : endTicks + video.shownStart)
  if (to <= from) throw new RangeError('the end lies before the start')
  let first = 0
  if (startTicks !== null) {
    for (let sample = samples.count - 1; sample >= 0; sample--) {
      if (samples.keys[sample] !== 1 || samples.times[sample]! > from + TOUCH) continue
      const head = await source.read(
        samples.offsets[sample]!,
        Math.min(KEY_HEAD_BYTES, samples.sizes[sample]!),
      )
      if (isKeyFrame(video.codec, head) === false) continue
      first = sample
      break
    }
  }
  let end = samples.count
  let shownEnd = endTicks === null ? to : 0
  if (endTicks !== null) {
    end = first + 1
    for (let sample = first; sample < samples.count; sample++) {
      if (samples.times[sample]! >= to - TOUCH) continue
      end = sample + 1
      // The last frame is kept whole: a part of a tick would be rounded away with it.
      shownEnd = Math.max(
        shownEnd,
        Math.min(video.shownEnd, samples.times[sample]! + samples.durations[sample]!),
      )
    }
  }
  const shownStart = startTicks === null ? video.shownStart : samples.times[first]!
  return { first, end, shownStart, shownEnd: Math.max(shownStart + 1, shownEnd) }
}

/** The samples of a sound track that sound between two times in ticks of that track. */
export function cutSound(
  samples: SampleTable,
  from: number,
  to: number,
): { first: number; end: number } {
  let first = 0
  while (first < samples.count && samples.times[first]! + samples.durations[first]! <= from)
    first += 1
  let end = first
  while (end < samples.count && samples.times[end]! < to) end += 1
  return { first, end }
}
