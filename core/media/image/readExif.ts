import type { PersonalKind } from '../MediaFile'

/** The parts of an EXIF block that are used here. */
export interface ExifFacts {
  readonly orientation: number
  readonly personal: readonly PersonalKind[]
}

/**
 * Tags by the personal data they contain. Source: CIPA DC-008 (Exif 2.32), clauses 4.6.4 to 4.6.6.
 */
const PERSONAL_TAGS: Readonly<Record<number, PersonalKind>> = {
  0x010f: 'device',
  0x0110: 'device',
  0x0131: 'device',
  0xa431: 'device',
  0xa433: 'device',
  0xa434: 'device',
  0xa435: 'device',
  0x013b: 'author',
  0x8298: 'author',
  0xa430: 'author',
  0x0132: 'date',
  0x9003: 'date',
  0x9004: 'date',
  0x8825: 'location',
}
const ORIENTATION = 0x0112
const EXIF_DIRECTORY = 0x8769
const MAX_ENTRIES = 512

/**
 * Reads a TIFF block as EXIF stores it. Damage is no reason to refuse a picture: readable parts
 * count.
 */
export function readExif(tiff: Uint8Array): ExifFacts {
  const view = new DataView(tiff.buffer, tiff.byteOffset, tiff.byteLength)
  const found = new Set<PersonalKind>()
  let orientation = 1
  if (tiff.byteLength < 8) return { orientation, personal: [] }
  const little = tiff[0] === 0x49
  const u16 = (at: number): number => (at + 2 <= tiff.byteLength ? view.getUint16(at, little) : 0)
  const u32 = (at: number): number => (at + 4 <= tiff.byteLength ? view.getUint32(at, little) : 0)
  // The main directory, then the EXIF one it points to: never deeper, so cyclic pointers cannot
  // loop.
  const directories = [u32(4)]
  for (let at = 0; at < Math.min(2, directories.length); at++) {
    const start = directories[at]!
    const count = Math.min(MAX_ENTRIES, u16(start))
    for (let entry = 0; entry < count; entry++) {
      const place = start + 2 + entry * 12
      if (place + 12 > tiff.byteLength) break
      const tag = u16(place)
      const kind = PERSONAL_TAGS[tag]
      if (kind) found.add(kind)
      if (tag === ORIENTATION && u16(place + 8) >= 1 && u16(place + 8) <= 8)
        orientation = u16(place + 8)
      if (tag === EXIF_DIRECTORY && at === 0) directories.push(u32(place + 8))
    }
  }
  return { orientation, personal: [...found].sort() }
}

/**
 * Personal data in an XMP packet, by the names of its properties. Source: ISO 16684-1, and Exif for
 * XMP (CIPA DC-010).
 */
export function readXmp(text: string): PersonalKind[] {
  const patterns: readonly (readonly [RegExp, PersonalKind])[] = [
    [/exif:GPS|:Location|:City|:Country/, 'location'],
    [/tiff:Make|tiff:Model|CreatorTool|aux:/, 'device'],
    [/dc:creator|:Author/, 'author'],
    [/CreateDate|DateTimeOriginal/, 'date'],
  ]
  return patterns.filter(([pattern]) => pattern.test(text)).map(([, kind]) => kind)
}
