import { ByteReader } from '../../bytes/ByteReader'
import { windowedSource, type ByteSource } from '../../bytes/ByteSource'
import { ContainerError } from '../../bytes/ContainerError'
import type { MediaFile, PersonalKind, SampleTable, VideoTrack } from '../MediaFile'
import { displaySize, reduceAspect } from '../displaySize'
import { childrenOf, numberIn, parseElements, readHead, textIn, type Element } from './ebml'
import { describeCodec } from './describeCodec'
import { readClusters } from './readClusters'

const LARGEST_INDEX = 64 * 1024 * 1024
const LARGEST_TAGS = 1024 * 1024
/** How much is fetched at once while skipping from block to block. */
const WINDOW_BYTES = 16 * 1024

/** Where the parts of a segment lie. */
export interface SegmentParts {
  readonly info: Element[]
  readonly tracks: Element[]
  /**
   * File offset and end of each cluster's payload; an unknown size ends with the file or the next
   * cluster.
   */
  readonly clusters: { readonly offset: number; readonly end: number }[]
  readonly personal: PersonalKind[]
}

/**
 * Reads a WebM or MKV file. The format has no sample table, so block heads are visited one by one;
 * the frames themselves are skipped. Errors: `media/no-video`, `media/no-frames`,
 * `media/truncated`, `media/bad-*`, `media/encrypted`.
 */
export async function readMatroska(file: ByteSource): Promise<MediaFile> {
  const source = windowedSource(file, WINDOW_BYTES)
  const { docType, parts } = await readSegment(source)
  const entries = entriesOf(parts)
  const entry = entries.find((fields) => numberIn(fields, 'TrackType', 0) === 1)
  if (!entry)
    throw new ContainerError(parts.tracks.length === 0 ? 'media/index-missing' : 'media/no-video')
  if (entry.some((element) => element.name === 'ContentEncodings'))
    throw new ContainerError('media/encrypted')

  const tickNs = numberIn(parts.info, 'TimestampScale', 1_000_000) || 1_000_000
  const defaultTicks = numberIn(entry, 'DefaultDuration', 0) / tickNs
  const { samples, firstFrame, alpha } = await readClusters(
    source,
    parts.clusters,
    numberIn(entry, 'TrackNumber', 1),
    defaultTicks,
    hasAlpha(entry),
  )
  if (samples.count === 0) throw new ContainerError('media/no-frames')
  return {
    container: docType === 'webm' ? 'webm' : 'mkv',
    bytes: file.size,
    video: {
      ...describeTrack(entry, tickNs, samples, firstFrame, numberIn(parts.info, 'Duration', 0)),
      alpha,
    },
    audio: entries.some((fields) => numberIn(fields, 'TrackType', 0) === 2),
    // Without a sample table the sound's share is only known as what the picture leaves over.
    audioBytes: entries.some((fields) => numberIn(fields, 'TrackType', 0) === 2)
      ? Math.max(0, file.size - samples.sizes.reduce((sum, size) => sum + size, 0))
      : 0,
    personal: parts.personal,
    indexFirst: null,
  }
}

/** A track of a Matroska file as stored: its entry's bytes and its samples, times in ticks. */
export interface MatroskaTrack {
  readonly number: number
  readonly entry: Uint8Array
  /** Whether a second picture in block additions holds the alpha. */
  readonly alpha: boolean
  readonly samples: SampleTable
  /** Ticks a second. */
  readonly timescale: number
}

/** The first track of a kind (1 picture, 2 sound), for copying; null where there is none. */
export async function readMatroskaTrack(
  file: ByteSource,
  type: 1 | 2,
): Promise<MatroskaTrack | null> {
  const source = windowedSource(file, WINDOW_BYTES)
  const { parts } = await readSegment(source)
  const found = parts.tracks
    .filter((element) => element.name === 'TrackEntry')
    .find(
      (each) => numberIn(parseElements(each.payload, each.payloadOffset), 'TrackType', 0) === type,
    )
  if (!found) return null
  const fields = parseElements(found.payload, found.payloadOffset)
  const tickNs = numberIn(parts.info, 'TimestampScale', 1_000_000) || 1_000_000
  const number = numberIn(fields, 'TrackNumber', 1)
  const { samples } = await readClusters(
    source,
    parts.clusters,
    number,
    numberIn(fields, 'DefaultDuration', 0) / tickNs,
  )
  return {
    number,
    entry: found.payload,
    alpha: hasAlpha(fields),
    samples,
    timescale: Math.round(1e9 / tickNs),
  }
}

function hasAlpha(entry: Element[]): boolean {
  return numberIn(childrenOf(entry, 'Video'), 'AlphaMode', 0) === 1
}

function entriesOf(parts: SegmentParts): Element[][] {
  return parts.tracks
    .filter((element) => element.name === 'TrackEntry')
    .map((entry) => parseElements(entry.payload, entry.payloadOffset))
}

async function readSegment(source: ByteSource): Promise<{ docType: string; parts: SegmentParts }> {
  let docType = 'matroska'
  let offset = 0
  while (offset < source.size) {
    const head = await headAt(source, offset)
    const payloadOffset = offset + head.headBytes
    if (head.name === 'EBML') {
      docType = textIn(
        parseElements(
          await source.read(payloadOffset, Math.min(head.size ?? 0, 4096)),
          payloadOffset,
        ),
        'DocType',
      )
    } else if (head.name === 'Segment') {
      const end =
        head.size === null ? source.size : Math.min(source.size, payloadOffset + head.size)
      return { docType, parts: await readParts(source, payloadOffset, end) }
    }
    offset = payloadOffset + (head.size ?? 0)
  }
  throw new ContainerError('media/truncated', { path: 'Segment' })
}

async function readParts(source: ByteSource, start: number, end: number): Promise<SegmentParts> {
  const parts: {
    info: Element[]
    tracks: Element[]
    clusters: { offset: number; end: number }[]
    personal: PersonalKind[]
  } = { info: [], tracks: [], clusters: [], personal: [] }
  let offset = start
  while (offset + 2 <= end) {
    const head = await headAt(source, offset)
    const payloadOffset = offset + head.headBytes
    if (head.name === 'Cluster') {
      const clusterEnd =
        head.size === null
          ? await endOfUnknown(source, payloadOffset, end)
          : Math.min(end, payloadOffset + head.size)
      parts.clusters.push({ offset: payloadOffset, end: clusterEnd })
      offset = clusterEnd
      continue
    }
    if (head.size === null)
      throw new ContainerError('media/bad-size', { offset, path: head.name ?? '' })
    if (head.name === 'Info' || head.name === 'Tracks') {
      if (head.size > LARGEST_INDEX) throw new ContainerError('media/index-too-large', { offset })
      if (payloadOffset + head.size > source.size)
        throw new ContainerError('media/truncated', { offset, path: head.name })
      const children = parseElements(await source.read(payloadOffset, head.size), payloadOffset)
      if (head.name === 'Info') parts.info = children
      else parts.tracks = children
    }
    if (head.name === 'Tags' && head.size <= LARGEST_TAGS)
      parts.personal = readTags(await source.read(payloadOffset, head.size), payloadOffset)
    offset = payloadOffset + head.size
  }
  return parts
}

/**
 * Official tag names by the personal data they contain. Source: Matroska Tags, RFC 9559 companion,
 * "Tag names".
 */
const PERSONAL_TAGS: readonly (readonly [RegExp, PersonalKind])[] = [
  [/LOCATION|GPS/i, 'location'],
  [/^MAKE$|MODEL|ENCODER_SETTINGS|DEVICE/i, 'device'],
  [/ARTIST|AUTHOR|DIRECTOR/i, 'author'],
  [/^DATE_/i, 'date'],
]

/**
 * The kinds of personal metadata among a file's tags; damaged tags are no reason to refuse a clip.
 */
function readTags(bytes: Uint8Array, offset: number): PersonalKind[] {
  const found = new Set<PersonalKind>()
  try {
    for (const tag of parseElements(bytes, offset)) {
      if (tag.name !== 'Tag') continue
      for (const simple of parseElements(tag.payload, tag.payloadOffset)) {
        if (simple.name !== 'SimpleTag') continue
        const name = textIn(parseElements(simple.payload, simple.payloadOffset), 'TagName')
        kindsOfTag(name).forEach((kind) => found.add(kind))
      }
    }
  } catch (error) {
    if (!(error instanceof ContainerError)) throw error
  }
  return [...found].sort()
}

const kindsOfTag = (name: string): PersonalKind[] =>
  PERSONAL_TAGS.filter(([pattern]) => pattern.test(name)).map(([, kind]) => kind)

const LEVEL_ONE = new Set(['Cluster', 'Cues', 'Info', 'Tracks', 'SeekHead', 'Tags'])

/**
 * A cluster of unknown size ends where an element begins that cannot lie in it. Source: RFC 8794,
 * section 6.2.
 */
async function endOfUnknown(source: ByteSource, start: number, end: number): Promise<number> {
  let offset = start
  while (offset + 2 <= end) {
    const head = await headAt(source, offset)
    if (head.name !== null && LEVEL_ONE.has(head.name)) return offset
    if (head.size === null) throw new ContainerError('media/bad-size', { offset })
    offset += head.headBytes + head.size
  }
  return end
}

async function headAt(source: ByteSource, offset: number) {
  return readHead(new ByteReader(await source.read(offset, 12), offset))
}

function describeTrack(
  entry: Element[],
  tickNs: number,
  samples: VideoTrack['samples'],
  firstFrame: Uint8Array,
  declaredTicks: number,
): Omit<VideoTrack, 'alpha'> {
  const video = childrenOf(entry, 'Video')
  const width =
    numberIn(video, 'PixelWidth', 0) -
    numberIn(video, 'PixelCropLeft', 0) -
    numberIn(video, 'PixelCropRight', 0)
  const height =
    numberIn(video, 'PixelHeight', 0) -
    numberIn(video, 'PixelCropTop', 0) -
    numberIn(video, 'PixelCropBottom', 0)
  if (width <= 0 || height <= 0 || width > 16384 || height > 16384)
    throw new ContainerError('media/bad-value', { subject: 'size', path: 'Video' })
  const { codec, colour } = describeCodec(entry, firstFrame, { width, height })
  const shown = {
    width: numberIn(video, 'DisplayWidth', width),
    height: numberIn(video, 'DisplayHeight', height),
  }
  // DisplayUnit 0 counts pixels; other units only give an aspect ratio, which is used in the same
  // way.
  const aspect = { horizontal: shown.width * height, vertical: shown.height * width }
  const rotationDeg = rotationOf(childrenOf(video, 'Projection'))
  const shownStart = samples.times.reduce((min, time) => Math.min(min, time), Infinity)
  return {
    codec,
    // Ticks a second: exact for the usual scale of a million nanoseconds.
    timescale: Math.round(1e9 / tickNs),
    codedWidth: codec.stream?.width ?? width,
    codedHeight: codec.stream?.height ?? height,
    visibleWidth: Math.min(codec.stream?.width ?? width, width),
    visibleHeight: Math.min(codec.stream?.height ?? height, height),
    pixelAspect: reduceAspect(aspect),
    ...displaySize(width, height, aspect, rotationDeg),
    rotationDeg,
    colour: colourOf(video) ?? colour,
    samples,
    repeats: 1,
    shownStart: Math.max(0, shownStart),
    shownEnd: endOf(samples, declaredTicks),
  }
}

/**
 * End of the last frame. Times are rounded to ticks, so the declared duration is more exact if the
 * two differ by less than a frame.
 */
function endOf(samples: VideoTrack['samples'], declaredTicks: number): number {
  const ends = samples.times.map((time, index) => time + samples.durations[index]!)
  const last = ends.reduce((max, end) => Math.max(max, end), 0)
  return Math.abs(declaredTicks - last) < samples.durations[0]! / 2 ? declaredTicks : last
}

function colourOf(video: Element[]): VideoTrack['colour'] {
  const colour = childrenOf(video, 'Colour')
  if (!colour.some((element) => element.name === 'MatrixCoefficients')) return null
  return {
    primaries: numberIn(colour, 'Primaries', 2),
    transfer: numberIn(colour, 'TransferCharacteristics', 2),
    matrix: numberIn(colour, 'MatrixCoefficients', 2),
    fullRange: numberIn(colour, 'Range', 1) === 2,
  }
}

/** Matroska rolls counter-clockwise. Source: RFC 9559, section 5.1.4.1.28.46. */
function rotationOf(projection: Element[]): number {
  const roll = Math.round(numberIn(projection, 'ProjectionPoseRoll', 0))
  const clockwise = ((-roll % 360) + 360) % 360
  return clockwise % 90 === 0 ? clockwise : 0
}
