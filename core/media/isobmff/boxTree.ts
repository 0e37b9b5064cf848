import { ByteReader } from '../../bytes/ByteReader'
import { ByteWriter } from '../../bytes/ByteWriter'
import type { Field } from '../../bytes/fields'
import { ContainerError } from '../../bytes/ContainerError'

/**
 * A box: its code, its bytes without the header, and the boxes in it when it is a pure container.
 */
export interface Box {
  readonly type: string
  /** Where the box begins, in bytes from the start of the file. */
  readonly offset: number
  /** The codes of the boxes around it and its own: `moov/trak/mdia`. */
  readonly path: string
  readonly payload: Uint8Array
  readonly payloadOffset: number
  readonly children: readonly Box[]
}

/** Boxes that hold nothing but boxes. Source: ISO/IEC 14496-12:2022, table 1. */
const CONTAINERS = new Set([
  'moov',
  'trak',
  'edts',
  'mdia',
  'minf',
  'stbl',
  'mvex',
  'moof',
  'traf',
  'sinf',
  'schi',
])
const DEEPEST = 12

/**
 * The boxes that lie one after another in `bytes`, containers opened. Throws `media/bad-size` where
 * a declared size disagrees with what is around it, `media/too-deep` past twelve levels.
 */
export function parseBoxes(bytes: Uint8Array, baseOffset: number, path = '', depth = 0): Box[] {
  if (depth > DEEPEST) throw new ContainerError('media/too-deep', { offset: baseOffset, path })
  const boxes: Box[] = []
  const reader = new ByteReader(bytes, baseOffset)
  while (reader.remaining >= 8) {
    const start = reader.position
    let size = reader.u32()
    const type = reader.tag()
    const own = path === '' ? type : `${path}/${type}`
    if (size === 1) size = reader.u64()
    else if (size === 0) size = bytes.byteLength - start
    const payloadLength = size - (reader.position - start)
    if (payloadLength < 0 || payloadLength > reader.remaining) {
      throw new ContainerError('media/bad-size', { offset: baseOffset + start, path: own })
    }
    const payloadOffset = baseOffset + reader.position
    const payload = reader.raw(payloadLength)
    const children = CONTAINERS.has(type) ? parseBoxes(payload, payloadOffset, own, depth + 1) : []
    boxes.push({ type, offset: baseOffset + start, path: own, payload, payloadOffset, children })
  }
  return boxes
}

/** The first box reached by `path` below `boxes` (`mdia/minf/stbl`), or null. */
export function findBox(boxes: readonly Box[], path: string): Box | null {
  const [first, ...others] = path.split('/')
  const found = boxes.find((box) => box.type === first)
  if (!found || others.length === 0) return found ?? null
  return findBox(found.children, others.join('/'))
}

/** Like `findBox`; throws `media/bad-value` where there is none. */
export function needBox(boxes: readonly Box[], path: string): Box {
  const found = findBox(boxes, path)
  if (!found) throw new ContainerError('media/bad-value', { path })
  return found
}

/** Reads the fields of a box; the error of a box cut short names the box. */
export function readBox<T>(field: Field<T>, box: Box): T {
  try {
    return field.read(new ByteReader(box.payload, box.payloadOffset), {})
  } catch (error) {
    if (!(error instanceof ContainerError)) throw error
    throw new ContainerError('media/bad-size', {
      offset: error.offset ?? box.offset,
      path: box.path,
      cause: error,
    })
  }
}

/** The eight bytes before a payload of so many bytes. */
export function boxHead(type: string, payloadBytes: number): Uint8Array<ArrayBuffer> {
  const writer = new ByteWriter()
  writer.u32(8 + payloadBytes)
  writer.tag(type)
  return writer.finish()
}

/** A box with its header around `payload`. */
export function wrapBox(type: string, ...payload: readonly Uint8Array[]): Uint8Array<ArrayBuffer> {
  const writer = new ByteWriter()
  writer.u32(8 + payload.reduce((sum, part) => sum + part.byteLength, 0))
  writer.tag(type)
  for (const part of payload) writer.raw(part)
  return writer.finish()
}

/** A box written from its fields. */
export function writeBox<T>(
  type: string,
  field: Field<T>,
  value: T,
  ...children: readonly Uint8Array[]
): Uint8Array<ArrayBuffer> {
  const writer = new ByteWriter()
  field.write(writer, value, {})
  return wrapBox(type, writer.finish(), ...children)
}
