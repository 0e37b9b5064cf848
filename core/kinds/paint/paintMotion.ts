import type { Paint } from './Paint'

/** The most that is offered: degrees of a turn, a share of the region, a share of the size. */
const MOST = { angle: 20, centre: 0.3, stops: 0.6 } as const

/**
 * A region may be so many times longer than wide (or wider than long) without a corner of a turning
 * paint coming into view.
 */
const MAX_ASPECT = 3

/**
 * The motion of a paint as one transform of an oversized element, which browsers draw once and then
 * only move (repainting gradients in every frame costs several times as much, see docs/paint.md).
 */
export interface PaintTransform {
  /** Size of the element, in sizes of the region, around its middle. */
  readonly oversize: number
  /** In degrees, clockwise, about the middle. */
  readonly turnDeg: number
  /** In shares of the region. */
  readonly shift: { readonly x: number; readonly y: number }
  /** How many times as large, about `origin` (shares of the region). */
  readonly scale: number
  readonly origin: { readonly x: number; readonly y: number }
}

const REST: PaintTransform = {
  oversize: 1,
  turnDeg: 0,
  shift: { x: 0, y: 0 },
  scale: 1,
  origin: { x: 0.5, y: 0.5 },
}

/** Where the motion of a paint leads to, from the paint as it stands; it returns the same way. */
export function paintTransform({ gradients, motion }: Paint): PaintTransform {
  const [first] = gradients
  if (!motion || !first) return REST
  const { moves, amount } = motion
  if (moves === 'angle') {
    const turnDeg = MOST.angle * amount
    const angle = (turnDeg * Math.PI) / 180
    return { ...REST, turnDeg, oversize: Math.cos(angle) + MAX_ASPECT * Math.sin(angle) }
  }
  if (moves === 'centre') {
    const by = MOST.centre * amount
    const angle = (first.angleDeg * Math.PI) / 180
    return {
      ...REST,
      oversize: 1 + 2 * by,
      shift: { x: by * Math.sin(angle), y: -by * Math.cos(angle) },
    }
  }
  const origin = first.shape === 'linear' ? REST.origin : first.centre
  return { ...REST, scale: 1 + MOST.stops * amount, origin }
}

/**
 * The place in a paint at rest that is seen at `x`, `y` (pixels of a `width` × `height` region)
 * when its motion has come so far (0 to 1): the inverse of the transform.
 */
export function placeAtRest(
  { turnDeg, shift, scale, origin }: PaintTransform,
  progress: number,
  x: number,
  y: number,
  width: number,
  height: number,
): { readonly x: number; readonly y: number } {
  const [cx, cy] = [origin.x * width, origin.y * height]
  const grown = 1 + (scale - 1) * progress
  const [dx, dy] = [
    (x - shift.x * width * progress - cx) / grown,
    (y - shift.y * height * progress - cy) / grown,
  ]
  const angle = (-turnDeg * progress * Math.PI) / 180
  return {
    x: cx + dx * Math.cos(angle) - dy * Math.sin(angle),
    y: cy + dx * Math.sin(angle) + dy * Math.cos(angle),
  }
}
