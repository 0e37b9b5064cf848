import type { Point } from '../../fit/cover'
import type { Gradient } from './Paint'

/** Where a gradient's handles stand in a region, and what dragging them means. In pixels. */
export interface GradientGeometry {
  /** Where a share of its way is shown. */
  placeOf(at: number): Point
  /** The same colour inside the region, as near as there is one. */
  seenAt(at: number): Point
  /** Where its handle stands: inside the region, and dragging it from there changes nothing. */
  handleOf(at: number): Point
  /** The share of its way nearest to a place, 0 to 1. */
  alongTo(place: Point): number
  readonly angleHandle: Point
  /** The angle that leads to a place, in degrees as CSS counts, whole. */
  angleTo(place: Point): number
}

/** How far the angle's handle stands beyond the end, in pixels. */
const BEYOND_PX = 26
/** Radius of the circle on which a conic gradient's stops stand, in shares of the shorter side. */
const CONIC_RADIUS = 0.28
/** A linear gradient's handles keep so far from the edges. */
const MARGIN_PX = 14

const clamp = (value: number, low: number, high: number): number =>
  Math.min(high, Math.max(low, value))

/** The geometry of a gradient in a `width` × `height` region. */
export function gradientGeometry(
  { shape, angleDeg, centre, radius }: Pick<Gradient, 'shape' | 'angleDeg' | 'centre' | 'radius'>,
  width: number,
  height: number,
): GradientGeometry {
  const angle = (angleDeg * Math.PI) / 180
  const direction = { x: Math.sin(angle), y: -Math.cos(angle) }
  const middle =
    shape === 'linear'
      ? { x: width / 2, y: height / 2 }
      : { x: centre.x * width, y: centre.y * height }
  const from = (length: number, way: Point): Point => ({
    x: middle.x + way.x * length,
    y: middle.y + way.y * length,
  })
  const inside = ({ x, y }: Point): Point => ({
    x: clamp(x, MARGIN_PX, width - MARGIN_PX),
    y: clamp(y, MARGIN_PX, height - MARGIN_PX),
  })
  const angleTo = ({ x, y }: Point): number => {
    const turned = (Math.atan2(x - middle.x, middle.y - y) * 180) / Math.PI
    return Math.round(turned + 360) % 360
  }
  if (shape === 'linear') {
    const length = Math.abs(width * direction.x) + Math.abs(height * direction.y)
    const placeOf = (at: number): Point => from((at - 0.5) * length, direction)
    return {
      placeOf,
      // The ends lie outside the region, across from its corners: all of that line is one colour.
      seenAt: (at) => movedInside(placeOf(at), direction, width, height, 0),
      handleOf: (at) => inside(movedInside(placeOf(at), direction, width, height, MARGIN_PX)),
      alongTo: ({ x, y }) =>
        clamp(((x - middle.x) * direction.x + (y - middle.y) * direction.y) / length + 0.5, 0, 1),
      angleHandle: inside(from(length / 2 + BEYOND_PX, direction)),
      angleTo,
    }
  }
  if (shape === 'radial') {
    const across = radius * width
    // Towards the farther side there is more room.
    const way = { x: centre.x > 0.5 ? -1 : 1, y: 0 }
    const placeOf = (at: number): Point => from(at * across, way)
    return {
      placeOf,
      seenAt: placeOf,
      handleOf: (at) => inside(placeOf(at)),
      alongTo: ({ x, y }) =>
        clamp(Math.hypot((x - middle.x) / across, (y - middle.y) / (radius * height)), 0, 1),
      angleHandle: middle,
      angleTo,
    }
  }
  const ring = CONIC_RADIUS * Math.min(width, height)
  const onRing = (at: number): Point => {
    const turned = angle + at * 2 * Math.PI
    return from(ring, { x: Math.sin(turned), y: -Math.cos(turned) })
  }
  return {
    placeOf: onRing,
    seenAt: onRing,
    handleOf: onRing,
    alongTo: (place) => {
      const turned = (angleTo(place) - angleDeg) / 360
      return ((turned % 1) + 1) % 1
    },
    angleHandle: from(ring + BEYOND_PX, direction),
    angleTo,
  }
}

/**
 * A place moved across a direction until it lies in the region, `margin` pixels from its edges: by
 * as little as possible.
 */
function movedInside(
  { x, y }: Point,
  direction: Point,
  width: number,
  height: number,
  margin: number,
): Point {
  const across = { x: -direction.y, y: direction.x }
  /** How far it may be moved for one side, as a range. */
  const range = (from: number, by: number, size: number): readonly [number, number] => {
    if (Math.abs(by) < 1e-9) return [-Infinity, Infinity]
    const ends = [(margin - from) / by, (size - margin - from) / by]
    return [Math.min(...ends), Math.max(...ends)]
  }
  const [lowX, highX] = range(x, across.x, width)
  const [lowY, highY] = range(y, across.y, height)
  const by = clamp(0, Math.max(lowX, lowY), Math.min(highX, highY))
  return { x: x + across.x * by, y: y + across.y * by }
}
