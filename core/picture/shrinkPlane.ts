import type { Plane } from './I420'
import { MAX_WORD_BYTES, sumBytes, sumWords, wordsOf } from './sumBytes'

/**
 * A plane as `width` × `height` cell means, row after row, 0 to 255. Cells of a plane smaller than
 * the grid repeat its pixels.
 */
export function shrinkPlane(
  plane: Omit<Plane, 'data'> & { readonly data: Uint8Array | Float32Array },
  width: number,
  height: number,
): Float32Array {
  const { data, width: wide } = plane
  const words = data instanceof Uint8Array ? wordsOf(data) : null
  const cells = new Float32Array(width * height)
  const starts = Uint32Array.from({ length: width }, (_, column) =>
    Math.min(wide - 1, Math.ceil((column * wide) / width)),
  )
  const ends = Uint32Array.from({ length: width }, (_, column) =>
    Math.max(starts[column]! + 1, Math.ceil(((column + 1) * wide) / width)),
  )
  // Cells whose sides lie on boundaries of four bytes are summed in one go: a call for each of
  // their rows costs more than the sum.
  const whole =
    words !== null &&
    wide % 4 === 0 &&
    starts.every(
      (start, column) =>
        start % 4 === 0 && ends[column]! % 4 === 0 && ends[column]! - start <= MAX_WORD_BYTES,
    )
  for (let row = 0; row < height; row++) {
    const top = Math.floor((row * plane.height) / height)
    const bottom = Math.max(top + 1, Math.floor(((row + 1) * plane.height) / height))
    for (let column = 0; column < width; column++) {
      const [start, end] = [starts[column]!, ends[column]!]
      let sum = 0
      if (whole) sum = sumWords(words, wide >> 2, start >> 2, end >> 2, top, bottom)
      else
        for (let from = top * wide; from < bottom * wide; from += wide)
          sum +=
            data instanceof Uint8Array
              ? sumBytes(data, words, from + start, from + end)
              : sumFloats(data, from + start, from + end)
      cells[row * width + column] = sum / ((end - start) * (bottom - top))
    }
  }
  return cells
}

function sumFloats(data: Float32Array, from: number, to: number): number {
  let sum = 0
  for (let at = from; at < to; at++) sum += data[at]!
  return sum
}
