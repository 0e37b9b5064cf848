import type { Plane } from './I420'

/** A plane as `width` × `height` means of what lies under each cell, row after row, 0 to 255. Cells of a plane smaller than the grid repeat its pixels. */
export function shrinkPlane(plane: Omit<Plane, 'data'> & { readonly data: Uint8Array | Float32Array }, width: number, height: number): Float32Array {
  const sums = new Float32Array(width * height)
  const bounds = Uint32Array.from({ length: width + 1 }, (_, column) => Math.ceil((column * plane.width) / width))
  for (let row = 0; row < height; row++) {
    const top = Math.floor((row * plane.height) / height)
    const bottom = Math.max(top + 1, Math.floor(((row + 1) * plane.height) / height))
    const to = row * width
    for (let y = top; y < bottom; y++) {
      const from = y * plane.width
      for (let column = 0; column < width; column++) {
        const start = bounds[column]!
        const end = Math.max(start + 1, bounds[column + 1]!)
        let sum = 0
        for (let x = start; x < end; x++) sum += plane.data[from + Math.min(x, plane.width - 1)]!
        sums[to + column]! += sum / (end - start)
      }
    }
    for (let column = 0; column < width; column++) sums[to + column]! /= bottom - top
  }
  return sums
}
