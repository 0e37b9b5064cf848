import { createI420, planesOf, type I420, type Plane } from './I420'
import { wordsOf } from './sumBytes'

/** A part of a picture, in pixels of it; even numbers keep chroma in step. */
export interface Region {
  readonly x: number
  readonly y: number
  readonly width: number
  readonly height: number
}

/**
 * For each output position: its first source sample, and the weights of the samples it covers:
 * first those of all positions' first samples, then of their second, and so on.
 */
interface Kernel {
  readonly first: Int32Array
  readonly taps: number
  readonly weights: Int32Array
}

/**
 * Bits after the point of weights down and across. Rows are mixed in lanes of sixteen bits, which
 * hold a byte times the former: half a step of error on noise, less than a rounding on pictures.
 * Sums across stay within 31 bits.
 */
const DOWN_BITS = 8
const ACROSS_BITS = 14
const SHIFT = DOWN_BITS + ACROSS_BITS
/** Half a step of what is stored. */
const HALF = 1 << (SHIFT - 1)

/** Taps without weight that may lie behind a row's end: rows are scaled three taps at a time. */
const MAX_BEYOND = 2

/**
 * Area average when shrinking, linear when enlarging: each output sample is the mean of the source
 * under a triangle as wide as the ratio. Centres are aligned, edge samples are repeated. The
 * weights of a position sum to 2 to the power of `bits`.
 */
function kernel(from: number, length: number, limit: number, out: number, bits: number): Kernel {
  const ratio = length / out
  const radius = Math.max(1, ratio)
  // An open interval of this width holds no more whole numbers: those at its very ends weigh
  // nothing.
  const taps = Math.ceil(radius * 2)
  const first = new Int32Array(out)
  const weights = new Int32Array(out * (taps + MAX_BEYOND))
  for (let index = 0; index < out; index++) {
    const centre = from + (index + 0.5) * ratio - 0.5
    const start = Math.ceil(centre - radius)
    const raw = Array.from({ length: taps }, (_, tap) =>
      Math.max(0, 1 - Math.abs(start + tap - centre) / radius),
    )
    const sum = raw.reduce((total, weight) => total + weight, 0)
    const clampedStart = Math.min(Math.max(0, start), Math.max(0, limit - taps))
    first[index] = clampedStart
    // The running sum is rounded, not each weight: the error never exceeds half a step, whatever
    // their number.
    let due = 0
    let given = 0
    raw.forEach((weight, tap) => {
      // A tap beyond the edge counts for the edge itself.
      const at = Math.min(limit - 1, Math.max(0, start + tap)) - clampedStart
      due += weight / sum
      const share = Math.round(due * 2 ** bits) - given
      weights[at * out + index]! += share
      given += share
    })
  }
  // In planes smaller than the kernel, taps past the plane weigh nothing by construction.
  return { first, taps: Math.min(taps, limit), weights }
}

/**
 * Prepares the scaling of a part of planes of one size to another: the weights are worked out once,
 * and serve every picture.
 */
export function planeScaler(
  size: Omit<Plane, 'data'>,
  region: Region,
  to: Omit<Plane, 'data'>,
): (source: Plane, target: Plane) => void {
  const { width, height } = to
  const across = kernel(region.x, region.width, size.width, width, ACROSS_BITS)
  const down = kernel(region.y, region.height, size.height, height, DOWN_BITS)
  // Of a crop only the columns that are looked at are mixed.
  const mix = rowMixer(
    size.width,
    across.first[0]!,
    Math.min(size.width, across.first[width - 1]! + across.taps),
  )
  const sums = new Int32Array(width)
  return (source, target) => {
    for (let y = 0; y < height; y++) {
      scaleRow(mix(source.data, down, y), across, sums, target.data, y * width)
    }
  }
}

/**
 * Mixes rows of a plane into one output row, `DOWN_BITS` below the point: the columns `left` up to
 * `right`, and some beside them. Where rows lie on boundaries of four bytes, four samples are read
 * at once and weighed in pairs of lanes.
 */
function rowMixer(
  width: number,
  left: number,
  right: number,
): (data: Uint8Array, down: Kernel, y: number) => Uint16Array {
  const row = new Uint16Array(width + MAX_BEYOND)
  const [even, odd] = [new Int32Array(width >> 2), new Int32Array(width >> 2)]
  return (data, { first, taps, weights }, y) => {
    const words = width % 4 === 0 ? wordsOf(data) : null
    const pitch = words ? width >> 2 : width
    if (words) {
      even.fill(0)
      odd.fill(0)
    } else row.fill(0)
    for (let tap = 0; tap < taps; tap++) {
      const weight = weights[tap * first.length + y]!
      const from = (first[y]! + tap) * pitch
      if (weight === 0) continue
      if (words) addWords(even, odd, words, from, weight, left >> 2, (right + 3) >> 2)
      else addBytes(row, data, from, weight, left, right)
    }
    if (words) spreadLanes(row, even, odd, left >> 2, (right + 3) >> 2)
    return row
  }
}

/*
 * Each of these walks along a row without branches: browsers run such loops several times as fast
 * as one over a few taps inside another.
 */

function addWords(
  even: Int32Array,
  odd: Int32Array,
  words: Uint32Array,
  from: number,
  weight: number,
  left: number,
  right: number,
): void {
  for (let at = left; at < right; at++) {
    const four = words[from + at]!
    even[at] = (even[at]! + Math.imul(four & 0xff00ff, weight)) | 0
    odd[at] = (odd[at]! + Math.imul((four >>> 8) & 0xff00ff, weight)) | 0
  }
}

function addBytes(
  row: Uint16Array,
  data: Uint8Array,
  from: number,
  weight: number,
  left: number,
  right: number,
): void {
  for (let x = left; x < right; x++) row[x] = row[x]! + Math.imul(data[from + x]!, weight)
}

function spreadLanes(
  row: Uint16Array,
  even: Int32Array,
  odd: Int32Array,
  left: number,
  right: number,
): void {
  for (let at = left, x = left * 4; at < right; at++, x += 4) {
    row[x] = even[at]!
    row[x + 1] = odd[at]!
    row[x + 2] = even[at]! >>> 16
    row[x + 3] = odd[at]! >>> 16
  }
}

/**
 * One row, scaled across and stored: three taps at a time, which is all that 1080 to 720 lines
 * takes. Weights of missing taps are zero, and a mixed row is longer than its plane.
 */
function scaleRow(
  row: Uint16Array,
  { first, taps, weights }: Kernel,
  sums: Int32Array,
  target: Uint8Array,
  to: number,
): void {
  if (taps <= 3) {
    storeThreeTaps(target, to, row, first, weights)
    return
  }
  sums.fill(HALF)
  for (let tap = 0; tap < taps; tap += 3) addThreeTaps(sums, row, tap, first, weights)
  for (let x = 0; x < sums.length; x++) target[to + x] = sums[x]! >> SHIFT
}

function storeThreeTaps(
  target: Uint8Array,
  to: number,
  row: Uint16Array,
  first: Int32Array,
  weights: Int32Array,
): void {
  const length = first.length
  for (let x = 0; x < length; x++) {
    const from = first[x]!
    target[to + x] =
      (HALF +
        Math.imul(row[from]!, weights[x]!) +
        Math.imul(row[from + 1]!, weights[length + x]!) +
        Math.imul(row[from + 2]!, weights[2 * length + x]!)) >>
      SHIFT
  }
}

function addThreeTaps(
  sums: Int32Array,
  row: Uint16Array,
  tap: number,
  first: Int32Array,
  weights: Int32Array,
): void {
  const length = sums.length
  const at = tap * length
  for (let x = 0; x < length; x++) {
    const from = first[x]! + tap
    sums[x] =
      (sums[x]! +
        Math.imul(row[from]!, weights[at + x]!) +
        Math.imul(row[from + 1]!, weights[at + length + x]!) +
        Math.imul(row[from + 2]!, weights[at + 2 * length + x]!)) |
      0
  }
}

/** Prepares `scaleI420` for many pictures of one size. */
export function i420Scaler(
  size: Omit<I420, 'data'>,
  region: Region,
  width: number,
  height: number,
): (source: I420) => I420 {
  if (
    region.x === 0 &&
    region.y === 0 &&
    region.width === size.width &&
    region.height === size.height &&
    width === size.width &&
    height === size.height
  ) {
    return (source) => ({ ...source, data: source.data.slice() })
  }
  const half = {
    x: region.x / 2,
    y: region.y / 2,
    width: region.width / 2,
    height: region.height / 2,
  }
  const luma = planeScaler(size, region, { width, height })
  const chroma = planeScaler({ width: size.width / 2, height: size.height / 2 }, half, {
    width: width / 2,
    height: height / 2,
  })
  return (source) => {
    const target = createI420(width, height)
    const [from, to] = [planesOf(source), planesOf(target)]
    luma(from[0], to[0])
    chroma(from[1], to[1])
    chroma(from[2], to[2])
    return target
  }
}

/**
 * Crops `region` of a picture and scales it to `width` × `height` (even). Flat areas stay exactly
 * as they are.
 */
export function scaleI420(source: I420, region: Region, width: number, height: number): I420 {
  return i420Scaler(source, region, width, height)(source)
}
