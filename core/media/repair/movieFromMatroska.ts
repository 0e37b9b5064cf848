import type { ByteSource } from '../../bytes/ByteSource'
import { ContainerError } from '../../bytes/ContainerError'
import { KEY_HEAD_BYTES } from '../codecs/isKeyFrame'
import type { EncodedTrack } from '../EncodedTrack'
import { parseBoxes, writeBox } from '../isobmff/boxTree'
import { BOXES } from '../isobmff/boxes/registry'
import { IDENTITY_MATRIX, writePictureTrakOf } from '../isobmff/writeMp4'
import type { MediaFile, SampleTable } from '../MediaFile'
import { cutPicture } from './cutSamples'
import type { RepairOrder, RepairPlan } from './RepairPlan'
import { planMovie } from './planMovie'

/**
 * In this timescale millisecond times are exact, and so are the rounded times of every usual frame
 * rate.
 */
const TIMESCALE = 90_000

/**
 * The picture of a WebM or MKV as MP4. Matroska writes no decoding times: they are made up from the
 * order of the frames shown.
 */
export async function movieFromMatroska(
  source: ByteSource,
  file: MediaFile,
  order: RepairOrder,
): Promise<RepairPlan> {
  const { video } = file
  const { family } = video.codec
  if (family !== 'h264' && family !== 'vp9' && family !== 'av1')
    throw new ContainerError('media/repair-unsupported', { subject: `${video.codec.name} in MP4` })
  if (file.audio && order.keepSound)
    throw new ContainerError('media/repair-unsupported', { subject: 'sound in another container' })
  const ticks = (value: number | null): number | null =>
    value === null ? null : (value * video.timescale) / 1000
  const cut = await cutPicture(source, video, ticks(order.startMs), ticks(order.endMs))
  const samples = withDecodingTimes(video.samples, TIMESCALE / video.timescale)
  const firstFrame = await source.read(
    video.samples.offsets[cut.first]!,
    Math.min(KEY_HEAD_BYTES, video.samples.sizes[cut.first]!),
  )
  const seconds = Math.max(0.001, (video.shownEnd - video.shownStart) / video.timescale)
  const track: EncodedTrack = {
    family,
    width: video.codedWidth,
    height: video.codedHeight,
    frameRate: { num: Math.max(1, Math.round((1000 * samples.count) / seconds)), den: 1000 },
    frames: [{ data: firstFrame, key: true }],
    description: video.codec.description,
    colour: video.colour ?? { primaries: 2, transfer: 2, matrix: 2, fullRange: false },
  }
  const [trak] = parseBoxes(
    writePictureTrakOf(track, TIMESCALE, video.pixelAspect, video.rotationDeg),
    0,
  )
  const scale = TIMESCALE / video.timescale
  return {
    ...planMovie({
      ftyp: writeBox('ftyp', BOXES.ftyp, {
        majorBrand: order.container === 'mov' ? 'qt  ' : 'isom',
        minorVersion: 512,
        compatibleBrands: new TextEncoder().encode('isomiso2mp41'),
      }),
      timescale: 1000,
      matrix: IDENTITY_MATRIX,
      creationTime: 0,
      extras: [],
      strip: order.strip,
      tracks: [
        {
          trak: trak!,
          samples,
          first: cut.first,
          end: cut.end,
          timescale: TIMESCALE,
          sound: false,
          shownStart: cut.shownStart * scale,
          shownEnd: cut.shownEnd * scale,
        },
      ],
    }),
    startMs: Math.max(
      0,
      Math.round(((cut.shownStart - video.shownStart) * 1000) / video.timescale),
    ),
    container: order.container,
  }
}

/**
 * Times in another timescale; durations become the distances of decoding times, which are the
 * presentation times in rising order.
 */
function withDecodingTimes(samples: SampleTable, scale: number): SampleTable {
  const times = samples.times.map((time) => Math.round(time * scale))
  const rising = times.slice().sort()
  const durations = rising.map((time, index) =>
    index + 1 < rising.length
      ? rising[index + 1]! - time
      : Math.round(samples.durations[samples.count - 1]! * scale),
  )
  return { ...samples, times, durations }
}
