import { BitReader } from '../../bytes/BitReader'
import { ByteWriter } from '../../bytes/ByteWriter'
import { ContainerError } from '../../bytes/ContainerError'
import { BOXES } from '../isobmff/boxes/registry'
import { parseSps, unescapeNal, type SpsFacts } from '../codecs/h264'
import type { EncodedFrame } from '../EncodedTrack'

/** NAL unit types. Source: ITU-T H.264 (08/2021), table 7-1. */
const SLICE = 1
const IDR = 5
const SPS = 7
const PPS = 8
/** Bytes of the length before each unit in a sample. */
const LENGTH_BYTES = 4

/** An H.264 stream as MP4 stores it. */
export interface AvcStream {
  /** In order of decoding, each with its place in order of presentation. */
  readonly frames: EncodedFrame[]
  /** The payload of `avcC`. */
  readonly description: Uint8Array
  readonly sps: SpsFacts
}

/**
 * Reads an H.264 byte stream (Annex B) with progressive pictures of one set of parameters, as an
 * encoder writes it. Parameter sets go to the configuration; other units that are no pictures (SEI,
 * delimiters, filler) are left out. The order of presentation is that of the picture order counts
 * between two IDR pictures. Source: ITU-T H.264 (08/2021), clauses 7.3.3, 7.4.1.2.4, 8.2.1 and
 * Annex B. Errors: `media/bad-value` where it is no such stream, `media/truncated`.
 */
export function readAnnexB(bytes: Uint8Array): AvcStream {
  let spsUnit: Uint8Array | null = null
  let ppsUnit: Uint8Array | null = null
  let facts: SpsFacts | null = null
  const pictures: Picture[] = []
  for (const nal of splitAnnexB(bytes)) {
    const type = nal[0]! & 31
    if (type === SPS) {
      spsUnit = onlyOne(spsUnit, nal, 'H.264 parameter set')
      facts ??= parseSps(nal)
    } else if (type === PPS) ppsUnit = onlyOne(ppsUnit, nal, 'H.264 picture parameters')
    else if (type === SLICE || type === IDR) {
      if (!facts) throw new ContainerError('media/bad-value', { subject: 'H.264 stream' })
      addSlice(pictures, nal, facts)
    } else if (type >= 2 && type <= 4) {
      throw new ContainerError('media/bad-value', { subject: 'H.264 data partitions' })
    }
  }
  if (!facts || !spsUnit || !ppsUnit || pictures.length === 0 || !pictures[0]!.idr)
    throw new ContainerError('media/bad-value', { subject: 'H.264 stream' })
  return { frames: inOrder(pictures), description: avcConfig(facts, spsUnit, ppsUnit), sps: facts }
}

/**
 * The NAL units between start codes; zeros before a start code are no part of a unit. Views, not
 * copies. Source: ITU-T H.264 (08/2021), Annex B.
 */
export function splitAnnexB(bytes: Uint8Array): Uint8Array[] {
  const units: Uint8Array[] = []
  let start = -1
  const end = (at: number): void => {
    let last = at
    while (last > start && bytes[last - 1] === 0) last -= 1
    if (start >= 0 && last > start) units.push(bytes.subarray(start, last))
  }
  for (let at = bytes.indexOf(1, 2); at >= 0; at = bytes.indexOf(1, at + 1)) {
    if (bytes[at - 1] !== 0 || bytes[at - 2] !== 0) continue
    end(at - 2)
    start = at + 1
  }
  end(bytes.byteLength)
  return units
}

/** A picture in the making: its slices, and what orders it. */
interface Picture {
  readonly idr: boolean
  readonly slices: Uint8Array[]
  readonly orderCount: number
}

function onlyOne(held: Uint8Array | null, nal: Uint8Array, subject: string): Uint8Array {
  const same =
    !held || (held.byteLength === nal.byteLength && held.every((byte, at) => byte === nal[at]))
  if (!same) throw new ContainerError('media/bad-value', { subject })
  return nal
}

/** Reads the head of a slice, and begins a picture where it is the first of one. */
function addSlice(pictures: Picture[], nal: Uint8Array, sps: SpsFacts): void {
  const { order } = sps
  // A slice's head is short; escapes beyond it do not matter.
  const bits = new BitReader(unescapeNal(nal.subarray(0, SLICE_HEAD_BYTES)))
  bits.skip(8)
  const firstBlock = bits.ue()
  if (firstBlock > 0 && pictures.length > 0) {
    pictures[pictures.length - 1]!.slices.push(nal)
    return
  }
  bits.ue() // slice_type
  bits.ue() // pic_parameter_set_id
  if (sps.interlaced || !order || order.type === 1)
    throw new ContainerError('media/bad-value', { subject: 'H.264 picture order' })
  bits.skip(order.frameNumBits)
  const idr = (nal[0]! & 31) === IDR
  if (idr) bits.ue() // idr_pic_id
  const last = pictures[pictures.length - 1]
  const orderCount =
    order.type === 2
      ? (last && !idr ? last.orderCount : -2) + 2
      : unwrapped(bits.bits(order.countBits), idr ? 0 : (last?.orderCount ?? 0), order.countBits)
  pictures.push({ idr, slices: [nal], orderCount })
}

const SLICE_HEAD_BYTES = 40

/**
 * A count of which only the low bits are stored, as the value that is nearest to the picture before
 * it. Source: clause 8.2.1.1; of the picture before in place of the reference before, which differ
 * by less than half the range.
 */
function unwrapped(low: number, near: number, bits: number): number {
  const range = 2 ** bits
  const base = near - (((near % range) + range) % range) + low
  return base - near > range / 2 ? base - range : near - base >= range / 2 ? base + range : base
}

/** Samples in order of decoding with their places in order of presentation. */
function inOrder(pictures: readonly Picture[]): EncodedFrame[] {
  const frames: EncodedFrame[] = []
  for (let from = 0; from < pictures.length;) {
    let to = from + 1
    while (to < pictures.length && !pictures[to]!.idr) to += 1
    const group = pictures.slice(from, to)
    const ranks = group
      .map(({ orderCount }, index) => ({ orderCount, index }))
      .sort((a, b) => a.orderCount - b.orderCount)
    const shown = new Array<number>(group.length)
    ranks.forEach(({ index }, rank) => (shown[index] = from + rank))
    group.forEach(({ idr, slices }, index) =>
      frames.push({ data: sampleOf(slices), key: idr, shown: shown[index]! }),
    )
    from = to
  }
  return frames
}

function sampleOf(nals: readonly Uint8Array[]): Uint8Array {
  const sample = new Uint8Array(nals.reduce((sum, nal) => sum + LENGTH_BYTES + nal.byteLength, 0))
  const view = new DataView(sample.buffer)
  let at = 0
  for (const nal of nals) {
    view.setUint32(at, nal.byteLength)
    sample.set(nal, at + LENGTH_BYTES)
    at += LENGTH_BYTES + nal.byteLength
  }
  return sample
}

function avcConfig(sps: SpsFacts, spsUnit: Uint8Array, ppsUnit: Uint8Array): Uint8Array {
  const writer = new ByteWriter()
  const depth = 0xf8 | (sps.bitDepth - 8)
  const fields = {
    configurationVersion: 1,
    profile: sps.profile,
    compatibility: sps.compatibility,
    level: sps.level,
    lengthSizeMinusOne: 0xfc | (LENGTH_BYTES - 1),
    sps: [spsUnit],
    pps: [ppsUnit],
    // Chroma format, depths, no extensions. Source: ISO/IEC 14496-15:2022, clause 5.3.3.1.2.
    extension: sps.profile >= 100 ? Uint8Array.of(0xfc | sps.chroma, depth, depth, 0) : NOTHING,
  }
  BOXES.avcC.write(writer, fields, {})
  return writer.finish()
}

const NOTHING = new Uint8Array(0)
