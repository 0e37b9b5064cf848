import type { ByteSource } from '../../bytes/ByteSource'
import { ContainerError } from '../../bytes/ContainerError'
import { BOXES } from '../isobmff/boxes/registry'
import {
  findBox,
  needBox,
  parseBoxes,
  readBox,
  wrapBox,
  writeBox,
  type Box,
} from '../isobmff/boxTree'
import { readFragments } from '../isobmff/readFragments'
import { readSampleTable } from '../isobmff/readSampleTable'
import { walkTopBoxes, type TopBox } from '../isobmff/walkTopBoxes'
import type { MediaFile, SampleTable } from '../MediaFile'
import { cutPicture, cutSound, type SampleCut } from './cutSamples'
import { planMovie, type MovieTrack } from './planMovie'
import type { RepairOrder, RepairPlan } from './RepairPlan'

/**
 * MP4 or MOV to the same: index first, with or without sound, cut at key frames, with or without
 * metadata. Coded frames are copied as they are.
 */
export async function repairIsobmff(
  source: ByteSource,
  file: MediaFile,
  order: RepairOrder,
): Promise<RepairPlan> {
  const top = await walkTopBoxes(source)
  const at = top.find((box) => box.type === 'moov')!
  const [moov] = parseBoxes(await source.read(at.offset, at.size), at.offset)
  const fragmented = findBox(moov!.children, 'mvex') !== null
  const header = readBox(BOXES.mvhd, needBox(moov!.children, 'mvhd'))
  const traks = moov!.children.filter((box) => box.type === 'trak')
  const tableOf = async (trak: Box): Promise<SampleTable> => {
    const stbl = findBox(trak.children, 'mdia/minf/stbl')
    if (!stbl) throw new ContainerError('media/bad-value', { path: 'moov/trak/mdia/minf/stbl' })
    if (
      !fragmented &&
      readBox(BOXES.stsc, needBox(stbl.children, 'stsc')).runs.some(
        (run) => run.descriptionIndex > 1,
      )
    ) {
      throw new ContainerError('media/repair-unsupported', {
        subject: 'several sample descriptions',
      })
    }
    return (
      fragmented
        ? await readFragments(source, top, moov!, trackIdOf(trak))
        : readSampleTable(stbl, source.size)
    ).finish()
  }
  const ticks = (value: number | null): number | null =>
    value === null ? null : (value * file.video.timescale) / 1000
  const cut = await cutPicture(source, file.video, ticks(order.startMs), ticks(order.endMs))
  const cutting = order.startMs !== null || order.endMs !== null
  const picture = traks.find((trak) => handlerOf(trak) === 'vide')
  if (!picture) throw new ContainerError('media/no-video')
  // `file.video`'s times have the edit list in them; tables are written in media time, which is
  // earlier by the same amount.
  const pictureTable = await tableOf(picture)
  const shift = pictureTable.times[0]! - file.video.samples.times[0]!
  const tracks: MovieTrack[] = [
    {
      trak: picture,
      samples: pictureTable,
      first: cut.first,
      end: cut.end,
      timescale: file.video.timescale,
      sound: false,
      shownStart: cut.shownStart + shift,
      shownEnd: cut.shownEnd + shift,
    },
  ]
  if (order.keepSound)
    for (const trak of traks.filter((each) => handlerOf(each) === 'soun')) {
      const samples = await tableOf(trak)
      if (samples.count > 0) tracks.push(...soundOf(trak, samples, file, cut, cutting))
    }
  const extras = order.strip
    ? []
    : moov!.children
        .filter((box) => box.type === 'udta' || box.type === 'meta')
        .map((box) => wrapBox(box.type, box.payload))
  return {
    ...planMovie({
      ftyp: await fileTypeOf(source, top, file, order),
      timescale: header.timescale || 1000,
      matrix: header.matrix,
      creationTime: order.strip ? 0 : header.creationTime,
      tracks,
      extras,
      strip: order.strip,
    }),
    startMs: Math.max(
      0,
      Math.round(((cut.shownStart - file.video.shownStart) * 1000) / file.video.timescale),
    ),
    container: order.container,
  }
}

/** A track of sound, cut with the picture; nothing where none of it is left. */
function soundOf(
  trak: Box,
  samples: SampleTable,
  { video }: MediaFile,
  cut: SampleCut,
  cutting: boolean,
): MovieTrack[] {
  const { timescale } = readBox(BOXES.mdhd, needBox(trak.children, 'mdia/mdhd'))
  const edit = trimOf(trak)
  const inSound = (shown: number): number =>
    ((shown - video.shownStart) * timescale) / video.timescale + edit
  const [from, to] = [inSound(cut.shownStart), inSound(cut.shownEnd)]
  const part = cutting ? cutSound(samples, from, to) : { first: 0, end: samples.count }
  const until = samples.times[part.end - 1]! + samples.durations[part.end - 1]!
  if (part.end <= part.first) return []
  return [
    {
      trak,
      samples,
      ...part,
      timescale,
      sound: true,
      shownStart: cutting ? Math.max(from, samples.times[part.first]!) : edit,
      shownEnd: cutting ? Math.min(to, until) : until,
    },
  ]
}

/** The box that names the file's type: the source's own where the container stays. */
async function fileTypeOf(
  source: ByteSource,
  [first]: readonly TopBox[],
  file: MediaFile,
  order: RepairOrder,
): Promise<Uint8Array> {
  if (first?.type === 'ftyp' && order.container === file.container)
    return source.read(first.offset, first.size)
  return writeBox('ftyp', BOXES.ftyp, {
    majorBrand: order.container === 'mov' ? 'qt  ' : 'isom',
    minorVersion: 512,
    compatibleBrands: new TextEncoder().encode('isomiso2mp41'),
  })
}

function handlerOf(trak: Box): string {
  const box = findBox(trak.children, 'mdia/hdlr')
  return box ? readBox(BOXES.hdlr, box).handlerType : ''
}

function trackIdOf(trak: Box): number {
  return readBox(BOXES.tkhd, needBox(trak.children, 'tkhd')).trackId
}

/**
 * Time of a track's first shown moment in its media time: audio codecs begin with samples that only
 * prime the decoder.
 */
function trimOf(trak: Box): number {
  const box = findBox(trak.children, 'edts/elst')
  return box
    ? Math.max(
        0,
        readBox(BOXES.elst, box).entries.find((entry) => entry.mediaTime >= 0)?.mediaTime ?? 0,
      )
    : 0
}
