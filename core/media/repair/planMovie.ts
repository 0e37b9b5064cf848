import { boxHead, needBox, readBox, wrapBox, writeBox, type Box } from '../isobmff/boxTree'
import { BOXES } from '../isobmff/boxes/registry'
import type { SampleTable } from '../MediaFile'
import { joinPieces, lengthOf, type Piece } from './RepairPlan'

/**
 * A track to be written: what it was, which of its samples are copied, and what of them is shown
 * (ticks of its media).
 */
export interface MovieTrack {
  readonly trak: Box
  readonly samples: SampleTable
  readonly first: number
  readonly end: number
  readonly timescale: number
  readonly sound: boolean
  readonly shownStart: number
  readonly shownEnd: number
}

/** A movie to be written. */
export interface MovieOrder {
  readonly ftyp: Uint8Array
  readonly timescale: number
  readonly matrix: Uint8Array
  readonly creationTime: number
  readonly tracks: readonly MovieTrack[]
  /** Boxes at the end of the index, kept as they are. */
  readonly extras: readonly Uint8Array[]
  readonly strip: boolean
}

/** Position of a sample in the old file, and its track and number. */
interface Placed {
  readonly track: number
  readonly sample: number
}

/** The largest offset that 32 bits hold; beyond it chunk offsets take 64. */
const WIDE_FROM = 0xffff_ffff

/**
 * An MP4 with its index first whose data are ranges of another file, in that file's order, so that
 * they are copied in few long runs.
 */
export function planMovie(order: MovieOrder): { pieces: Piece[]; bytes: number } {
  const placed: Placed[] = order.tracks.flatMap(({ first, end }, track) =>
    Array.from({ length: end - first }, (_, index) => ({ track, sample: first + index })),
  )
  const offsetOf = ({ track, sample }: Placed): number =>
    order.tracks[track]!.samples.offsets[sample]!
  const sizeOf = ({ track, sample }: Placed): number => order.tracks[track]!.samples.sizes[sample]!
  // Samples of one track must stay in decoding order within their chunks; files keep them so, with
  // rare exceptions that sort by track then.
  placed.sort((a, b) => offsetOf(a) - offsetOf(b))
  const inOrder = placed.every(
    (each, index) =>
      index === 0 ||
      placed[index - 1]!.track !== each.track ||
      placed[index - 1]!.sample < each.sample,
  )
  if (!inOrder) placed.sort((a, b) => a.track - b.track || a.sample - b.sample)
  const data = joinPieces(placed.map((each) => ({ offset: offsetOf(each), length: sizeOf(each) })))
  const dataBytes = lengthOf(data)
  const wide = dataBytes > WIDE_FROM - 64 * 1024 * 1024
  const chunks = chunksOf(placed, sizeOf, order.tracks.length)
  const build = (dataAt: number): Uint8Array<ArrayBuffer> => writeMovie(order, chunks, dataAt, wide)
  const dataHead = wide ? wideHead(dataBytes) : boxHead('mdat', dataBytes)
  const moov = build(order.ftyp.byteLength + build(0).byteLength + dataHead.byteLength)
  const pieces: Piece[] = [{ bytes: order.ftyp }, { bytes: moov }, { bytes: dataHead }, ...data]
  return { pieces, bytes: lengthOf(pieces) }
}

function wideHead(bytes: number): Uint8Array {
  const head = new Uint8Array(16)
  const view = new DataView(head.buffer)
  view.setUint32(0, 1)
  head.set([0x6d, 0x64, 0x61, 0x74], 4)
  view.setBigUint64(8, BigInt(bytes + 16))
  return head
}

interface Chunk {
  /** Bytes from the start of the data. */
  readonly offset: number
  samples: number
}

/** Each run of one track's samples is a chunk. */
function chunksOf(
  placed: readonly Placed[],
  sizeOf: (each: Placed) => number,
  tracks: number,
): Chunk[][] {
  const chunks: Chunk[][] = Array.from({ length: tracks }, () => [])
  let offset = 0
  placed.forEach((each, index) => {
    const own = chunks[each.track]!
    if (index > 0 && placed[index - 1]!.track === each.track) own[own.length - 1]!.samples += 1
    else own.push({ offset, samples: 1 })
    offset += sizeOf(each)
  })
  return chunks
}

function writeMovie(
  order: MovieOrder,
  chunks: readonly Chunk[][],
  dataAt: number,
  wide: boolean,
): Uint8Array<ArrayBuffer> {
  const durations = order.tracks.map((track) =>
    Math.round(((track.shownEnd - track.shownStart) * order.timescale) / track.timescale),
  )
  const header = writeBox('mvhd', BOXES.mvhd, {
    version: 1,
    flags: 0,
    creationTime: order.creationTime,
    modificationTime: order.creationTime,
    timescale: order.timescale,
    duration: Math.max(...durations),
    rate: 1,
    volume: 1,
    reserved: null,
    matrix: order.matrix,
    predefined: null,
    nextTrackId:
      Math.max(
        ...order.tracks.map(
          ({ trak }) => readBox(BOXES.tkhd, needBox(trak.children, 'tkhd')).trackId,
        ),
      ) + 1,
  })
  const traks = order.tracks.map((track, index) =>
    writeTrak(track, durations[index]!, chunks[index]!, dataAt, wide, order.strip),
  )
  return wrapBox('moov', header, ...traks, ...order.extras)
}

function writeTrak(
  track: MovieTrack,
  duration: number,
  chunks: readonly Chunk[],
  dataAt: number,
  wide: boolean,
  strip: boolean,
): Uint8Array {
  const { trak, samples, first, end } = track
  const head = readBox(BOXES.tkhd, needBox(trak.children, 'tkhd'))
  const times = strip ? { creationTime: 0, modificationTime: 0 } : {}
  const table = timesOf(samples, first, end)
  const media = readBox(BOXES.mdhd, needBox(trak.children, 'mdia/mdhd'))
  const mdia = needBox(trak.children, 'mdia')
  const minf = needBox(trak.children, 'mdia/minf')
  const others = (box: Box, without: readonly string[]): Uint8Array[] =>
    box.children
      .filter((child) => !without.includes(child.type))
      .map((child) => wrapBox(child.type, child.payload))
  // Decoding starts at the first sample kept: what is shown counts from there.
  const mediaTime = Math.round(track.shownStart - samples.times[first]! + table.offsets[0]!)
  const edits = writeBox('elst', BOXES.elst, {
    version: 1,
    flags: 0,
    entries: [
      {
        segmentDuration: duration,
        mediaTime: Math.max(0, mediaTime),
        rateInteger: 1,
        rateFraction: 0,
      },
    ],
  })
  const hdlr = readBox(BOXES.hdlr, needBox(trak.children, 'mdia/hdlr'))
  return wrapBox(
    'trak',
    writeBox('tkhd', BOXES.tkhd, { ...head, version: 1, duration, ...times }),
    wrapBox('edts', edits),
    ...(strip
      ? []
      : trak.children
          .filter((box) => box.type === 'udta' || box.type === 'meta')
          .map((box) => wrapBox(box.type, box.payload))),
    wrapBox(
      'mdia',
      writeBox('mdhd', BOXES.mdhd, { ...media, version: 1, duration: table.total, ...times }),
      writeBox('hdlr', BOXES.hdlr, strip ? { ...hdlr, name: Uint8Array.from([0]) } : hdlr),
      ...others(mdia, ['mdhd', 'hdlr', 'minf', 'udta', 'meta']),
      wrapBox('minf', ...others(minf, ['stbl']), writeStbl(track, table, chunks, dataAt, wide)),
    ),
  )
}

interface Times {
  readonly deltas: number[]
  /** Composition offsets, none below 0 so that every reader takes them. */
  readonly offsets: number[]
  readonly total: number
}

/**
 * Decoding times follow from durations; composition offsets are what is left to each sample's own
 * time.
 */
function timesOf(samples: SampleTable, first: number, end: number): Times {
  const deltas: number[] = []
  const raw: number[] = []
  let decode = samples.times[first]!
  for (let sample = first; sample < end; sample++) {
    const delta = Math.max(0, Math.round(samples.durations[sample]!))
    deltas.push(delta)
    raw.push(samples.times[sample]! - decode)
    decode += delta
  }
  const min = raw.reduce((low, value) => Math.min(low, value), 0)
  return {
    deltas,
    offsets: raw.map((offset) => Math.round(offset - min)),
    total: deltas.reduce((sum, delta) => sum + delta, 0),
  }
}

function writeStbl(
  { trak, samples, first, end, sound }: MovieTrack,
  { deltas, offsets }: Times,
  chunks: readonly Chunk[],
  dataAt: number,
  wide: boolean,
): Uint8Array {
  const sizes = Array.from(samples.sizes.subarray(first, end))
  const keys = Array.from(samples.keys.subarray(first, end)).flatMap((key, index) =>
    key === 1 ? [index + 1] : [],
  )
  const stsd = needBox(trak.children, 'mdia/minf/stbl/stsd')
  const same = sizes.length > 1 && sizes.every((size) => size === sizes[0])
  const places = chunks.map((chunk) => chunk.offset + dataAt)
  return wrapBox(
    'stbl',
    wrapBox('stsd', stsd.payload),
    writeBox('stts', BOXES.stts, {
      version: 0,
      flags: 0,
      runs: runsOf(deltas).map(([delta, count]) => ({ count, delta })),
    }),
    ...(offsets.some((offset) => offset !== 0)
      ? [
          writeBox('ctts', BOXES.ctts, {
            version: 0,
            flags: 0,
            runs: runsOf(offsets).map(([offset, count]) => ({ count, offset })),
          }),
        ]
      : []),
    ...(sound || keys.length === sizes.length
      ? []
      : [writeBox('stss', BOXES.stss, { version: 0, flags: 0, sampleNumbers: keys })]),
    writeBox('stsc', BOXES.stsc, { version: 0, flags: 0, runs: chunkRuns(chunks) }),
    writeBox('stsz', BOXES.stsz, {
      version: 0,
      flags: 0,
      sizes: same ? { shared: sizes[0]!, count: sizes.length } : { each: sizes },
    }),
    wide
      ? writeBox('co64', BOXES.co64, { version: 0, flags: 0, offsets: places })
      : writeBox('stco', BOXES.stco, { version: 0, flags: 0, offsets: places }),
  )
}

/** Equal neighbours as value and count. */
function runsOf(values: readonly number[]): [number, number][] {
  const runs: [number, number][] = []
  for (const value of values) {
    const last = runs[runs.length - 1]
    if (last && last[0] === value) last[1] += 1
    else runs.push([value, 1])
  }
  return runs
}

function chunkRuns(
  chunks: readonly Chunk[],
): { firstChunk: number; samplesPerChunk: number; descriptionIndex: number }[] {
  return chunks.flatMap((chunk, index) =>
    index > 0 && chunks[index - 1]!.samples === chunk.samples
      ? []
      : [{ firstChunk: index + 1, samplesPerChunk: chunk.samples, descriptionIndex: 1 }],
  )
}
