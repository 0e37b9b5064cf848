import { ByteReader } from '../../bytes/ByteReader'
import { ContainerError } from '../../bytes/ContainerError'
import { ELEMENTS, ELEMENT_NAMES, type ElementName } from './elements'

/** The head of an element. `size` is null where the file says "unknown". */
export interface ElementHead {
  readonly name: ElementName | null
  readonly id: number
  readonly size: number | null
  readonly headBytes: number
}

/** An element in memory: its value bytes and where they begin in the file. */
export interface Element {
  readonly name: ElementName
  readonly payload: Uint8Array
  readonly payloadOffset: number
}

/**
 * Identifier and size in front of an element, or of a `Void`. Source: RFC 8794, sections 4 to 6.
 */
export function readHead(reader: ByteReader): ElementHead {
  const start = reader.position
  const id = variableInteger(reader, 4, true)
  const size = variableInteger(reader, 8, false)
  return {
    id: id.value,
    name: ELEMENT_NAMES.get(id.value) ?? null,
    size: size.unknown ? null : size.value,
    headBytes: reader.position - start,
  }
}

/** A variable-length integer; identifiers keep their length marker. */
export function variableInteger(
  reader: ByteReader,
  longest: number,
  keepMarker: boolean,
): { value: number; unknown: boolean } {
  const offset = reader.baseOffset + reader.position
  const first = reader.u8()
  const length = Math.clz32(first) - 23
  if (length > longest)
    throw new ContainerError('media/bad-value', { offset, subject: 'EBML integer' })
  const mask = 2 ** (8 - length) - 1
  let value = keepMarker ? first : first & mask
  let ones = (first & mask) === mask
  for (let index = 1; index < length; index++) {
    const byte = reader.u8()
    ones &&= byte === 0xff
    value = value * 256 + byte
  }
  if (!keepMarker && !ones && !Number.isSafeInteger(value))
    throw new ContainerError('media/bad-size', { offset })
  return { value, unknown: ones }
}

/**
 * The known elements directly in `bytes`; unknown ones are skipped. Errors: `media/bad-size` with
 * the offset.
 */
export function parseElements(bytes: Uint8Array, baseOffset: number): Element[] {
  const reader = new ByteReader(bytes, baseOffset)
  const found: Element[] = []
  while (reader.remaining > 0) {
    const offset = baseOffset + reader.position
    const head = readHead(reader)
    const size = head.size ?? reader.remaining
    if (size > reader.remaining)
      throw new ContainerError('media/bad-size', { offset, path: head.name ?? '' })
    const payloadOffset = baseOffset + reader.position
    const payload = reader.raw(size)
    if (head.name) found.push({ name: head.name, payload, payloadOffset })
  }
  return found
}

/**
 * The value of the first element of that name among `elements`, read by its kind; `fallback` where
 * absent.
 */
export function numberIn<T>(
  elements: readonly Element[],
  name: ElementName,
  fallback: T,
): number | T {
  const found = elements.find((element) => element.name === name)
  if (!found) return fallback
  return ELEMENTS[name][1] === 'f' ? floatOf(found) : unsignedOf(found)
}

/** Text of the first element of that name; empty where absent. */
export function textIn(elements: readonly Element[], name: ElementName): string {
  const found = elements.find((element) => element.name === name)
  return found ? String.fromCharCode(...found.payload.subarray(0, 256)).replace(/\0+$/, '') : ''
}

/** Elements in the first master of that name; none where absent. */
export function childrenOf(elements: readonly Element[], name: ElementName): Element[] {
  const found = elements.find((element) => element.name === name)
  return found ? parseElements(found.payload, found.payloadOffset) : []
}

/** An unsigned integer of up to eight bytes. */
export function unsignedOf(element: Element): number {
  if (element.payload.byteLength > 8)
    throw new ContainerError('media/bad-size', {
      offset: element.payloadOffset,
      path: element.name,
    })
  const value = element.payload.reduce((sum, byte) => sum * 256 + byte, 0)
  return Number.isSafeInteger(value) ? value : Number.MAX_SAFE_INTEGER
}

function floatOf(element: Element): number {
  const reader = new ByteReader(element.payload, element.payloadOffset)
  if (element.payload.byteLength === 4) return reader.f32()
  if (element.payload.byteLength === 8) return reader.f64()
  return 0
}
