import { createI420, planesOf, type I420, type Plane } from './I420'

function rotatePlane(source: Plane, target: Plane, quarters: number): void {
  const { width, height, data } = source
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const value = data[y * width + x]!
      if (quarters === 1) target.data[x * target.width + (height - 1 - y)] = value
      else if (quarters === 2) target.data[(height - 1 - y) * width + (width - 1 - x)] = value
      else target.data[(width - 1 - x) * target.width + y] = value
    }
  }
}

/** Turns a picture clockwise by 0, 90, 180 or 270 degrees; 0 gives the same object. */
export function rotateI420(source: I420, degrees: number): I420 {
  const quarters = (((degrees / 90) % 4) + 4) % 4
  if (quarters === 0) return source
  const target =
    quarters === 2
      ? createI420(source.width, source.height)
      : createI420(source.height, source.width)
  planesOf(source).forEach((plane, index) =>
    rotatePlane(plane, planesOf(target)[index as 0 | 1 | 2], quarters),
  )
  return target
}
