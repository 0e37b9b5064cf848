import { createI420, planesOf, type I420, type Plane } from './I420'
import type { ShareRect } from './pictureShape'

/**
 * A part of a picture that is blurred, so that the area behind the copy needs fewer bytes and is
 * easier to read on.
 */
export interface PartBlur {
  /** In shares of the picture that is delivered. */
  readonly box: ShareRect
  /** 0 leaves it unchanged, 1 leaves only large areas of light and shade. */
  readonly strength: number
}

/** The blur's radius at full strength, as a share of the picture's longer side. */
const RADIUS = 0.02
/** Distance around the box over which the blur fades out, as a share of the longer side. */
const FADE = 0.06
/** The mask's steps: 8 bits. */
const FULL = 256

/**
 * Prepares the blur for pictures of one size: two box blurs one after another, which is nearly a
 * triangle in both directions, mixed in by a mask that fades out round the box. Chroma is blurred
 * alike. Gives new pictures; those given stay as they are.
 */
export function i420Blurrer(
  { width, height }: { readonly width: number; readonly height: number },
  { box, strength }: PartBlur,
): (picture: I420) => I420 {
  const radius = Math.max(
    1,
    Math.round(Math.max(width, height) * RADIUS * Math.min(1, Math.max(0, strength))),
  )
  const masks = [maskOf(width, height, box), maskOf(width / 2, height / 2, box)] as const
  return (picture) => {
    const target = createI420(width, height)
    const into = planesOf(target)
    planesOf(picture).forEach((plane, index) =>
      blurPlane(
        plane,
        into[index as 0 | 1 | 2],
        masks[index === 0 ? 0 : 1],
        index === 0 ? radius : Math.max(1, radius >> 1),
      ),
    )
    return target
  }
}

/** Where a plane is blurred, and how strongly at each of its samples. */
interface Mask {
  readonly left: number
  readonly top: number
  readonly right: number
  readonly bottom: number
  /** Weights, 0 to `FULL`, of columns and rows: their product counts. */
  readonly columns: Uint16Array
  readonly rows: Uint16Array
}

function maskOf(width: number, height: number, box: ShareRect): Mask {
  const fade = Math.max(2, Math.max(width, height) * FADE)
  const side = (length: number, from: number, to: number): Uint16Array =>
    Uint16Array.from({ length }, (_, at) => {
      const outside = Math.max(from * length - at, at + 1 - to * length, 0)
      return Math.round(FULL * Math.max(0, 1 - outside / fade))
    })
  const columns = side(width, box.x, box.x + box.width)
  const rows = side(height, box.y, box.y + box.height)
  const first = (weights: Uint16Array): number =>
    Math.max(
      0,
      weights.findIndex((weight) => weight > 0),
    )
  const last = (weights: Uint16Array): number => weights.findLastIndex((weight) => weight > 0) + 1
  return {
    left: first(columns),
    right: last(columns),
    top: first(rows),
    bottom: last(rows),
    columns,
    rows,
  }
}

function blurPlane(
  from: Plane,
  to: Plane,
  { left, top, right, bottom, columns, rows }: Mask,
  radius: number,
): void {
  to.data.set(from.data)
  const [wide, high] = [right - left, bottom - top]
  if (wide <= 0 || high <= 0) return
  const part = new Uint8Array(wide * high)
  for (let y = 0; y < high; y++)
    part.set(
      from.data.subarray((top + y) * from.width + left, (top + y) * from.width + right),
      y * wide,
    )
  let blurred: Uint8Array = part
  for (let turn = 0; turn < 2; turn++)
    blurred = averaged(averaged(blurred, wide, high, radius), high, wide, radius)
  for (let y = 0; y < high; y++) {
    const row = (top + y) * from.width + left
    for (let x = 0; x < wide; x++) {
      const weight = (columns[left + x]! * rows[top + y]!) >> 8
      const sharp = from.data[row + x]!
      to.data[row + x] = sharp + (((blurred[y * wide + x]! - sharp) * weight + FULL / 2) >> 8)
    }
  }
}

/**
 * Running means of `2 × radius + 1` samples along rows, edges repeated; written transposed, so that
 * a second call filters the columns and transposes back.
 */
function averaged(from: Uint8Array, wide: number, high: number, radius: number): Uint8Array {
  const to = new Uint8Array(wide * high)
  const count = 2 * radius + 1
  for (let y = 0; y < high; y++) {
    const row = y * wide
    const at = (x: number): number => from[row + Math.min(wide - 1, Math.max(0, x))]!
    let sum = 0
    for (let x = -radius; x <= radius; x++) sum += at(x)
    for (let x = 0; x < wide; x++) {
      to[x * high + y] = Math.round(sum / count)
      sum += at(x + radius + 1) - at(x - radius)
    }
  }
  return to
}
