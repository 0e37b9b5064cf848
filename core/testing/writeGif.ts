/** A picture for `writeGif`: palette indexes row after row, and how it is laid on the canvas. */
export interface GifPicture {
  readonly x?: number
  readonly y?: number
  readonly width: number
  readonly height: number
  readonly indexes: Uint8Array
  readonly delayCs: number
  readonly disposal?: 0 | 1 | 2 | 3
  readonly transparent?: number
}

/**
 * An animated GIF from palette indexes, for tests and demonstration material. Source: Graphics
 * Interchange Format 89a specification.
 */
export function writeGif(
  width: number,
  height: number,
  palette: readonly (readonly [number, number, number])[],
  pictures: readonly GifPicture[],
  repeats: number | null = 0,
): Uint8Array<ArrayBuffer> {
  const bits = Math.max(1, Math.ceil(Math.log2(palette.length)))
  const u16 = (value: number): number[] => [value & 255, value >> 8]
  const parts: number[] = [...'GIF89a'].map((letter) => letter.charCodeAt(0))
  parts.push(...u16(width), ...u16(height), 0x80 | (bits - 1), 0, 0)
  for (let index = 0; index < 1 << bits; index++) parts.push(...(palette[index] ?? [0, 0, 0]))
  if (repeats !== null)
    parts.push(
      0x21,
      0xff,
      11,
      ...[...'TELONGIF1.0'].map((letter) => letter.charCodeAt(0)),
      3,
      1,
      ...u16(repeats),
      0,
    )
  for (const picture of pictures) {
    const flags = ((picture.disposal ?? 1) << 2) | (picture.transparent === undefined ? 0 : 1)
    parts.push(0x21, 0xf9, 4, flags, ...u16(picture.delayCs), picture.transparent ?? 0, 0)
    parts.push(
      0x2c,
      ...u16(picture.x ?? 0),
      ...u16(picture.y ?? 0),
      ...u16(picture.width),
      ...u16(picture.height),
      0,
    )
    const min = Math.max(2, bits)
    parts.push(min)
    const packed = packLzw(picture.indexes, min)
    for (let at = 0; at < packed.length; at += 255) {
      const block = packed.slice(at, at + 255)
      parts.push(block.length)
      for (const byte of block) parts.push(byte)
    }
    parts.push(0)
  }
  parts.push(0x3b)
  return Uint8Array.from(parts)
}

function packLzw(indexes: Uint8Array, min: number): number[] {
  const clear = 1 << min
  const bytes: number[] = []
  let [buffer, held, width, next] = [0, 0, min + 1, clear + 2]
  let table = new Map<number, number>()
  const emit = (code: number): void => {
    buffer |= code << held
    held += width
    while (held >= 8) {
      bytes.push(buffer & 255)
      buffer >>>= 8
      held -= 8
    }
  }
  emit(clear)
  let prefix = indexes[0]!
  for (let at = 1; at < indexes.length; at++) {
    const index = indexes[at]!
    const known = table.get(prefix * 256 + index)
    if (known !== undefined) {
      prefix = known
      continue
    }
    emit(prefix)
    if (next < 4096) {
      table.set(prefix * 256 + index, next)
      if (next === 1 << width) width += 1
      next += 1
    } else {
      emit(clear)
      table = new Map()
      ;[width, next] = [min + 1, clear + 2]
    }
    prefix = index
  }
  emit(prefix)
  emit(clear + 1)
  if (held > 0) bytes.push(buffer & 255)
  return bytes
}
