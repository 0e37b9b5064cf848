/*
 * The texture that hides the steps of dark gradients: a tile of black and white specks, each so
 * transparent that it changes a dark pixel by one or two of 255 steps.
 */

const SIDE = 64
/** Of 255, for black and for white specks. */
const ALPHA = 2
const SEED = 20_261_128

/** The tile as a data address of less than a kilobyte: a PNG of one bit a pixel. */
export function grainUrl(): string {
  const rows = new Uint8Array(SIDE * (1 + SIDE / 8))
  let state = SEED
  for (let at = 0; at < rows.length; at++) {
    // Rows begin with their filter: none.
    state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0
    rows[at] = at % (1 + SIDE / 8) === 0 ? 0 : state >>> 24
  }
  const png = Uint8Array.from([
    ...[0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a],
    ...chunk('IHDR', [...bytesOf(SIDE), ...bytesOf(SIDE), 1, 3, 0, 0, 0]),
    ...chunk('PLTE', [0, 0, 0, 255, 255, 255]),
    ...chunk('tRNS', [ALPHA, ALPHA]),
    ...chunk('IDAT', stored(rows)),
    ...chunk('IEND', []),
  ])
  return `data:image/png;base64,${btoa(String.fromCharCode(...png))}`
}

const bytesOf = (value: number): number[] => [
  value >>> 24,
  (value >>> 16) & 255,
  (value >>> 8) & 255,
  value & 255,
]

/** A chunk of a PNG. Source: PNG (Third Edition), clause 5.3. */
function chunk(name: string, data: readonly number[]): number[] {
  const body = [...Array.from(name, (char) => char.charCodeAt(0)), ...data]
  return [...bytesOf(data.length), ...body, ...bytesOf(crc32(body))]
}

/** Random bits cannot be compressed: a block of DEFLATE that is stored. Source: RFC 1950, 1951. */
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
