import { findAv1Sequence, stripDelimiters, type Av1Sequence } from '../codecs/av1'
import { lowestVp9Level, parseVp9Frame } from '../codecs/vp9'
import { presentationDelays, type EncodedSound, type EncodedTrack } from '../EncodedTrack'
import type { PixelAspect } from '../displaySize'
import { boxHead, wrapBox, writeBox } from './boxTree'
import { BOXES } from './boxes/registry'
import { visualSampleEntry } from './boxes/visualSampleEntry'

const MOVIE_TIMESCALE = 1000
/** The identity matrix, as headers store it. */
export const IDENTITY_MATRIX = Uint8Array.from([
  0, 1, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 1, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0,
  0x40, 0, 0, 0,
])

const text = (value: string): Uint8Array => new TextEncoder().encode(value)
const concat = (parts: readonly Uint8Array[]): Uint8Array<ArrayBuffer> => {
  const joined = new Uint8Array(parts.reduce((sum, part) => sum + part.byteLength, 0))
  parts.reduce((at, part) => (joined.set(part, at), at + part.byteLength), 0)
  return joined
}

/**
 * A progressive MP4 with its index before the data: one picture track with constant durations, and
 * sound when given. Where frames are shown in another order than they are decoded in, composition
 * offsets say when, and an edit list takes back the delay of the first. With `repeats` the index
 * lists the same samples this multiple of over, one chunk each, while the data stand once: players
 * then go from the last frame to the first without the pause that their own looping makes
 * (docs/method.md (loop point)). Throws RangeError for a track without frames.
 */
export function writeMp4(
  track: EncodedTrack,
  sound: EncodedSound | null = null,
  repeats = 1,
): Uint8Array<ArrayBuffer> {
  if (track.frames.length === 0) throw new RangeError('a file needs at least one frame')
  const frames =
    track.family === 'av1'
      ? track.frames.map((frame) => ({ ...frame, data: stripDelimiters(frame.data) }))
      : track.frames
  const ftyp = writeBox('ftyp', BOXES.ftyp, {
    majorBrand: 'isom',
    minorVersion: 512,
    compatibleBrands: text(
      `isomiso2mp41${track.family === 'h264' ? 'avc1' : track.family === 'av1' ? 'av01' : 'iso6'}`,
    ),
  })
  // The index's size does not depend on the offsets in it: write it once to measure, once in
  // earnest.
  const pictureBytes = frames.reduce((sum, frame) => sum + frame.data.byteLength, 0)
  const build = (dataOffset: number): Uint8Array<ArrayBuffer> =>
    writeMoov(track, frames, dataOffset, repeats, sound, dataOffset + pictureBytes)
  const moov = build(ftyp.byteLength + build(0).byteLength + 8)
  const data = [...frames.map((frame) => frame.data), ...(sound ? [sound.pcm] : [])]
  // The data are copied once, straight to their place: they are nearly the whole file.
  return concat([
    ftyp,
    moov,
    boxHead(
      'mdat',
      data.reduce((sum, part) => sum + part.byteLength, 0),
    ),
    ...data,
  ])
}

function writeMoov(
  track: EncodedTrack,
  frames: EncodedTrack['frames'],
  offset: number,
  repeats: number,
  sound: EncodedSound | null,
  soundOffset: number,
): Uint8Array<ArrayBuffer> {
  const duration = Math.round(
    (frames.length * repeats * track.frameRate.den * MOVIE_TIMESCALE) / track.frameRate.num,
  )
  const header = writeBox('mvhd', BOXES.mvhd, {
    version: 0,
    flags: 0,
    creationTime: 0,
    modificationTime: 0,
    timescale: MOVIE_TIMESCALE,
    duration,
    rate: 1,
    volume: 1,
    reserved: null,
    matrix: IDENTITY_MATRIX,
    predefined: null,
    nextTrackId: sound ? 3 : 2,
  })
  const soundTrak = sound ? [writeSoundTrak(sound, soundOffset)] : []
  return wrapBox(
    'moov',
    header,
    writePictureTrak(track, frames, offset, repeats, duration),
    ...soundTrak,
  )
}

function writePictureTrak(
  track: EncodedTrack,
  frames: EncodedTrack['frames'],
  offset: number,
  repeats: number,
  duration: number,
): Uint8Array {
  const { num, den } = track.frameRate
  const count = frames.length * repeats
  const over = <T>(once: readonly T[]): T[] =>
    Array.from({ length: once.length * repeats }, (_, index) => once[index % once.length]!)
  const keys = frames.flatMap((frame, index) => (frame.key ? [index + 1] : []))
  const { offsets, delay } = presentationDelays(frames)
  const isReordered = offsets.some((offset) => offset > 0)
  const stbl = wrapBox(
    'stbl',
    writeBox('stsd', BOXES.stsd, {
      version: 0,
      flags: 0,
      entryCount: 1,
      entries: writeSampleEntry(track),
    }),
    writeBox('stts', BOXES.stts, { version: 0, flags: 0, runs: [{ count, delta: den }] }),
    ...(isReordered
      ? [
          writeBox('ctts', BOXES.ctts, {
            version: 0,
            flags: 0,
            runs: offsetRuns(over(offsets)).map(([times, offset]) => ({
              count: times,
              offset: offset * den,
            })),
          }),
        ]
      : []),
    writeBox('stss', BOXES.stss, {
      version: 0,
      flags: 0,
      sampleNumbers: Array.from({ length: repeats }, (_, turn) =>
        keys.map((key) => turn * frames.length + key),
      ).flat(),
    }),
    writeBox('stsc', BOXES.stsc, {
      version: 0,
      flags: 0,
      runs: [{ firstChunk: 1, samplesPerChunk: frames.length, descriptionIndex: 1 }],
    }),
    writeBox('stsz', BOXES.stsz, {
      version: 0,
      flags: 0,
      sizes: { each: over(frames.map((frame) => frame.data.byteLength)) },
    }),
    writeBox('stco', BOXES.stco, { version: 0, flags: 0, offsets: over([offset]) }),
  )
  const mediaHeader = writeBox('vmhd', BOXES.vmhd, {
    version: 0,
    flags: 1,
    graphicsMode: 0,
    opColor: new Uint8Array(6),
  })
  return wrapBox(
    'trak',
    writeTrackHeader(1, duration, track.width, track.height, 0),
    ...(isReordered ? [writeEdit(duration, delay * den)] : []),
    writeMedia('vide', num, count * den, mediaHeader, stbl),
  )
}

/** Equal offsets one after another, as how many and which. */
function offsetRuns(offsets: readonly number[]): [times: number, offset: number][] {
  const runs: [number, number][] = []
  for (const offset of offsets) {
    const last = runs[runs.length - 1]
    if (last?.[1] === offset) last[0] += 1
    else runs.push([1, offset])
  }
  return runs
}

/**
 * Bytes that the offsets of a track's frames take in an index for each turn of its loop: 0 where no
 * frame is shown later than it is decoded.
 */
export function offsetBytesOf(frames: EncodedTrack['frames']): number {
  const { offsets } = presentationDelays(frames)
  const runs = offsetRuns(offsets).length
  if (runs <= 1) return 0
  // Equal ones at either end of a turn are told as one.
  return BYTES_PER_RUN * (offsets[0] === offsets[offsets.length - 1] ? runs - 1 : runs)
}
/** A count and an offset. Source: ISO/IEC 14496-12:2022, clause 8.6.1.3. */
const BYTES_PER_RUN = 8

/** An edit list that shows all of a track from `mediaTime` on, at its own speed. */
function writeEdit(segmentDuration: number, mediaTime: number): Uint8Array {
  const entry = { segmentDuration, mediaTime, rateInteger: 1, rateFraction: 0 }
  return wrapBox('edts', writeBox('elst', BOXES.elst, { version: 0, flags: 0, entries: [entry] }))
}

/**
 * Matrices for clockwise quarter turns: a, b, c, d in 16.16. Source: ISO/IEC 14496-12:2022, clause
 * 6.2.2.
 */
const TURNS: Readonly<Record<number, readonly [number, number, number, number]>> = {
  0: [1, 0, 0, 1],
  90: [0, 1, -1, 0],
  180: [-1, 0, 0, -1],
  270: [0, -1, 1, 0],
}

/**
 * A picture track without samples of its own: what a repaired file fills with tables of its own.
 * Throws RangeError as `writeMp4` does.
 */
export function writePictureTrakOf(
  track: EncodedTrack,
  timescale: number,
  aspect: PixelAspect,
  rotationDeg: number,
): Uint8Array<ArrayBuffer> {
  const entries = writeSampleEntry(track, aspect)
  const stbl = wrapBox(
    'stbl',
    writeBox('stsd', BOXES.stsd, { version: 0, flags: 0, entryCount: 1, entries }),
  )
  const mediaHeader = writeBox('vmhd', BOXES.vmhd, {
    version: 0,
    flags: 1,
    graphicsMode: 0,
    opColor: new Uint8Array(6),
  })
  const [a, b, c, d] = TURNS[rotationDeg] ?? TURNS[0]!
  return wrapBox(
    'trak',
    writeTrackHeader(1, 0, track.width * (aspect.horizontal / aspect.vertical), track.height, 0, [
      a,
      b,
      c,
      d,
    ]),
    writeMedia('vide', timescale, 0, mediaHeader, stbl),
  )
}

function writeTrackHeader(
  trackId: number,
  duration: number,
  width: number,
  height: number,
  volume: number,
  [a, b, c, d]: readonly [number, number, number, number] = [1, 0, 0, 1],
): Uint8Array {
  return writeBox('tkhd', BOXES.tkhd, {
    version: 0,
    flags: 3,
    creationTime: 0,
    modificationTime: 0,
    trackId,
    reserved1: null,
    duration,
    reserved2: null,
    layer: 0,
    alternateGroup: 0,
    volume,
    reserved3: null,
    a: a * 0x10000,
    b: b * 0x10000,
    u: 0,
    c: c * 0x10000,
    d: d * 0x10000,
    v: 0,
    x: 0,
    y: 0,
    w: 0x40000000,
    width,
    height,
  })
}

function writeMedia(
  handlerType: string,
  timescale: number,
  duration: number,
  mediaHeader: Uint8Array,
  stbl: Uint8Array,
): Uint8Array {
  // One data reference, flagged "in this file". Source: ISO/IEC 14496-12:2022, clause 8.7.2.
  const dref = wrapBox(
    'dref',
    Uint8Array.from([0, 0, 0, 0, 0, 0, 0, 1]),
    wrapBox('url ', Uint8Array.from([0, 0, 0, 1])),
  )
  return wrapBox(
    'mdia',
    writeBox('mdhd', BOXES.mdhd, {
      version: 0,
      flags: 0,
      creationTime: 0,
      modificationTime: 0,
      timescale,
      duration,
      language: 0x55c4,
      predefined: 0,
    }),
    writeBox('hdlr', BOXES.hdlr, {
      version: 0,
      flags: 0,
      predefined: 0,
      handlerType,
      reserved: null,
      name: text('Telon\0'),
    }),
    wrapBox('minf', mediaHeader, wrapBox('dinf', dref), stbl),
  )
}

function writeSampleEntry(
  track: EncodedTrack,
  aspect: PixelAspect = { horizontal: 1, vertical: 1 },
): Uint8Array {
  const { type, config } = writeCodecConfig(track)
  const colour = writeBox('colr', BOXES.colr, {
    colourType: 'nclx',
    colourPrimaries: track.colour.primaries,
    transferCharacteristics: track.colour.transfer,
    matrixCoefficients: track.colour.matrix,
    fullRange: track.colour.fullRange ? 0x80 : 0,
  })
  return writeBox(type, visualSampleEntry, {
    reserved1: null,
    dataReferenceIndex: 1,
    reserved2: null,
    width: track.width,
    height: track.height,
    horizontalResolution: 72,
    verticalResolution: 72,
    reserved3: null,
    frameCount: 1,
    compressorName: new Uint8Array(32),
    depth: 0x18,
    predefined: null,
    boxes: concat([config, colour, writeBox('pasp', BOXES.pasp, aspect)]),
  })
}

function writeCodecConfig(track: EncodedTrack): { type: string; config: Uint8Array } {
  const firstFrame = track.frames[0]!.data
  switch (track.family) {
    case 'h264':
      if (!track.description) throw new RangeError('H.264 needs its decoder configuration')
      return { type: 'avc1', config: wrapBox('avcC', track.description) }
    case 'vp8':
      return { type: 'vp08', config: writeVpcC(track, { profile: 0, bitDepth: 8, chroma: 1 }) }
    case 'vp9':
      return { type: 'vp09', config: writeVpcC(track, parseVp9Frame(firstFrame)) }
    case 'av1': {
      const sequence = findAv1Sequence(firstFrame)
      if (!sequence) throw new RangeError('the first AV1 frame carries no sequence header')
      return { type: 'av01', config: writeAv1C(sequence.facts, sequence.obu) }
    }
  }
}

function writeVpcC(
  track: EncodedTrack,
  facts: { profile: number; bitDepth: number; chroma: number },
): Uint8Array {
  return writeBox('vpcC', BOXES.vpcC, {
    version: 1,
    flags: 0,
    profile: facts.profile,
    level: lowestVp9Level(
      track.width,
      track.height,
      track.frameRate.num / track.frameRate.den,
      bitsPerSecond(track),
    ),
    depthChromaRange:
      (facts.bitDepth << 4) | (facts.chroma << 1) | (track.colour.fullRange ? 1 : 0),
    colourPrimaries: track.colour.primaries,
    transferCharacteristics: track.colour.transfer,
    matrixCoefficients: track.colour.matrix,
    initialisationSize: 0,
    initialisation: new Uint8Array(0),
  })
}

/** The `av1C` box of a stream, from its sequence header. */
export function writeAv1C(facts: Av1Sequence, obu: Uint8Array): Uint8Array {
  const depth = (facts.bitDepth > 8 ? 0x40 : 0) | (facts.bitDepth === 12 ? 0x20 : 0)
  const chroma = (facts.monochrome ? 0x10 : 0) | (facts.subX << 3) | (facts.subY << 2)
  return writeBox('av1C', BOXES.av1C, {
    marker: 0x81,
    profileLevel: (facts.profile << 5) | facts.level,
    tierDepthChroma: (facts.highTier ? 0x80 : 0) | depth | chroma,
    presentationDelay: 0,
    configObus: obu,
  })
}

/** Mean bits a second of a track's frames. */
export function bitsPerSecond(track: Pick<EncodedTrack, 'frames' | 'frameRate'>): number {
  const bytes = track.frames.reduce((sum, frame) => sum + frame.data.byteLength, 0)
  return (bytes * 8 * track.frameRate.num) / (track.frames.length * track.frameRate.den)
}

/** Uncompressed sound (`sowt`), as cameras and editors write it into QuickTime files. */
function writeSoundTrak(sound: EncodedSound, offset: number): Uint8Array {
  const bytesPerSample = 2 * sound.channels
  const count = Math.floor(sound.pcm.byteLength / bytesPerSample)
  const entry = new Uint8Array(28)
  const view = new DataView(entry.buffer)
  view.setUint16(6, 1)
  view.setUint16(16, sound.channels)
  view.setUint16(18, 16)
  view.setUint32(24, sound.sampleRate * 0x10000)
  const stbl = wrapBox(
    'stbl',
    writeBox('stsd', BOXES.stsd, {
      version: 0,
      flags: 0,
      entryCount: 1,
      entries: wrapBox('sowt', entry),
    }),
    writeBox('stts', BOXES.stts, { version: 0, flags: 0, runs: [{ count, delta: 1 }] }),
    writeBox('stsc', BOXES.stsc, {
      version: 0,
      flags: 0,
      runs: [{ firstChunk: 1, samplesPerChunk: count, descriptionIndex: 1 }],
    }),
    writeBox('stsz', BOXES.stsz, {
      version: 0,
      flags: 0,
      sizes: { shared: bytesPerSample, count },
    }),
    writeBox('stco', BOXES.stco, { version: 0, flags: 0, offsets: [offset] }),
  )
  const duration = Math.round((count * MOVIE_TIMESCALE) / sound.sampleRate)
  const mediaHeader = writeBox('smhd', BOXES.smhd, {
    version: 0,
    flags: 0,
    balance: 0,
    reserved: null,
  })
  return wrapBox(
    'trak',
    writeTrackHeader(2, duration, 0, 0, 1),
    writeMedia('soun', sound.sampleRate, count, mediaHeader, stbl),
  )
}
