/**
 * An EXIF block with an orientation, made-up coordinates and a made-up device, for tests and
 * demonstration material.
 */
export function writeExif(orientation: number, withPlace: boolean): Uint8Array<ArrayBuffer> {
  const bytes: number[] = [...'MM\0*'].map((letter) => letter.charCodeAt(0))
  const u16 = (value: number): number[] => [value >> 8, value & 255]
  const u32 = (value: number): number[] => [0, 0, ...u16(value)]
  const entries = [
    [0x010f, 2, 4, 0x566c6e00],
    [0x0112, 3, 1, orientation * 0x10000],
    ...(withPlace ? [[0x8825, 4, 1, 8 + 2 + 3 * 12 + 4]] : []),
  ]
  bytes.push(...u32(8), ...u16(entries.length))
  for (const [tag, type, count, value] of entries)
    bytes.push(
      ...u16(tag!),
      ...u16(type!),
      ...u32(count!),
      (value! >>> 24) & 255,
      (value! >>> 16) & 255,
      (value! >>> 8) & 255,
      value! & 255,
    )
  bytes.push(...u32(0))
  // A directory of places: a reference to the north, nothing more.
  if (withPlace) bytes.push(...u16(1), ...u16(1), ...u16(2), ...u32(2), 0x4e, 0, 0, 0, ...u32(0))
  return Uint8Array.from(bytes)
}

/** A JPEG with an EXIF block put behind its first marker. */
export function withExif(jpeg: Uint8Array, exif: Uint8Array): Uint8Array<ArrayBuffer> {
  const length = exif.byteLength + 8
  const segment = Uint8Array.from([
    0xff,
    0xe1,
    length >> 8,
    length & 255,
    ...[...'Exif\0\0'].map((letter) => letter.charCodeAt(0)),
    ...exif,
  ])
  const joined = new Uint8Array(jpeg.byteLength + segment.byteLength)
  joined.set(jpeg.subarray(0, 2))
  joined.set(segment, 2)
  joined.set(jpeg.subarray(2), 2 + segment.byteLength)
  return joined
}
