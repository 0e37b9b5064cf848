import { createI420, planesOf, type I420, type Plane } from './I420'
import { rotateI420 } from './rotateI420'
import { i420Scaler, type Region } from './scaleI420'
import type { Size } from './Size'

/** A part of a picture, in shares (0 to 1) of its sides. */
export interface ShareRect {
  readonly x: number
  readonly y: number
  readonly width: number
  readonly height: number
}

/**
 * How a picture is cropped and straightened: first cropped upright, then rotated, then mirrored
 * left to right.
 */
export interface PictureShape {
  /** Null keeps all of it. */
  readonly crop: ShareRect | null
  /** Clockwise quarter turns: 0 to 3. */
  readonly quarterTurns: number
  readonly mirrored: boolean
  /** Lies under transparent parts of the source, `#rrggbb`. Opaque sources never show it. */
  readonly matte: string
}

/** A shape that changes nothing; transparent parts become white, as on an unstyled page. */
export const PLAIN_SHAPE: PictureShape = {
  crop: null,
  quarterTurns: 0,
  mirrored: false,
  matte: '#ffffff',
}

/** Whether a shape leaves opaque pictures as they are. */
export function isPlain(shape: PictureShape): boolean {
  return shape.crop === null && shape.quarterTurns === 0 && !shape.mirrored
}

const even = (value: number): number => Math.max(2, 2 * Math.round(value / 2))

/** The size, in pixels of the upright picture, that is left of it: both sides even. */
export function shapedSize(size: Size, shape: PictureShape): Size {
  const { crop, quarterTurns } = shape
  const width = crop ? even(size.width * crop.width) : size.width
  const height = crop ? even(size.height * crop.height) : size.height
  return quarterTurns % 2 === 0 ? { width, height } : { width: height, height: width }
}

/**
 * Converts a part of the upright picture to the coded picture, which is shown rotated clockwise by
 * `rotationDeg`.
 */
export function unturnRect({ x, y, width, height }: ShareRect, rotationDeg: number): ShareRect {
  switch (((rotationDeg % 360) + 360) % 360) {
    case 90:
      return { x: y, y: 1 - x - width, width: height, height: width }
    case 180:
      return { x: 1 - x - width, y: 1 - y - height, width, height }
    case 270:
      return { x: 1 - y - height, y: x, width: height, height: width }
    default:
      return { x, y, width, height }
  }
}

/** A shape that keeps `part` (shares of the picture as `shape` leaves it) of what it would keep. */
export function cropShape(shape: PictureShape, part: ShareRect): PictureShape {
  const flipped = shape.mirrored ? { ...part, x: 1 - part.x - part.width } : part
  const upright = unturnRect(flipped, 90 * shape.quarterTurns)
  const whole = shape.crop ?? { x: 0, y: 0, width: 1, height: 1 }
  return {
    ...shape,
    crop: {
      x: whole.x + upright.x * whole.width,
      y: whole.y + upright.y * whole.height,
      width: upright.width * whole.width,
      height: upright.height * whole.height,
    },
  }
}

/**
 * The part in pixels of a picture of this size: whole even numbers, so that chroma stays in step.
 */
export function regionOf({ x, y, width, height }: ShareRect, size: Size): Region {
  const wide = Math.min(even(size.width * width), 2 * Math.floor(size.width / 2))
  const high = Math.min(even(size.height * height), 2 * Math.floor(size.height / 2))
  return {
    x: Math.min(2 * Math.round((size.width * x) / 2), size.width - wide),
    y: Math.min(2 * Math.round((size.height * y) / 2), size.height - high),
    width: wide,
    height: high,
  }
}

/** Flips a picture left to right. */
export function mirrorI420(source: I420): I420 {
  const target = createI420(source.width, source.height)
  const mirror = (from: Plane, to: Plane): void => {
    for (let y = 0; y < from.height; y++) {
      const row = y * from.width
      for (let x = 0; x < from.width; x++) to.data[row + x] = from.data[row + from.width - 1 - x]!
    }
  }
  planesOf(source).forEach((plane, index) => mirror(plane, planesOf(target)[index as 0 | 1 | 2]))
  return target
}

/**
 * Prepares how coded pictures of one size are delivered: cropped, turned as their container says
 * (`rotationDeg`) and as the shape says, mirrored, at `width` × `height` (even). Scaled before they
 * are turned, since the smaller picture turns faster. What nothing changes is given back itself.
 */
export function i420Shaper(
  coded: Size,
  rotationDeg: number,
  shape: PictureShape,
  width: number,
  height: number,
): (picture: I420) => I420 {
  const region = shape.crop
    ? regionOf(unturnRect(shape.crop, rotationDeg), coded)
    : { x: 0, y: 0, width: coded.width, height: coded.height }
  const degrees = rotationDeg + 90 * shape.quarterTurns
  const [across, down] = degrees % 180 === 0 ? [width, height] : [height, width]
  const whole = region.width === coded.width && region.height === coded.height
  const scale =
    whole && across === coded.width && down === coded.height
      ? null
      : i420Scaler(coded, region, across, down)
  return (picture) => {
    const upright = rotateI420(scale ? scale(picture) : picture, degrees)
    return shape.mirrored ? mirrorI420(upright) : upright
  }
}

/** Shapes a single picture. */
export function shapeI420(
  coded: I420,
  rotationDeg: number,
  shape: PictureShape,
  width: number,
  height: number,
): I420 {
  return i420Shaper(coded, rotationDeg, shape, width, height)(coded)
}

/**
 * The largest part of a picture that leaves `mark` (with a little air) out: above, below, left or
 * right of it.
 */
export function cropWithout(mark: ShareRect, air = 0.01): ShareRect {
  const [left, top] = [Math.max(0, mark.x - air), Math.max(0, mark.y - air)]
  const [right, bottom] = [
    Math.min(1, mark.x + mark.width + air),
    Math.min(1, mark.y + mark.height + air),
  ]
  const parts: ShareRect[] = [
    { x: 0, y: 0, width: 1, height: top },
    { x: 0, y: bottom, width: 1, height: 1 - bottom },
    { x: 0, y: 0, width: left, height: 1 },
    { x: right, y: 0, width: 1 - right, height: 1 },
  ]
  return parts.reduce((best, part) =>
    part.width * part.height > best.width * best.height ? part : best,
  )
}

/** A side of a rectangle. */
export type Side = 'left' | 'top' | 'right' | 'bottom'

/** Minimum share of each side that a crop leaves. */
const MIN_SHARE = 0.05
const round = (value: number): number => Math.round(value * 10_000) / 10_000

/**
 * A crop with one edge moved to a share of the picture: it stays in the picture and never passes
 * the opposite edge.
 */
export function moveEdge({ x, y, width, height }: ShareRect, side: Side, to: number): ShareRect {
  const clamp = (value: number, low: number, high: number): number =>
    Math.min(high, Math.max(low, value))
  let [left, top, right, bottom] = [x, y, x + width, y + height]
  if (side === 'left') left = clamp(to, 0, right - MIN_SHARE)
  else if (side === 'right') right = clamp(to, left + MIN_SHARE, 1)
  else if (side === 'top') top = clamp(to, 0, bottom - MIN_SHARE)
  else bottom = clamp(to, top + MIN_SHARE, 1)
  return { x: round(left), y: round(top), width: round(right - left), height: round(bottom - top) }
}
