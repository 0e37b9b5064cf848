import { ByteReader } from '../../bytes/ByteReader'
import { ContainerError } from '../../bytes/ContainerError'
import type { PersonalKind } from '../MediaFile'
import { parseBoxes, type Box } from './boxTree'

/**
 * User data boxes by the personal data they contain. Sources: 3GPP TS 26.244, clause 8; QuickTime
 * File Format, "User data atoms".
 */
const USER_DATA: Readonly<Record<string, PersonalKind>> = {
  '\xa9xyz': 'location',
  loci: 'location',
  '\xa9mak': 'device',
  '\xa9mod': 'device',
  '\xa9swr': 'device',
  '\xa9ART': 'author',
  '\xa9aut': 'author',
  auth: 'author',
  '\xa9day': 'date',
}

/** Metadata keys by what their names hold; every maker puts its own prefix before them. */
const KEY_PATTERNS: readonly (readonly [RegExp, PersonalKind])[] = [
  [/location|gps/i, 'location'],
  [/make$|model|software|camera|lens/i, 'device'],
  [/author|artist|owner/i, 'author'],
  [/creationdate|\.date/i, 'date'],
]

/**
 * What kinds of personal metadata a movie carries, in `udta` and `meta` of the movie and its
 * tracks. Damage there is no reason to refuse a clip.
 */
export function readPersonal(moov: Box): PersonalKind[] {
  const found = new Set<PersonalKind>()
  const places = [moov, ...moov.children.filter((box) => box.type === 'trak')]
  for (const place of places) {
    for (const box of place.children) {
      if (box.type === 'udta') scan(box.payload, found)
      if (box.type === 'meta') scanMeta(box.payload, found)
    }
  }
  return [...found].sort()
}

function scan(payload: Uint8Array, found: Set<PersonalKind>): void {
  for (const box of looseBoxes(payload)) {
    const kind = USER_DATA[box.type]
    if (kind) found.add(kind)
    if (box.type === 'meta') scanMeta(box.payload, found)
  }
}

function scanMeta(payload: Uint8Array, found: Set<PersonalKind>): void {
  // MP4 writes version and flags before the boxes, QuickTime does not.
  const versioned = payload.byteLength >= 12 && payload.subarray(0, 4).every((byte) => byte === 0)
  for (const box of looseBoxes(payload.subarray(versioned ? 4 : 0))) {
    if (box.type === 'ilst')
      for (const item of looseBoxes(box.payload))
        if (USER_DATA[item.type]) found.add(USER_DATA[item.type]!)
    if (box.type !== 'keys') continue
    for (const name of keyNames(box.payload))
      for (const [pattern, kind] of KEY_PATTERNS) if (pattern.test(name)) found.add(kind)
  }
}

/**
 * Source: QuickTime File Format, "Metadata item keys atom": a count, then size, namespace and name
 * of each.
 */
function keyNames(payload: Uint8Array): string[] {
  const names: string[] = []
  const reader = new ByteReader(payload)
  try {
    reader.raw(4)
    const count = reader.u32()
    for (let index = 0; index < count && reader.remaining >= 8; index++) {
      const size = reader.u32()
      reader.raw(4)
      names.push(String.fromCharCode(...reader.raw(Math.max(0, size - 8)).subarray(0, 200)))
    }
  } catch (error) {
    if (!(error instanceof ContainerError)) throw error
  }
  return names
}

function looseBoxes(payload: Uint8Array): readonly Box[] {
  try {
    return parseBoxes(payload, 0)
  } catch (error) {
    if (error instanceof ContainerError) return []
    throw error
  }
}
