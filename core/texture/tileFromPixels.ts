import { FULL_LEVEL, MAX_TILE_SIDE, type Tile } from './Texture'

/** Pixels below it are seen through. */
const OPAQUE = 250
/** Of 255: a picture with less between its extremes has nothing to repeat. */
const LEAST_RANGE = 8

/**
 * A tile of an image's pixels (RGBA, row after row, at most 64 × 64): what is opaque covers, and in
 * an image without transparent parts what is dark; from the least to the most of it. Null where it
 * is the same everywhere. Throws RangeError for larger ones.
 */
export function tileFromPixels(
  data: Uint8ClampedArray,
  width: number,
  height: number,
): Tile | null {
  if (width > MAX_TILE_SIDE || height > MAX_TILE_SIDE)
    throw new RangeError(`${width} × ${height} pixels are too many for a tile`)
  const count = width * height
  const alphas = Uint8Array.from({ length: count }, (_, at) => data[4 * at + 3]!)
  const covers = alphas.some((alpha) => alpha < OPAQUE)
    ? alphas
    : alphas.map((_, at) => 255 - lumaAt(data, 4 * at))
  const [least, most] = [Math.min(...covers), Math.max(...covers)]
  if (most - least < LEAST_RANGE) return null
  const levels = Array.from(covers, (value) =>
    Math.round((FULL_LEVEL * (value - least)) / (most - least)),
  ).join('')
  return { width, height, levels }
}

const lumaAt = (data: Uint8ClampedArray, at: number): number =>
  Math.round(0.2126 * data[at]! + 0.7152 * data[at + 1]! + 0.0722 * data[at + 2]!)
