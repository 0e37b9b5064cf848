/**
 * The description in an ICC profile, as `desc` (version 2) or `mluc` (version 4); null where there
 * is none. Source: ICC.1:2022, clauses 7 and 9.2.41.
 */
export function readIccName(profile: Uint8Array): string | null {
  if (profile.byteLength < 132) return null
  const view = new DataView(profile.buffer, profile.byteOffset, profile.byteLength)
  const count = Math.min(100, view.getUint32(128))
  for (let index = 0; index < count; index++) {
    const at = 132 + index * 12
    if (at + 12 > profile.byteLength) return null
    if (view.getUint32(at) !== 0x64657363) continue // 'desc'
    const start = view.getUint32(at + 4)
    if (start + 16 > profile.byteLength) return null
    const type = view.getUint32(start)
    if (type === 0x64657363)
      return clean(
        latin(profile.subarray(start + 12, start + 12 + Math.min(200, view.getUint32(start + 8)))),
      )
    if (type !== 0x6d6c7563 || start + 28 > profile.byteLength) return null
    const bytes = profile.subarray(
      start + view.getUint32(start + 24),
      start + view.getUint32(start + 24) + Math.min(400, view.getUint32(start + 20)),
    )
    return clean(
      Array.from({ length: bytes.byteLength >> 1 }, (_, pair) =>
        String.fromCharCode((bytes[2 * pair]! << 8) | bytes[2 * pair + 1]!),
      ).join(''),
    )
  }
  return null
}

function latin(bytes: Uint8Array): string {
  return String.fromCharCode(...bytes)
}

function clean(text: string): string | null {
  const shown = text.replaceAll(/[\0-\x1f]+/g, ' ').trim()
  return shown === '' ? null : shown
}

/** Names of primaries by their code point. Source: ITU-T H.273 (07/2021), table 2. */
export const PRIMARIES_NAMES: Readonly<Record<number, string>> = {
  1: 'sRGB / BT.709',
  5: 'BT.601 (625)',
  6: 'BT.601 (525)',
  9: 'BT.2020',
  11: 'DCI-P3',
  12: 'Display P3',
}
