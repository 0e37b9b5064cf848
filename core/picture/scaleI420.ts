import { createI420, planesOf, type I420, type Plane } from './I420'

/** A part of a picture, in pixels of it; even numbers keep chroma in step. */
export interface Region {
  readonly x: number
  readonly y: number
  readonly width: number
  readonly height: number
}

/** For each output position: where its first source sample lies and the weights (16 bits after the point) of those it covers. */
interface Kernel {
  readonly first: Int32Array
  readonly taps: number
  readonly weights: Int32Array
}

const ONE = 1 << 14

/**
 * Area average when shrinking, linear when enlarging: each output sample is the mean of the source
 * under a triangle as wide as the ratio. Centres are aligned, edges are held.
 */
function kernel(from: number, length: number, limit: number, out: number): Kernel {
  const ratio = length / out
  const radius = Math.max(1, ratio)
  // An open interval of this width holds no more whole numbers: those at its very ends weigh nothing.
  const taps = Math.ceil(radius * 2)
  const first = new Int32Array(out)
  const weights = new Int32Array(out * taps)
  for (let index = 0; index < out; index++) {
    const centre = from + (index + 0.5) * ratio - 0.5
    const start = Math.ceil(centre - radius)
    const raw = Array.from({ length: taps }, (_, tap) => Math.max(0, 1 - Math.abs(start + tap - centre) / radius))
    const sum = raw.reduce((total, weight) => total + weight, 0)
    const clampedStart = Math.min(Math.max(0, start), Math.max(0, limit - taps))
    first[index] = clampedStart
    let left = ONE
    let heaviest = 0
    raw.forEach((weight, tap) => {
      // A tap beyond the edge counts for the edge itself.
      const at = Math.min(limit - 1, Math.max(0, start + tap)) - clampedStart
      const share = Math.round((weight / sum) * ONE)
      weights[index * taps + at]! += share
      left -= share
      if (weight > raw[heaviest]!) heaviest = tap
    })
    const at = Math.min(limit - 1, Math.max(0, start + heaviest)) - clampedStart
    weights[index * taps + at]! += left
  }
  return { first, taps: Math.min(taps, limit), weights: taps <= limit ? weights : narrow(weights, taps, limit, out) }
}

/** Repacks weights for planes smaller than the kernel: taps past the plane are zero by construction. */
function narrow(weights: Int32Array, taps: number, limit: number, out: number): Int32Array {
  const packed = new Int32Array(out * limit)
  for (let index = 0; index < out; index++) packed.set(weights.subarray(index * taps, index * taps + limit), index * limit)
  return packed
}

/** Rows are kept with so many bits below the point between the two passes: sums then stay within 31 bits. */
const ROW_BITS = 6
const ACROSS_SHIFT = 14 - ROW_BITS
const DOWN_SHIFT = 14 + ROW_BITS

/** Prepares the scaling of a part of planes of one size to another: the weights are worked out once, and serve every picture. */
export function planeScaler(size: Omit<Plane, 'data'>, region: Region, to: Omit<Plane, 'data'>): (source: Plane, target: Plane) => void {
  const across = kernel(region.x, region.width, size.width, to.width)
  const down = kernel(region.y, region.height, size.height, to.height)
  // As many rows as one output row looks at, used in turn.
  const rows = Array.from({ length: down.taps }, () => new Int32Array(to.width))
  const sums = new Int32Array(to.width)
  return (source, target) => {
    const held = new Int32Array(down.taps).fill(-1)
    for (let y = 0; y < to.height; y++) {
      sums.fill(1 << (DOWN_SHIFT - 1))
      for (let tap = 0; tap < down.taps; tap++) {
        const weight = down.weights[y * down.taps + tap]!
        if (weight === 0) continue
        const from = down.first[y]! + tap
        const row = rows[from % down.taps]!
        if (held[from % down.taps] !== from) {
          scaleRow(source, from, across, row)
          held[from % down.taps] = from
        }
        for (let x = 0; x < to.width; x++) sums[x]! += Math.imul(row[x]!, weight)
      }
      const at = y * to.width
      for (let x = 0; x < to.width; x++) target.data[at + x] = sums[x]! >> DOWN_SHIFT
    }
  }
}

/** One row, scaled across. Written out for three taps, which is what 1080 to 720 lines takes: a loop so short costs more than what is in it. */
function scaleRow({ data, width }: Plane, y: number, { first, taps, weights }: Kernel, row: Int32Array): void {
  const base = y * width
  const length = row.length
  if (taps === 3) {
    for (let x = 0, at = 0; x < length; x++, at += 3) {
      const from = base + first[x]!
      row[x] = (Math.imul(data[from]!, weights[at]!) + Math.imul(data[from + 1]!, weights[at + 1]!) + Math.imul(data[from + 2]!, weights[at + 2]!)) >> ACROSS_SHIFT
    }
    return
  }
  for (let x = 0, at = 0; x < length; x++) {
    let sum = 0
    const from = base + first[x]!
    for (let tap = 0; tap < taps; tap++) sum += Math.imul(data[from + tap]!, weights[at++]!)
    row[x] = sum >> ACROSS_SHIFT
  }
}

/** Prepares `scaleI420` for many pictures of one size. */
export function i420Scaler(size: Omit<I420, 'data'>, region: Region, width: number, height: number): (source: I420) => I420 {
  if (region.x === 0 && region.y === 0 && region.width === size.width && region.height === size.height && width === size.width && height === size.height) {
    return (source) => ({ ...source, data: source.data.slice() })
  }
  const half = { x: region.x / 2, y: region.y / 2, width: region.width / 2, height: region.height / 2 }
  const luma = planeScaler(size, region, { width, height })
  const chroma = planeScaler({ width: size.width / 2, height: size.height / 2 }, half, { width: width / 2, height: height / 2 })
  return (source) => {
    const target = createI420(width, height)
    const [from, to] = [planesOf(source), planesOf(target)]
    luma(from[0], to[0])
    chroma(from[1], to[1])
    chroma(from[2], to[2])
    return target
  }
}

/** Crops `region` of a picture and scales it to `width` × `height` (even). Flat areas stay exactly as they are. */
export function scaleI420(source: I420, region: Region, width: number, height: number): I420 {
  return i420Scaler(source, region, width, height)(source)
}
