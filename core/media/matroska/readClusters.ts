import { ByteReader } from '../../bytes/ByteReader'
import type { ByteSource } from '../../bytes/ByteSource'
import { ContainerError } from '../../bytes/ContainerError'
import type { AlphaSamples, SampleTable } from '../MediaFile'
import { SampleTableBuilder } from '../SampleTableBuilder'
import { readHead, unsignedOf, variableInteger } from './ebml'

/** Enough of a frame for the header of any codec here. */
const FRAME_HEAD_BYTES = 2048

/**
 * The samples of `trackNumber`, times in ticks. Durations are the distance to the next frame shown;
 * the last frame lasts `defaultTicks`, or as long as the one before it. Also the head of the first
 * frame, and with `hasAlpha` the pictures in block additions that hold it; null if there are none.
 */
export async function readClusters(
  source: ByteSource,
  clusters: readonly { offset: number; end: number }[],
  trackNumber: number,
  defaultTicks: number,
  hasAlpha = false,
): Promise<{ samples: SampleTable; firstFrame: Uint8Array; alpha: AlphaSamples | null }> {
  const builder = new SampleTableBuilder()
  // Other additions (HDR metadata, time codes) are not even looked at.
  const additions = hasAlpha ? new Map<number, Part>() : null
  for (const cluster of clusters)
    await readCluster(source, cluster, trackNumber, builder, additions)
  const table = builder.finish()
  const firstFrame =
    table.count > 0
      ? await source.read(table.offsets[0]!, Math.min(FRAME_HEAD_BYTES, table.sizes[0]!))
      : new Uint8Array(0)
  fillDurations(table, defaultTicks)
  return { samples: table, firstFrame, alpha: alphaOf(additions, table.count) }
}

/** A part of the file, in bytes. */
interface Part {
  readonly at: number
  readonly size: number
}

function alphaOf(additions: ReadonlyMap<number, Part> | null, count: number): AlphaSamples | null {
  if (!additions || additions.size === 0) return null
  const alpha = { offsets: new Float64Array(count), sizes: new Float64Array(count) }
  for (const [sample, { at, size }] of additions) {
    alpha.offsets[sample] = at
    alpha.sizes[sample] = size
  }
  return alpha
}

async function readCluster(
  source: ByteSource,
  cluster: { offset: number; end: number },
  trackNumber: number,
  builder: SampleTableBuilder,
  additions: Map<number, Part> | null,
): Promise<void> {
  let clusterTime = 0
  let offset = cluster.offset
  while (offset + 2 <= cluster.end) {
    const head = readHead(new ByteReader(await source.read(offset, 12), offset))
    const payloadOffset = offset + head.headBytes
    const size = head.size ?? cluster.end - payloadOffset
    // A recording that broke off keeps the frames before the end.
    if (payloadOffset + size > cluster.end) return
    if (head.name === 'Timestamp') {
      clusterTime = unsignedOf({
        name: 'Timestamp',
        payload: await source.read(payloadOffset, Math.min(size, 8)),
        payloadOffset,
      })
    } else if (head.name === 'SimpleBlock') {
      await addBlock(source, payloadOffset, size, clusterTime, trackNumber, null, builder)
    } else if (head.name === 'BlockGroup') {
      await readGroup(source, payloadOffset, size, clusterTime, trackNumber, builder, additions)
    }
    offset = payloadOffset + size
  }
}

async function readGroup(
  source: ByteSource,
  start: number,
  size: number,
  clusterTime: number,
  trackNumber: number,
  builder: SampleTableBuilder,
  additions: Map<number, Part> | null,
): Promise<void> {
  let offset = start
  let block: Part | null = null
  let addition: Part | null = null
  let references = false
  while (offset + 2 <= start + size) {
    const head = readHead(new ByteReader(await source.read(offset, 12), offset))
    const payloadOffset = offset + head.headBytes
    const length = head.size ?? 0
    if (payloadOffset + length > start + size)
      throw new ContainerError('media/bad-size', { offset, path: 'BlockGroup' })
    if (head.name === 'Block') block = { at: payloadOffset, size: length }
    if (head.name === 'ReferenceBlock') references = true
    if (head.name === 'BlockAdditions' && additions)
      addition = await readAddition(source, payloadOffset, payloadOffset + length)
    offset = payloadOffset + length
  }
  if (!block) return
  const sample = builder.count
  await addBlock(source, block.at, block.size, clusterTime, trackNumber, !references, builder)
  if (addition && additions && builder.count === sample + 1) additions.set(sample, addition)
}

/**
 * The addition that the codec defines (`BlockAddID` 1, also where it is left out): the alpha of VP8
 * and VP9. Null if there is none. Source: RFC 9559, section 5.1.3.5.2.
 */
async function readAddition(source: ByteSource, start: number, end: number): Promise<Part | null> {
  let found: Part | null = null
  let id = 1
  for (let offset = start; offset + 2 <= end;) {
    const head = readHead(new ByteReader(await source.read(offset, 12), offset))
    const at = offset + head.headBytes
    const size = head.size ?? 0
    if (at + size > end) return null
    // Its children follow: walked in the same loop.
    if (head.name === 'BlockMore') {
      if (found && id === 1) return found
      ;[found, id, offset] = [null, 1, at]
      continue
    }
    if (head.name === 'BlockAddID' && size > 0 && size <= 8)
      id = unsignedOf({
        name: 'BlockAddID',
        payload: await source.read(at, size),
        payloadOffset: at,
      })
    if (head.name === 'BlockAdditional') found = { at, size }
    offset = at + size
  }
  return id === 1 ? found : null
}

/**
 * So much of a block holds its head and the sizes of all laced frames: at most 256 of them, few
 * bytes each.
 */
const LACE_HEAD_BYTES = 2048

/**
 * Adds a block's frames. `key` is null if the block's own flag says. Source: RFC 9559, section 10.
 */
async function addBlock(
  source: ByteSource,
  offset: number,
  size: number,
  clusterTime: number,
  trackNumber: number,
  key: boolean | null,
  builder: SampleTableBuilder,
): Promise<void> {
  const reader = new ByteReader(await source.read(offset, Math.min(12, size)), offset)
  const track = variableInteger(reader, 8, false).value
  if (track !== trackNumber) return
  const time = clusterTime + reader.i16()
  const flags = reader.u8()
  const isKey = key ?? (flags & 0x80) !== 0
  const lacing = (flags >> 1) & 3
  if (lacing === 0) {
    builder.add(offset + reader.position, size - reader.position, time, 0, isKey)
    return
  }
  const head = new ByteReader(await source.read(offset, Math.min(LACE_HEAD_BYTES, size)), offset)
  head.raw(reader.position)
  const sizes = laceSizes(head, lacing, size)
  let at = offset + head.position
  // Laced frames share one time; `fillDurations` spreads them.
  for (const frameBytes of sizes) {
    builder.add(at, frameBytes, time, 0, isKey)
    at += frameBytes
  }
}

/**
 * The sizes of a block's laced frames: 1 Xiph, 2 fixed, 3 EBML. Source: RFC 9559, section 10.3.
 * Errors: `media/bad-size`, `media/truncated`.
 */
function laceSizes(reader: ByteReader, lacing: number, blockBytes: number): number[] {
  const count = reader.u8() + 1
  const sizes: number[] = []
  if (lacing === 2) {
    const left = blockBytes - reader.position
    if (left % count !== 0)
      throw new ContainerError('media/bad-size', { offset: reader.baseOffset, path: 'Block' })
    return Array.from({ length: count }, () => left / count)
  }
  for (let index = 0; index + 1 < count; index++) {
    if (lacing === 1) {
      let frame = 0
      for (let byte = 255; byte === 255; frame += byte) byte = reader.u8()
      sizes.push(frame)
    } else if (index === 0) sizes.push(variableInteger(reader, 8, false).value)
    else {
      const start = reader.position
      const { value } = variableInteger(reader, 8, false)
      // Later sizes are differences, written with half their range added.
      sizes.push(sizes[index - 1]! + value - (2 ** (7 * (reader.position - start) - 1) - 1))
    }
  }
  const last = blockBytes - reader.position - sizes.reduce((sum, each) => sum + each, 0)
  if (last < 0 || sizes.some((each) => each < 0))
    throw new ContainerError('media/bad-size', { offset: reader.baseOffset, path: 'Block' })
  return [...sizes, last]
}

function fillDurations(table: SampleTable, defaultTicks: number): void {
  spreadLaces(table, defaultTicks)
  const order = Array.from(table.times.keys()).sort((a, b) => table.times[a]! - table.times[b]!)
  let last = 0
  for (let index = 0; index + 1 < order.length; index++) {
    last = table.times[order[index + 1]!]! - table.times[order[index]!]!
    table.durations[order[index]!] = last
  }
  const final = order[order.length - 1]
  if (final !== undefined)
    table.durations[final] = defaultTicks > 0 ? defaultTicks : Math.max(1, last)
}

/**
 * Frames of one block carry one time: each comes a default duration after the one before, or the
 * block's span is shared out evenly.
 */
function spreadLaces({ times, count }: SampleTable, defaultTicks: number): void {
  for (let first = 0; first < count;) {
    let end = first + 1
    while (end < count && times[end] === times[first]) end += 1
    const laced = end - first
    const span = end < count ? times[end]! - times[first]! : 0
    const step = defaultTicks > 0 ? defaultTicks : span > 0 ? span / laced : 1
    for (let index = 1; index < laced; index++)
      times[first + index] = Math.round(times[first]! + index * step)
    first = end
  }
}
