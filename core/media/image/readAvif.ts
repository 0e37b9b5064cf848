import { ByteReader } from '../../bytes/ByteReader'
import type { ByteSource } from '../../bytes/ByteSource'
import { ContainerError } from '../../bytes/ContainerError'
import { findBox, parseBoxes, type Box } from '../isobmff/boxTree'
import { walkTopBoxes } from '../isobmff/walkTopBoxes'
import { readExif } from './readExif'
import { PRIMARIES_NAMES, readIccName } from './readIccName'
import { uprightSize, type ImageFile } from './ImageFile'

const LARGEST_META = 4 * 1024 * 1024
const LARGEST_EXIF = 256 * 1024

/**
 * Reads an AVIF image's items and the properties of its primary one. Sources: ISO/IEC
 * 23008-12:2022, clauses 6.5 and 9; AV1 Image File Format v1.1. Errors: `media/index-missing`,
 * `media/truncated`, `media/bad-value`, `media/bad-size`.
 */
export async function readAvif(source: ByteSource): Promise<ImageFile> {
  const top = await walkTopBoxes(source)
  const metaAt = top.find((box) => box.type === 'meta')
  if (!metaAt)
    throw new ContainerError(
      top.some((box) => box.cut) ? 'media/truncated' : 'media/index-missing',
      { subject: 'AVIF' },
    )
  if (top.some((box) => box.cut))
    throw new ContainerError('media/truncated', { offset: source.size, subject: 'AVIF' })
  if (metaAt.size > LARGEST_META)
    throw new ContainerError('media/index-too-large', { offset: metaAt.offset })
  const start = metaAt.offset + metaAt.headerBytes + 4
  const boxes = parseBoxes(
    await source.read(start, metaAt.size - metaAt.headerBytes - 4),
    start,
    'meta',
  )
  const primary = primaryItem(boxes)
  const iprp = findBox(boxes, 'iprp')
  const inner = iprp ? parseBoxes(iprp.payload, iprp.payloadOffset, iprp.path) : []
  const ipco = findBox(inner, 'ipco')
  const properties = ipco ? parseBoxes(ipco.payload, ipco.payloadOffset, ipco.path) : []
  const own = associations(findBox(inner, 'ipma'), primary).flatMap(
    (index) => properties[index - 1] ?? [],
  )
  const size = own.find((box) => box.type === 'ispe')
  if (!size || size.payload.byteLength < 12)
    throw new ContainerError('media/bad-value', {
      path: 'meta/iprp/ipco/ispe',
      offset: metaAt.offset,
    })
  const reader = new ByteReader(size.payload, size.payloadOffset)
  reader.raw(4)
  const [width, height] = [reader.u32(), reader.u32()]
  if (width === 0 || height === 0)
    throw new ContainerError('media/bad-value', {
      path: 'meta/iprp/ipco/ispe',
      offset: size.offset,
    })
  const exif = await exifOf(source, boxes)
  // Rotation is a property of the item; EXIF's orientation must not be applied as well (ISO/IEC
  // 23008-12, clause 6.5.10).
  const orientation = turned(own)
  const pixi = own.find((box) => box.type === 'pixi')
  return {
    format: 'avif',
    bytes: source.size,
    width,
    height,
    orientation,
    ...uprightSize(width, height, orientation),
    bitDepth: pixi && pixi.payload.byteLength > 5 ? pixi.payload[5]! : 8,
    alpha: properties.some(
      (box) =>
        box.type === 'auxC' && /alpha/.test(String.fromCharCode(...box.payload.subarray(4, 80))),
    ),
    profile: profileOf(own),
    progressive: false,
    animated: false,
    personal: exif.personal,
  }
}

function primaryItem(boxes: readonly Box[]): number {
  const box = findBox(boxes, 'pitm')
  if (!box) throw new ContainerError('media/bad-value', { path: 'meta/pitm' })
  const reader = new ByteReader(box.payload, box.payloadOffset)
  const version = reader.u8()
  reader.raw(3)
  return version === 0 ? reader.u16() : reader.u32()
}

/** The numbers, from 1, of an item's properties. */
function associations(box: Box | null, item: number): number[] {
  if (!box) return []
  const reader = new ByteReader(box.payload, box.payloadOffset)
  const version = reader.u8()
  const flags = reader.u24()
  const count = reader.u32()
  for (let entry = 0; entry < count && reader.remaining > 0; entry++) {
    const id = version < 1 ? reader.u16() : reader.u32()
    const found = Array.from({ length: reader.u8() }, () =>
      flags & 1 ? reader.u16() & 0x7fff : reader.u8() & 0x7f,
    )
    if (id === item) return found
  }
  return []
}

/**
 * `irot` turns anticlockwise by quarters, `imir` mirrors: as the EXIF orientation that does the
 * same to the sides.
 */
function turned(own: readonly Box[]): number {
  const quarters = (own.find((box) => box.type === 'irot')?.payload[0] ?? 0) & 3
  const mirror = own.find((box) => box.type === 'imir')
  const plain = [1, 8, 3, 6][quarters]!
  if (!mirror) return plain
  return { 1: 2, 8: 7, 3: 4, 6: 5 }[plain]!
}

function profileOf(own: readonly Box[]): string | null {
  for (const box of own) {
    if (box.type !== 'colr' || box.payload.byteLength < 4) continue
    const kind = String.fromCharCode(...box.payload.subarray(0, 4))
    if (kind === 'prof' || kind === 'rICC') return readIccName(box.payload.subarray(4))
    if (kind === 'nclx' && box.payload.byteLength >= 6)
      return PRIMARIES_NAMES[(box.payload[4]! << 8) | box.payload[5]!] ?? null
  }
  return null
}

/** The EXIF item, where there is one: found by its type in `iinf`, placed by `iloc`. */
async function exifOf(
  source: ByteSource,
  boxes: readonly Box[],
): Promise<ReturnType<typeof readExif>> {
  const none = { orientation: 1, personal: [] }
  const iinf = findBox(boxes, 'iinf')
  const iloc = findBox(boxes, 'iloc')
  if (!iinf || !iloc) return none
  const version = iinf.payload[0] ?? 0
  const entries = parseBoxes(
    iinf.payload.subarray(version === 0 ? 6 : 8),
    iinf.payloadOffset,
    iinf.path,
  )
  const item = entries.find(
    (box) =>
      box.type === 'infe' &&
      box.payload.byteLength >= 12 &&
      String.fromCharCode(...box.payload.subarray(8, 12)) === 'Exif',
  )
  if (!item) return none
  const place = placeOf(iloc, (item.payload[4]! << 8) | item.payload[5]!)
  if (!place || place.length < 12 || place.length > LARGEST_EXIF) return none
  const bytes = await source.read(place.offset, place.length)
  // Four bytes give the distance to the TIFF block.
  const skip =
    bytes.byteLength >= 4
      ? ((bytes[0]! << 24) | (bytes[1]! << 16) | (bytes[2]! << 8) | bytes[3]!) >>> 0
      : 0
  return readExif(bytes.subarray(Math.min(bytes.byteLength, 4 + skip)))
}

/**
 * Position of an item in the file: its first extent. Source: ISO/IEC 14496-12:2022, clause 8.11.3.
 */
function placeOf(iloc: Box, item: number): { offset: number; length: number } | null {
  const reader = new ByteReader(iloc.payload, iloc.payloadOffset)
  const version = reader.u8()
  reader.raw(3)
  const sizes = reader.u16()
  const [offsetBytes, lengthBytes, baseBytes, indexBytes] = [
    sizes >> 12,
    (sizes >> 8) & 15,
    (sizes >> 4) & 15,
    version > 0 ? sizes & 15 : 0,
  ]
  const sized = (bytes: number): number =>
    bytes === 8 ? reader.u64() : bytes === 4 ? reader.u32() : 0
  const count = version < 2 ? reader.u16() : reader.u32()
  for (let entry = 0; entry < count && reader.remaining > 0; entry++) {
    const id = version < 2 ? reader.u16() : reader.u32()
    const method = version > 0 ? reader.u16() & 15 : 0
    reader.raw(2)
    const base = sized(baseBytes)
    const extents = reader.u16()
    let first: { offset: number; length: number } | null = null
    for (let extent = 0; extent < extents && reader.remaining > 0; extent++) {
      sized(indexBytes)
      const place = { offset: base + sized(offsetBytes), length: sized(lengthBytes) }
      first ??= place
    }
    if (id === item) return method === 0 ? first : null
  }
  return null
}
