/** A colour of an indexed picture: red, green, blue and opacity, each 0 to 255. */
export type IndexedColor = readonly [r: number, g: number, b: number, alpha: number]

/**
 * A picture of a few colours as a PNG, for the small tiles that a style sheet carries: 1 or 2 bits
 * a pixel, as `bits` says. `rows` are packed from the left, each row in whole bytes; they are
 * stored as they are, because random ones cannot be compressed. Throws RangeError for rows of
 * another length. Source: PNG (Third Edition), clauses 5.3 and 11.2; RFC 1950 and 1951.
 */
export function indexedPng(
  width: number,
  height: number,
  bits: 1 | 2,
  colors: readonly IndexedColor[],
  rows: Uint8Array,
): Uint8Array<ArrayBuffer> {
  const stride = Math.ceil((width * bits) / 8)
  if (rows.length !== stride * height)
    throw new RangeError(`${rows.length} bytes are not ${height} rows of ${stride}`)
  const filtered = new Uint8Array(height * (1 + stride))
  // Rows begin with their filter: none.
  for (let row = 0; row < height; row++)
    filtered.set(rows.subarray(row * stride, (row + 1) * stride), row * (1 + stride) + 1)
  return Uint8Array.from([
    ...[0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a],
    ...chunk('IHDR', [...bytesOf(width), ...bytesOf(height), bits, 3, 0, 0, 0]),
    ...chunk(
      'PLTE',
      colors.flatMap(([r, g, b]) => [r, g, b]),
    ),
    ...chunk(
      'tRNS',
      colors.map(([, , , alpha]) => alpha),
    ),
    ...chunk('IDAT', stored(filtered)),
    ...chunk('IEND', []),
  ])
}

/** Bytes as a data address. */
export const pngAddress = (png: Uint8Array): string =>
  `data:image/png;base64,${btoa(String.fromCharCode(...png))}`

const bytesOf = (value: number): number[] => [
  value >>> 24,
  (value >>> 16) & 255,
  (value >>> 8) & 255,
  value & 255,
]

function chunk(name: string, data: readonly number[]): number[] {
  const body = [...Array.from(name, (char) => char.charCodeAt(0)), ...data]
  return [...bytesOf(data.length), ...body, ...bytesOf(crc32(body))]
}

/** A block of DEFLATE that is stored. */
function stored(data: Uint8Array): number[] {
  const { length } = data
  let [a, b] = [1, 0]
  for (const byte of data) {
    a = (a + byte) % 65_521
    b = (b + a) % 65_521
  }
  const sizes = [length & 255, length >>> 8, ~length & 255, (~length >>> 8) & 255]
  return [0x78, 0x01, 1, ...sizes, ...data, ...bytesOf(((b << 16) | a) >>> 0)]
}

function crc32(data: readonly number[]): number {
  let crc = 0xffffffff
  for (const byte of data) {
    crc ^= byte
    for (let bit = 0; bit < 8; bit++) crc = crc & 1 ? (crc >>> 1) ^ 0xedb88320 : crc >>> 1
  }
  return ~crc >>> 0
}
