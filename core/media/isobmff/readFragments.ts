import type { ByteSource } from '../../bytes/ByteSource'
import { ContainerError } from '../../bytes/ContainerError'
import { SampleTableBuilder } from '../SampleTableBuilder'
import type { Box } from './boxTree'
import { findBox, parseBoxes, readBox } from './boxTree'
import { BOXES } from './boxes/registry'
import type { TopBox } from './walkTopBoxes'

const LARGEST_FRAGMENT_INDEX = 16 * 1024 * 1024
/**
 * Sample flag: "is a difference sample", so not a key frame. Source: ISO/IEC 14496-12:2022, clause
 * 8.8.3.1.
 */
const NON_SYNC = 0x10000

/** Defaults of a track's fragments. */
interface Defaults {
  readonly sampleDuration: number
  readonly sampleSize: number
  readonly sampleFlags: number
}

/** The samples of `trackId` in all movie fragments, in file order, times in media ticks. */
export async function readFragments(
  source: ByteSource,
  top: readonly TopBox[],
  moov: Box,
  trackId: number,
): Promise<SampleTableBuilder> {
  const builder = new SampleTableBuilder()
  const defaults = trackDefaults(moov, trackId)
  let nextTime = 0
  for (const entry of top) {
    if (entry.type !== 'moof') continue
    if (entry.size > LARGEST_FRAGMENT_INDEX)
      throw new ContainerError('media/index-too-large', { offset: entry.offset })
    const [moof] = parseBoxes(await source.read(entry.offset, entry.size), entry.offset)
    if (!moof) throw new ContainerError('media/truncated', { offset: entry.offset })
    for (const traf of moof.children) {
      if (traf.type === 'traf')
        nextTime = readTrackFragment(
          traf,
          moof.offset,
          trackId,
          defaults,
          nextTime,
          source.size,
          builder,
        )
    }
  }
  return builder
}

function trackDefaults(moov: Box, trackId: number): Defaults {
  const mvex = findBox(moov.children, 'mvex')
  const found = (mvex?.children ?? [])
    .filter((box) => box.type === 'trex')
    .map((box) => readBox(BOXES.trex, box))
    .find((trex) => trex.trackId === trackId)
  return found ?? { sampleDuration: 0, sampleSize: 0, sampleFlags: 0 }
}

/** Adds a `traf`'s samples to `builder`; returns the decode time after them. */
function readTrackFragment(
  traf: Box,
  moofOffset: number,
  trackId: number,
  trackWide: Defaults,
  nextTime: number,
  fileBytes: number,
  builder: SampleTableBuilder,
): number {
  const headBox = findBox(traf.children, 'tfhd')
  if (!headBox)
    throw new ContainerError('media/bad-value', { path: `${traf.path}/tfhd`, offset: traf.offset })
  const head = readBox(BOXES.tfhd, headBox)
  if (head.trackId !== trackId) return nextTime
  const timeBox = findBox(traf.children, 'tfdt')
  let time = timeBox ? readBox(BOXES.tfdt, timeBox).baseMediaDecodeTime : nextTime
  const base = head.baseDataOffset ?? moofOffset
  let position = base
  for (const runBox of traf.children) {
    if (runBox.type !== 'trun') continue
    const run = readBox(BOXES.trun, runBox)
    if (run.dataOffset !== null) position = base + run.dataOffset
    for (const [index, sample] of run.samples.entries()) {
      const size = sample.size ?? head.sampleSize ?? trackWide.sampleSize
      const duration = sample.duration ?? head.sampleDuration ?? trackWide.sampleDuration
      const first = index === 0 ? run.firstSampleFlags : null
      const flags = first ?? sample.flags ?? head.sampleFlags ?? trackWide.sampleFlags
      if (position < 0)
        throw new ContainerError('media/bad-value', { path: runBox.path, offset: runBox.offset })
      // A download that stopped early keeps the frames before the end.
      if (position + size > fileBytes) return time
      // A run can claim thousands of frames without a byte each: they are not pictures.
      if (size > 0)
        builder.add(
          position,
          size,
          time + (sample.compositionOffset ?? 0),
          duration,
          (flags & NON_SYNC) === 0,
        )
      time += duration
      position += size
    }
  }
  return time
}
