import { ContainerError } from '../../bytes/ContainerError'
import type { CodecFacts, ColourFacts } from '../MediaFile'
import { av1CodecString, readAv1Config } from '../codecs/av1'
import { avcCodecString } from '../codecs/h264'
import { hevcCodecString } from '../codecs/hevc'
import { OTHER_CODECS } from '../codecs/otherCodecs'
import { vp9CodecString } from '../codecs/vp9'
import type { PixelAspect } from '../displaySize'
import type { Box } from './boxTree'
import { findBox, parseBoxes, readBox } from './boxTree'
import { BOXES } from './boxes/registry'
import { visualSampleEntry } from './boxes/visualSampleEntry'

/** What a sample description says of the picture. */
export interface VisualEntry {
  readonly codec: CodecFacts
  readonly width: number
  readonly height: number
  readonly pixelAspect: PixelAspect
  readonly colour: ColourFacts | null
}

const LARGEST_SIDE = 16384

/**
 * The first sample description of a picture track; `stream` is left to whoever has the first frame.
 * Errors: `media/bad-*`, `media/encrypted`.
 */
export function readVisualEntry(stsd: Box): VisualEntry {
  const description = readBox(BOXES.stsd, stsd)
  // stsd's entries begin after version, flags and count: eight bytes.
  const [entryBox] = parseBoxes(description.entries, stsd.payloadOffset + 8, stsd.path)
  if (!entryBox)
    throw new ContainerError('media/bad-value', { path: stsd.path, offset: stsd.offset })
  if (entryBox.type === 'encv') throw new ContainerError('media/encrypted', { path: entryBox.path })
  const entry = readBox(visualSampleEntry, entryBox)
  if (
    entry.width === 0 ||
    entry.height === 0 ||
    entry.width > LARGEST_SIDE ||
    entry.height > LARGEST_SIDE
  ) {
    throw new ContainerError('media/bad-value', {
      path: entryBox.path,
      subject: `size ${entry.width} × ${entry.height}`,
    })
  }
  const boxes = parseBoxes(entry.boxes, entryBox.payloadOffset + 78, entryBox.path)
  const aspectBox = findBox(boxes, 'pasp')
  return {
    codec: codecOf(entryBox.type, boxes),
    width: entry.width,
    height: entry.height,
    pixelAspect: aspectBox ? readBox(BOXES.pasp, aspectBox) : { horizontal: 1, vertical: 1 },
    colour: colourOf(boxes),
  }
}

function colourOf(boxes: readonly Box[]): ColourFacts | null {
  const box = findBox(boxes, 'colr')
  const kind = box ? String.fromCharCode(...box.payload.subarray(0, 4)) : ''
  // QuickTime's `nclc` is `nclx` without the range byte.
  if (!box || (kind !== 'nclx' && kind !== 'nclc')) return null
  const payload = kind === 'nclx' ? box.payload : Uint8Array.from([...box.payload, 0])
  const colr = readBox(BOXES.colr, { ...box, payload })
  return {
    primaries: colr.colourPrimaries,
    transfer: colr.transferCharacteristics,
    matrix: colr.matrixCoefficients,
    fullRange: colr.fullRange >= 0x80,
  }
}

function codecOf(type: string, boxes: readonly Box[]): CodecFacts {
  const config = (tag: string): Box => {
    const box = findBox(boxes, tag)
    if (!box) throw new ContainerError('media/bad-value', { subject: tag })
    return box
  }
  switch (type) {
    case 'avc1':
    case 'avc2':
    case 'avc3':
    case 'avc4': {
      const box = config('avcC')
      const record = readBox(BOXES.avcC, box)
      const sps =
        record.sps[0] && record.sps[0].byteLength > 4
          ? {
              profile: record.sps[0][1]!,
              compatibility: record.sps[0][2]!,
              level: record.sps[0][3]!,
            }
          : null
      return {
        family: 'h264',
        name: 'H.264',
        codec: avcCodecString(type, sps ?? record),
        description: box.payload.slice(),
        stream: null,
      }
    }
    case 'hvc1':
    case 'hev1': {
      const box = config('hvcC')
      return {
        family: 'hevc',
        name: 'HEVC',
        codec: hevcCodecString(type, box.payload),
        description: box.payload.slice(),
        stream: null,
      }
    }
    case 'vp08':
      return { family: 'vp8', name: 'VP8', codec: 'vp8', description: null, stream: null }
    case 'vp09': {
      const record = readBox(BOXES.vpcC, config('vpcC'))
      const codec = vp9CodecString({
        profile: record.profile,
        level: record.level,
        bitDepth: record.depthChromaRange >> 4,
      })
      return { family: 'vp9', name: 'VP9', codec, description: null, stream: null }
    }
    case 'av01':
      return {
        family: 'av1',
        name: 'AV1',
        codec: av1CodecString(readAv1Config(readBox(BOXES.av1C, config('av1C')))),
        description: null,
        stream: null,
      }
    case 'jpeg':
    case 'mjpg':
      return {
        family: 'mjpeg',
        name: 'Motion JPEG',
        codec: type,
        description: null,
        stream: null,
      }
    case 'mp4v':
      return {
        family: 'other',
        name: nameOfMp4v(findBox(boxes, 'esds')),
        codec: type,
        description: null,
        stream: null,
      }
    default:
      return {
        family: 'other',
        name: OTHER_CODECS[type] ?? `"${type.trim()}"`,
        codec: type.trim(),
        description: null,
        stream: null,
      }
  }
}

/** Object types of `mp4v` that are not MPEG-4. Source: MP4RA, "Object types". */
const OBJECT_TYPES: Readonly<Record<number, string>> = {
  0x60: 'MPEG-2',
  0x61: 'MPEG-2',
  0x62: 'MPEG-2',
  0x63: 'MPEG-2',
  0x64: 'MPEG-2',
  0x65: 'MPEG-2',
  0x6a: 'MPEG-1',
}

/**
 * What `mp4v` holds, from the object type in its `esds`: descriptor 3 (an id, flags), in it
 * descriptor 4, which begins with the type. Sizes take one to four bytes. Source: ISO/IEC
 * 14496-1:2010, clauses 7.2.6.5 and 8.3.3.
 */
function nameOfMp4v(esds: Box | null): string {
  const bytes = esds?.payload ?? new Uint8Array(0)
  const afterSize = (at: number): number => {
    let end = at
    while (end < at + 3 && (bytes[end] ?? 0) >= 0x80) end += 1
    return end + 1
  }
  // Version and flags come first; the flags of descriptor 3 are nearly always none.
  const inner = bytes[4] === 3 ? afterSize(5) + 3 : 4
  const type = bytes[inner] === 4 ? bytes[afterSize(inner + 1)] : undefined
  return OBJECT_TYPES[type ?? 0] ?? 'MPEG-4 Part 2'
}
