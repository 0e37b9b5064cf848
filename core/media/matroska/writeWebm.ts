import { ByteWriter } from '../../bytes/ByteWriter'
import { findAv1Sequence, stripDelimiters } from '../codecs/av1'
import type { ColourFacts } from '../MediaFile'
import type { EncodedTrack } from '../EncodedTrack'
import { ELEMENTS, type ElementName } from './elements'

/** Milliseconds, as nearly every player expects. */
const TICK_NS = 1_000_000
/** Block times are signed 16 bits from the cluster's: a cluster must end before 32.767 s. */
const LONGEST_CLUSTER_MS = 5_000
/** Codec identifiers by family. Source: RFC 9559's companion on codecs. */
export const CODEC_IDS = { vp8: 'V_VP8', vp9: 'V_VP9', av1: 'V_AV1' } as const

function writeSize(writer: ByteWriter, size: number): void {
  // Eight bytes always: the marker 0x01 and a size of 56 bits, so that parts can be measured before
  // they are filled.
  writer.u8(1)
  writer.u24(Math.floor(size / 2 ** 32))
  writer.u32(size % 2 ** 32)
}

/** Formats that WebM can contain. */
export type MatroskaFamily = keyof typeof CODEC_IDS

/** Identifier and size of an element whose bytes follow. */
export function clusterHead(name: ElementName, bytes: number): Uint8Array<ArrayBuffer> {
  const writer = new ByteWriter()
  writeId(writer, name)
  writeSize(writer, bytes)
  return writer.finish()
}

/**
 * The header of a simple block: track, time relative to the cluster's in milliseconds, key flag.
 */
export function blockHead(
  track: number,
  relativeMs: number,
  key: boolean,
  frameBytes: number,
): Uint8Array<ArrayBuffer> {
  const writer = new ByteWriter()
  writeId(writer, 'SimpleBlock')
  writeSize(writer, frameBytes + 4)
  writer.u8(0x80 | track)
  writer.i16(relativeMs)
  writer.u8(key ? 0x80 : 0)
  return writer.finish()
}

/** Colour as an element. */
export function colourElement(colour: ColourFacts, bitDepth: number): Uint8Array<ArrayBuffer> {
  return binary(
    'Colour',
    unsigned('MatrixCoefficients', colour.matrix),
    unsigned('BitsPerChannel', bitDepth),
    unsigned('Range', colour.fullRange ? 2 : 1),
    unsigned('TransferCharacteristics', colour.transfer),
    unsigned('Primaries', colour.primaries),
  )
}

function writeId(writer: ByteWriter, name: ElementName): void {
  const id = ELEMENTS[name][0]
  if (id > 0xffffff) writer.u32(id)
  else if (id > 0xffff) writer.u24(id)
  else if (id > 0xff) writer.u16(id)
  else writer.u8(id)
}

/** An element with raw bytes. */
export function binary(
  name: ElementName,
  ...parts: readonly Uint8Array[]
): Uint8Array<ArrayBuffer> {
  const writer = new ByteWriter()
  writeId(writer, name)
  writeSize(
    writer,
    parts.reduce((sum, part) => sum + part.byteLength, 0),
  )
  for (const part of parts) writer.raw(part)
  return writer.finish()
}

/** An unsigned element; always eight bytes, so that its size does not depend on its value. */
export function unsigned(name: ElementName, value: number): Uint8Array<ArrayBuffer> {
  const writer = new ByteWriter()
  writer.u64(value)
  return binary(name, writer.finish())
}

/** A float element of eight bytes. */
export function float(name: ElementName, value: number): Uint8Array<ArrayBuffer> {
  const writer = new ByteWriter()
  writer.f64(value)
  return binary(name, writer.finish())
}

/** A text element in UTF-8. */
export function text(name: ElementName, value: string): Uint8Array<ArrayBuffer> {
  return binary(name, new TextEncoder().encode(value))
}

interface Cluster {
  readonly bytes: Uint8Array
  readonly timeMs: number
  readonly startsWithKey: boolean
}

/**
 * A WebM file with seek head, duration, cues before the clusters and the colour element. Errors:
 * RangeError for H.264, which WebM does not take.
 */
export function writeWebm(track: EncodedTrack): Uint8Array<ArrayBuffer> {
  if (track.family === 'h264') throw new RangeError('WebM does not take H.264')
  if (track.frames.length === 0) throw new RangeError('a file needs at least one frame')
  const head = binary(
    'EBML',
    unsigned('EBMLVersion', 1),
    unsigned('EBMLReadVersion', 1),
    unsigned('EBMLMaxIDLength', 4),
    unsigned('EBMLMaxSizeLength', 8),
    text('DocType', 'webm'),
    unsigned('DocTypeVersion', 4),
    unsigned('DocTypeReadVersion', 2),
  )
  const durationMs = (track.frames.length * track.frameRate.den * 1000) / track.frameRate.num
  const info = binary(
    'Info',
    unsigned('TimestampScale', TICK_NS),
    float('Duration', durationMs),
    text('MuxingApp', 'Telon'),
    text('WritingApp', 'Telon'),
  )
  const tracks = binary('Tracks', writeTrackEntry(track, CODEC_IDS[track.family]))
  const clusters = writeClusters(track)
  // Positions count from the segment's first byte; every size is fixed, so one dry run measures the
  // parts.
  const seekBytes = writeSeekHead(0, 0, 0).byteLength
  const cuesAt = seekBytes + info.byteLength + tracks.byteLength
  const cuesBytes = writeCues(clusters, 0).byteLength
  const cues = writeCues(clusters, cuesAt + cuesBytes)
  const seekHead = writeSeekHead(seekBytes, seekBytes + info.byteLength, cuesAt)
  const segment = binary(
    'Segment',
    seekHead,
    info,
    tracks,
    cues,
    ...clusters.map((cluster) => cluster.bytes),
  )
  const whole = new Uint8Array(head.byteLength + segment.byteLength)
  whole.set(head)
  whole.set(segment, head.byteLength)
  return whole
}

function writeSeekHead(info: number, tracks: number, cues: number): Uint8Array {
  const seek = (name: ElementName, position: number): Uint8Array => {
    const id = new ByteWriter()
    writeId(id, name)
    return binary('Seek', binary('SeekID', id.finish()), unsigned('SeekPosition', position))
  }
  return binary('SeekHead', seek('Info', info), seek('Tracks', tracks), seek('Cues', cues))
}

function writeTrackEntry(track: EncodedTrack, codecId: string): Uint8Array {
  const { num, den } = track.frameRate
  const video = binary(
    'Video',
    unsigned('PixelWidth', track.width),
    unsigned('PixelHeight', track.height),
    colourElement(track.colour, 8),
  )
  const config =
    track.family === 'av1' ? [binary('CodecPrivate', av1Private(track.frames[0]!.data))] : []
  return binary(
    'TrackEntry',
    unsigned('TrackNumber', 1),
    unsigned('TrackUID', 1),
    unsigned('TrackType', 1),
    unsigned('FlagLacing', 0),
    unsigned('DefaultDuration', Math.round((1e9 * den) / num)),
    text('CodecID', codecId),
    ...config,
    video,
  )
}

/** The payload of an `av1C` record. Source: "AV1 in Matroska", section CodecPrivate. */
export function av1Private(firstFrame: Uint8Array): Uint8Array {
  const sequence = findAv1Sequence(firstFrame)
  if (!sequence) throw new RangeError('the first AV1 frame carries no sequence header')
  const { facts, obu } = sequence
  const flags =
    (facts.highTier ? 0x80 : 0) |
    (facts.bitDepth > 8 ? 0x40 : 0) |
    (facts.monochrome ? 0x10 : 0) |
    (facts.subX << 3) |
    (facts.subY << 2)
  return Uint8Array.from([0x81, (facts.profile << 5) | facts.level, flags, 0, ...obu])
}

function writeClusters(track: EncodedTrack): Cluster[] {
  const timeOf = (index: number): number =>
    Math.round((index * track.frameRate.den * 1000) / track.frameRate.num)
  const clusters: Cluster[] = []
  let first = 0
  while (first < track.frames.length) {
    const startMs = timeOf(first)
    let end = first + 1
    while (
      end < track.frames.length &&
      !track.frames[end]!.key &&
      timeOf(end) - startMs < LONGEST_CLUSTER_MS
    )
      end += 1
    const blocks = track.frames.slice(first, end).map((frame, index) => {
      const data = track.family === 'av1' ? stripDelimiters(frame.data) : frame.data
      return [blockHead(1, timeOf(first + index) - startMs, frame.key, data.byteLength), data]
    })
    clusters.push({
      bytes: binary('Cluster', unsigned('Timestamp', startMs), ...blocks.flat()),
      timeMs: startMs,
      startsWithKey: track.frames[first]!.key,
    })
    first = end
  }
  return clusters
}

function writeCues(clusters: readonly Cluster[], firstPosition: number): Uint8Array {
  let position = firstPosition
  const points: Uint8Array[] = []
  for (const cluster of clusters) {
    if (cluster.startsWithKey) {
      const place = binary(
        'CueTrackPositions',
        unsigned('CueTrack', 1),
        unsigned('CueClusterPosition', position),
      )
      points.push(binary('CuePoint', unsigned('CueTime', cluster.timeMs), place))
    }
    position += cluster.bytes.byteLength
  }
  return binary('Cues', ...points)
}
