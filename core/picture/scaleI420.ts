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
  const taps = Math.ceil(radius * 2) + 1
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

/** Scales a part of one plane to another of any size. */
export function scalePlane(source: Plane, region: Region, target: Plane): void {
  const across = kernel(region.x, region.width, source.width, target.width)
  const down = kernel(region.y, region.height, source.height, target.height)
  const rows = new Map<number, Int32Array>()
  const rowAt = (y: number): Int32Array => {
    const held = rows.get(y)
    if (held) return held
    const row = new Int32Array(target.width)
    const base = y * source.width
    for (let x = 0; x < target.width; x++) {
      let sum = 0
      const from = base + across.first[x]!
      const weightAt = x * across.taps
      for (let tap = 0; tap < across.taps; tap++) sum += source.data[from + tap]! * across.weights[weightAt + tap]!
      row[x] = sum
    }
    rows.set(y, row)
    return row
  }
  for (let y = 0; y < target.height; y++) {
    const first = down.first[y]!
    for (const held of rows.keys()) if (held < first) rows.delete(held)
    const taps = Array.from({ length: down.taps }, (_, tap) => rowAt(first + tap))
    for (let x = 0; x < target.width; x++) {
      let sum = 0
      for (let tap = 0; tap < down.taps; tap++) sum += taps[tap]![x]! * down.weights[y * down.taps + tap]!
      target.data[y * target.width + x] = (sum + ONE * (ONE / 2)) / (ONE * ONE)
    }
  }
}

/** Crops `region` of a picture and scales it to `width` × `height` (even). Flat areas stay exactly as they are. */
export function scaleI420(source: I420, region: Region, width: number, height: number): I420 {
  const target = createI420(width, height)
  if (region.x === 0 && region.y === 0 && region.width === source.width && region.height === source.height && width === source.width && height === source.height) {
    target.data.set(source.data)
    return target
  }
  const half = { x: region.x / 2, y: region.y / 2, width: region.width / 2, height: region.height / 2 }
  planesOf(source).forEach((plane, index) => scalePlane(plane, index === 0 ? region : half, planesOf(target)[index as 0 | 1 | 2]))
  return target
}
