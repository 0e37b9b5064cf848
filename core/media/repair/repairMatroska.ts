import type { ByteSource } from '../../bytes/ByteSource'
import { ContainerError } from '../../bytes/ContainerError'
import { KEY_HEAD_BYTES } from '../codecs/isKeyFrame'
import { parseElements, textIn } from '../matroska/ebml'
import { readMatroskaTrack, type MatroskaTrack } from '../matroska/readMatroska'
import {
  av1Private,
  binary,
  blockHead,
  clusterHead,
  CODEC_IDS,
  colourElement,
  float,
  text,
  unsigned,
  type MatroskaFamily,
} from '../matroska/writeWebm'
import type { MediaFile, SampleTable } from '../MediaFile'
import { cutPicture, cutSound, type SampleCut } from './cutSamples'
import { lengthOf, type RepairOrder, type RepairPlan, type Piece } from './RepairPlan'

const LONGEST_CLUSTER_MS = 5_000
/** Sound that WebM takes. Source: WebM container guidelines, "Codec mapping". */
const WEBM_SOUND: ReadonlySet<string> = new Set(['A_OPUS', 'A_VORBIS'])

/** A block to write: the position of its frame, its time in milliseconds, and its track. */
interface Block {
  readonly track: number
  readonly offset: number
  readonly size: number
  readonly timeMs: number
  readonly key: boolean
  readonly picture: boolean
}

/**
 * WebM or MKV from any file whose frames Matroska takes: sound, cut and metadata as ordered. Coded
 * frames are copied as they are.
 */
export async function repairMatroska(
  source: ByteSource,
  file: MediaFile,
  order: RepairOrder,
): Promise<RepairPlan> {
  const { video } = file
  const { family } = video.codec
  const own = file.container === 'webm' || file.container === 'mkv'
  if (order.container === 'webm' && family !== 'vp8' && family !== 'vp9' && family !== 'av1')
    throw new ContainerError('media/repair-unsupported', { subject: `${video.codec.name} in WebM` })
  if (!own && family !== 'vp8' && family !== 'vp9' && family !== 'av1')
    throw new ContainerError('media/repair-unsupported', { subject: `${video.codec.name} in MKV` })
  if (file.audio && order.keepSound && !own)
    throw new ContainerError('media/repair-unsupported', { subject: 'sound in another container' })
  const ticks = (value: number | null): number | null =>
    value === null ? null : (value * video.timescale) / 1000
  const cut = await cutPicture(source, video, ticks(order.startMs), ticks(order.endMs))
  const startMs = (cut.shownStart * 1000) / video.timescale
  const picture = own ? await readMatroskaTrack(source, 1) : null
  if (picture?.alpha)
    throw new ContainerError('media/repair-unsupported', { subject: 'a picture with alpha' })
  const number = trackNumber(picture)
  const blocks = blocksOf(number, video.samples, cut, video.timescale, startMs, true)
  const entries = [
    picture
      ? binary('TrackEntry', picture.entry)
      : newEntry(file, family as MatroskaFamily, await headOfFirst(source, video.samples, cut)),
  ]
  const sound = own && order.keepSound && file.audio ? await readMatroskaTrack(source, 2) : null
  if (sound) {
    if (
      order.container === 'webm' &&
      !WEBM_SOUND.has(textIn(parseElements(sound.entry, 0), 'CodecID'))
    )
      throw new ContainerError('media/repair-unsupported', {
        subject: 'sound in another container',
      })
    const scale = sound.timescale / 1000
    const part = cutSound(
      sound.samples,
      startMs * scale,
      ((cut.shownEnd * 1000) / video.timescale) * scale,
    )
    blocks.push(
      ...blocksOf(
        trackNumber(sound),
        sound.samples,
        { ...part, shownStart: 0, shownEnd: 0 },
        sound.timescale,
        startMs,
        false,
      ),
    )
    entries.push(binary('TrackEntry', sound.entry))
  }
  const durationMs = ((cut.shownEnd - cut.shownStart) * 1000) / video.timescale
  const pieces = writePieces(order, durationMs, entries, blocks, number)
  return {
    pieces,
    bytes: lengthOf(pieces),
    startMs: Math.max(0, Math.round(startMs - (video.shownStart * 1000) / video.timescale)),
    container: order.container,
  }
}

function blocksOf(
  track: number,
  samples: SampleTable,
  cut: SampleCut,
  timescale: number,
  startMs: number,
  picture: boolean,
): Block[] {
  return Array.from({ length: cut.end - cut.first }, (_, index) => {
    const sample = cut.first + index
    return {
      track,
      offset: samples.offsets[sample]!,
      size: samples.sizes[sample]!,
      timeMs: Math.max(0, Math.round((samples.times[sample]! * 1000) / timescale - startMs)),
      picture,
      key: !picture || samples.keys[sample] === 1,
    }
  })
}

/** A track keeps its number, which takes one byte before each frame. */
function trackNumber(track: MatroskaTrack | null): number {
  const number = track?.number ?? 1
  if (number < 1 || number > 126)
    throw new ContainerError('media/repair-unsupported', { subject: `track number ${number}` })
  return number
}

function headOfFirst(
  source: ByteSource,
  samples: SampleTable,
  cut: SampleCut,
): Promise<Uint8Array> {
  return source.read(
    samples.offsets[cut.first]!,
    Math.min(KEY_HEAD_BYTES, samples.sizes[cut.first]!),
  )
}

function newEntry(
  { video }: MediaFile,
  family: MatroskaFamily,
  firstFrame: Uint8Array,
): Uint8Array {
  const shown =
    video.rotationDeg % 180 === 0
      ? [video.displayWidth, video.displayHeight]
      : [video.displayHeight, video.displayWidth]
  const turned =
    video.rotationDeg === 0
      ? []
      : [binary('Projection', float('ProjectionPoseRoll', -video.rotationDeg))]
  const picture = binary(
    'Video',
    unsigned('PixelWidth', video.codedWidth),
    unsigned('PixelHeight', video.codedHeight),
    unsigned('DisplayWidth', shown[0]!),
    unsigned('DisplayHeight', shown[1]!),
    ...(video.colour ? [colourElement(video.colour, video.codec.stream?.bitDepth ?? 8)] : []),
    ...turned,
  )
  const config = family === 'av1' ? [binary('CodecPrivate', av1Private(firstFrame))] : []
  return binary(
    'TrackEntry',
    unsigned('TrackNumber', 1),
    unsigned('TrackUID', 1),
    unsigned('TrackType', 1),
    unsigned('FlagLacing', 0),
    text('CodecID', CODEC_IDS[family]),
    ...config,
    picture,
  )
}

/** The file around the blocks: cues before clusters, so that a browser can seek at once. */
function writePieces(
  order: RepairOrder,
  durationMs: number,
  entries: readonly Uint8Array[],
  blocks: readonly Block[],
  cueTrack: number,
): Piece[] {
  const head = binary(
    'EBML',
    unsigned('EBMLVersion', 1),
    unsigned('EBMLReadVersion', 1),
    unsigned('EBMLMaxIDLength', 4),
    unsigned('EBMLMaxSizeLength', 8),
    text('DocType', order.container === 'webm' ? 'webm' : 'matroska'),
    unsigned('DocTypeVersion', 4),
    unsigned('DocTypeReadVersion', 2),
  )
  const info = binary(
    'Info',
    unsigned('TimestampScale', 1_000_000),
    float('Duration', durationMs),
    text('MuxingApp', 'Telon'),
    text('WritingApp', 'Telon'),
  )
  const tracks = binary('Tracks', ...entries)
  const clusters = clustersOf(blocks)
  const cuesAt = info.byteLength + tracks.byteLength
  const cuesOf = (from: number): Uint8Array => {
    let position = from
    const points: Uint8Array[] = []
    for (const cluster of clusters) {
      if (cluster.startsWithKey)
        points.push(
          binary(
            'CuePoint',
            unsigned('CueTime', cluster.timeMs),
            binary(
              'CueTrackPositions',
              unsigned('CueTrack', cueTrack),
              unsigned('CueClusterPosition', position),
            ),
          ),
        )
      position += lengthOf(cluster.pieces)
    }
    return binary('Cues', ...points)
  }
  const cues = cuesOf(cuesAt + cuesOf(0).byteLength)
  const body: Piece[] = [
    { bytes: info },
    { bytes: tracks },
    { bytes: cues },
    ...clusters.flatMap((cluster) => cluster.pieces),
  ]
  return [{ bytes: head }, { bytes: clusterHead('Segment', lengthOf(body)) }, ...body]
}

interface Cluster {
  readonly pieces: readonly Piece[]
  readonly timeMs: number
  readonly startsWithKey: boolean
}

/**
 * Clusters begin at key frames of the picture, or after five seconds. Blocks keep decoding order;
 * sound is stored next to the picture of its time.
 */
function clustersOf(blocks: readonly Block[]): Cluster[] {
  const picture = blocks.filter((block) => block.picture)
  const sound = blocks.filter((block) => !block.picture)
  const clusters: Cluster[] = []
  let nextSound = 0
  for (let first = 0; first < picture.length;) {
    let end = first + 1
    const startMs = Math.min(picture[first]!.timeMs, sound[nextSound]?.timeMs ?? Infinity)
    while (
      end < picture.length &&
      !picture[end]!.key &&
      picture[end]!.timeMs - startMs < LONGEST_CLUSTER_MS
    )
      end += 1
    const until = end < picture.length ? picture[end]!.timeMs : Infinity
    const within: Block[] = picture.slice(first, end)
    while (
      nextSound < sound.length &&
      sound[nextSound]!.timeMs < until &&
      sound[nextSound]!.timeMs - startMs < 30_000
    )
      within.push(sound[nextSound++]!)
    const inner: Piece[] = within.flatMap((block): Piece[] => [
      { bytes: blockHead(block.track, block.timeMs - startMs, block.key, block.size) },
      { offset: block.offset, length: block.size },
    ])
    const stamp = unsigned('Timestamp', startMs)
    clusters.push({
      pieces: [
        { bytes: clusterHead('Cluster', stamp.byteLength + lengthOf(inner)) },
        { bytes: stamp },
        ...inner,
      ],
      timeMs: startMs,
      startsWithKey: picture[first]!.key,
    })
    first = end
  }
  return clusters
}
