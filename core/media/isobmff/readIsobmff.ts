import type { ByteSource } from '../../bytes/ByteSource'
import { ContainerError } from '../../bytes/ContainerError'
import type { MediaFile, SampleTable, VideoTrack } from '../MediaFile'
import type { SampleTableBuilder } from '../SampleTableBuilder'
import { describeStream } from '../codecs/describeStream'
import { KEY_HEAD_BYTES } from '../codecs/isKeyFrame'
import { foldRepeats } from '../foldRepeats'
import { displaySize, reduceAspect } from '../displaySize'
import type { Box } from './boxTree'
import { findBox, parseBoxes, readBox } from './boxTree'
import { BOXES } from './boxes/registry'
import { readPersonal } from './readPersonal'
import { readFragments } from './readFragments'
import { readSampleTable } from './readSampleTable'
import { readVisualEntry } from './readVisualEntry'
import { walkTopBoxes } from './walkTopBoxes'

/** The index of a day-long clip is far smaller; a larger one is refused before it is read. */
const LARGEST_INDEX = 64 * 1024 * 1024

/**
 * Reads an MP4 or MOV file, progressive or fragmented, from its index only.
 * Errors: `media/index-missing`, `media/truncated`, `media/no-video`, `media/no-frames`,
 * `media/bad-*`, `media/encrypted`.
 */
export async function readIsobmff(source: ByteSource): Promise<MediaFile> {
  const top = await walkTopBoxes(source)
  const moovAt = top.find((box) => box.type === 'moov')
  const dataAt = top.find((box) => box.type === 'mdat')
  if (!moovAt)
    throw new ContainerError(top.some((box) => box.cut) ? 'media/truncated' : 'media/index-missing')
  if (moovAt.cut)
    throw new ContainerError('media/truncated', { offset: moovAt.offset, path: 'moov' })
  if (moovAt.size > LARGEST_INDEX)
    throw new ContainerError('media/index-too-large', { offset: moovAt.offset })
  const [moov] = parseBoxes(await source.read(moovAt.offset, moovAt.size), moovAt.offset)
  if (!moov) throw new ContainerError('media/truncated', { offset: moovAt.offset })

  const tracks = moov.children.filter((box) => box.type === 'trak')
  // An animated AVIF keeps its frames in a track of pictures.
  const videoTrak =
    tracks.find((trak) => handlerOf(trak) === 'vide') ??
    tracks.find((trak) => handlerOf(trak) === 'pict')
  if (!videoTrak) throw new ContainerError('media/no-video')
  const header = readBox(BOXES.tkhd, need(videoTrak, 'tkhd'))
  const builder = findBox(moov.children, 'mvex')
    ? await readFragments(source, top, moov, header.trackId)
    : readSampleTable(need(videoTrak, 'mdia/minf/stbl'), source.size)
  if (builder.count === 0) throw new ContainerError('media/no-frames')

  const samples = builder.finish(0)
  const firstKey = Math.max(0, samples.keys.indexOf(1))
  const firstFrame = await source.read(
    samples.offsets[firstKey]!,
    Math.min(KEY_HEAD_BYTES, samples.sizes[firstKey]!),
  )
  const sound = tracks.filter((trak) => handlerOf(trak) === 'soun')
  const brand =
    top[0]?.type === 'ftyp'
      ? String.fromCharCode(...(await source.read(top[0].offset + top[0].headerBytes, 4)))
      : 'qt  '
  return {
    container: brand === 'qt  ' ? 'mov' : brand === 'avis' ? 'avif' : 'mp4',
    bytes: source.size,
    video: describeTrack(moov, videoTrak, header, builder, firstFrame),
    audio: sound.length > 0,
    audioBytes: sound.reduce((sum, trak) => sum + sampleBytes(trak, source.size), 0),
    personal: readPersonal(moov),
    indexFirst: dataAt === undefined ? null : moovAt.offset < dataAt.offset,
  }
}

function need(box: Box, path: string): Box {
  const found = findBox(box.children, path)
  if (!found)
    throw new ContainerError('media/bad-value', { path: `${box.path}/${path}`, offset: box.offset })
  return found
}

/**
 * Bytes of a track's samples by its size table; none where it has no sane one (fragments keep
 * theirs elsewhere).
 */
function sampleBytes(trak: Box, fileBytes: number): number {
  const box = findBox(trak.children, 'mdia/minf/stbl/stsz')
  if (!box) return 0
  const { sizes } = readBox(BOXES.stsz, box)
  const sum =
    'shared' in sizes
      ? sizes.shared * sizes.count
      : sizes.each.reduce((total, size) => total + size, 0)
  return sum <= fileBytes ? sum : 0
}

function handlerOf(trak: Box): string {
  const box = findBox(trak.children, 'mdia/hdlr')
  return box ? readBox(BOXES.hdlr, box).handlerType : ''
}

type TrackHeader = ReturnType<typeof BOXES.tkhd.read>

function describeTrack(
  moov: Box,
  trak: Box,
  header: TrackHeader,
  builder: SampleTableBuilder,
  firstFrame: Uint8Array,
): VideoTrack {
  const timescale = readBox(BOXES.mdhd, need(trak, 'mdia/mdhd')).timescale
  if (timescale === 0)
    throw new ContainerError('media/bad-value', {
      path: 'moov/trak/mdia/mdhd',
      subject: 'timescale',
    })
  const movieTimescale = readBox(BOXES.mvhd, need(moov, 'mvhd')).timescale
  const entry = readVisualEntry(need(trak, 'mdia/minf/stbl/stsd'))
  const rotationDeg = rotationOf(header)
  const edit = editOf(trak, timescale, movieTimescale)
  const listed = builder.finish(edit.shift)
  // A loop whose index plays it over and over is one loop; an edit list that leaves something out
  // makes it something else.
  const { samples, repeats } = showsAll(listed, edit, timescale / movieTimescale)
    ? foldRepeats(listed)
    : { samples: listed, repeats: 1 }
  const stream = describeStream(entry.codec, firstFrame)
  const codedWidth = stream?.width ?? entry.width
  const codedHeight = stream?.height ?? entry.height
  const visibleWidth = Math.min(codedWidth, entry.width)
  const visibleHeight = Math.min(codedHeight, entry.height)
  // Browsers follow `colr` for VP8 and VP9 in MP4, the bitstream for all others.
  const follows = entry.codec.family === 'vp8' || entry.codec.family === 'vp9'
  return {
    codec: { ...entry.codec, stream },
    timescale,
    codedWidth,
    codedHeight,
    visibleWidth,
    visibleHeight,
    pixelAspect: reduceAspect(entry.pixelAspect),
    ...displaySize(visibleWidth, visibleHeight, entry.pixelAspect, rotationDeg),
    rotationDeg,
    colour: follows ? (entry.colour ?? stream?.colour ?? null) : (stream?.colour ?? entry.colour),
    samples,
    // HEVC and AV1 can carry alpha in tracks of their own; no browser here shows it.
    alpha: null,
    repeats,
    ...shownInterval(samples, repeats > 1 ? { ...edit, length: null } : edit),
  }
}

/** Whether an edit shows every sample, to within `tolerance` ticks at the end. */
function showsAll({ times, durations }: SampleTable, edit: Edit, tolerance: number): boolean {
  if (edit.length === null) return true
  let end = 0
  for (let index = 0; index < times.length; index++) {
    if (times[index]! < edit.start) return false
    end = Math.max(end, times[index]! + durations[index]!)
  }
  return edit.start + edit.length >= end - tolerance
}

interface Edit {
  /** Added to media times to reach presentation times, in ticks. */
  readonly shift: number
  /** Where the picture starts and how long it is shown, in ticks; null: to the end. */
  readonly start: number
  readonly length: number | null
}

/**
 * Source: ISO/IEC 14496-12:2022, clause 8.6.6. Only leading empty edits and one trim are honoured;
 * later edits extend nothing.
 */
function editOf(trak: Box, timescale: number, movieTimescale: number): Edit {
  const box = findBox(trak.children, 'edts/elst')
  const entries = box ? readBox(BOXES.elst, box).entries : []
  const trim = entries.find((entry) => entry.mediaTime >= 0)
  if (!trim || movieTimescale === 0) return { shift: 0, start: 0, length: null }
  // A delay at the start serves to sync with sound, which is removed: the picture starts at zero.
  const length = Math.round((trim.segmentDuration * timescale) / movieTimescale)
  return { shift: -trim.mediaTime, start: 0, length: length > 0 ? length : null }
}

/** What is shown, from the first frame at or after the edit's start to the end of the last. */
function shownInterval(samples: SampleTable, edit: Edit): { shownStart: number; shownEnd: number } {
  let start = Infinity
  let end = 0
  for (let index = 0; index < samples.count; index++) {
    const from = samples.times[index]!
    end = Math.max(end, from + Math.max(samples.durations[index]!, 1))
    if (from + samples.durations[index]! > edit.start) start = Math.min(start, from)
  }
  const shownStart = Math.max(edit.start, start)
  return {
    shownStart,
    shownEnd:
      edit.length === null
        ? end
        : Math.max(shownStart + 1, Math.min(end, edit.start + edit.length)),
  }
}

/**
 * The track matrix as a clockwise quarter turn; anything else counts as upright. Source: clause
 * 6.2.2.
 */
function rotationOf({ a, b, c, d }: TrackHeader): number {
  const sign = (value: number): number => Math.sign(Math.round(value / 0x10000))
  const key = [sign(a), sign(b), sign(c), sign(d)].join()
  return { '0,1,-1,0': 90, '-1,0,0,-1': 180, '0,-1,1,0': 270 }[key] ?? 0
}
