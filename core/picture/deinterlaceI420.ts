import { createI420, planesOf, type I420 } from './I420'

/*
 * Motion-adaptive deinterlacing at frame rate: lines of the second field are kept where nothing
 * moves, so that still parts keep their full height, and interpolated along edges where something
 * does and the fields comb. The idea is that of edge-based line averaging with motion detection
 * (Doyle and Looymans 1990, "Progressive scan conversion using edge information"; de Haan and
 * Bellers 1998, doi:10.1109/5.705528).
 */

/**
 * Differences to the frame before, in steps of 255, between which kept and interpolated lines are
 * mixed: camera noise and coding noise stay below the first; lines that comb visibly are above the
 * second.
 */
const STILL_BELOW = 6
const MOVES_FROM = 16

/**
 * A frame whose two fields were taken one after another, as one moment: that of its first lines.
 * `previous` is the frame before it as it was decoded, at the same size; without it every line that
 * lies outside its neighbours counts as moving. Gives a new picture.
 */
export function deinterlaceI420(picture: I420, previous: I420 | null): I420 {
  const { width, height } = picture
  const result = createI420(width, height)
  result.data.set(picture.data)
  const [before, after] = [planesOf(picture), planesOf(result)]
  const last = previous?.width === width && previous.height === height ? planesOf(previous) : null
  before.forEach((plane, index) => {
    for (let y = 1; y < plane.height; y += 2)
      interpolateLine(plane.data, last?.[index]!.data ?? null, after[index]!.data, {
        width: plane.width,
        height: plane.height,
        y,
      })
  })
  return result
}

interface Line {
  readonly width: number
  readonly height: number
  readonly y: number
}

function interpolateLine(
  now: Uint8Array,
  last: Uint8Array | null,
  into: Uint8Array,
  { width, height, y }: Line,
): void {
  const own = y * width
  const above = own - width
  // The last line of a plane has nothing below it.
  const below = y + 1 < height ? own + width : above
  for (let x = 0; x < width; x++) {
    const value = now[own + x]!
    // A progressive frame moves without combing: streams that may be interlaced need not be.
    const comb = distanceOutside(value, now[above + x]!, now[below + x]!)
    if (comb <= STILL_BELOW) continue
    const change = last
      ? Math.max(
          Math.abs(value - last[own + x]!),
          Math.abs(now[above + x]! - last[above + x]!),
          Math.abs(now[below + x]! - last[below + x]!),
        )
      : comb
    const motion = Math.min(change, comb)
    if (motion <= STILL_BELOW) continue
    const share = Math.min(1, (motion - STILL_BELOW) / (MOVES_FROM - STILL_BELOW))
    const between = alongEdge(now, above, below, x, width)
    into[own + x] = Math.round(value + (between - value) * share)
  }
}

/** How far a value lies outside of the range of two others. */
function distanceOutside(value: number, one: number, other: number): number {
  return Math.max(0, value - Math.max(one, other), Math.min(one, other) - value)
}

/** The mean of the lines above and below in the direction in which they are most alike. */
function alongEdge(
  plane: Uint8Array,
  above: number,
  below: number,
  x: number,
  width: number,
): number {
  const straight = Math.abs(plane[above + x]! - plane[below + x]!)
  let [least, mean] = [straight, (plane[above + x]! + plane[below + x]!) / 2]
  for (const shift of [-1, 1]) {
    const [left, right] = [x + shift, x - shift]
    if (left < 0 || right < 0 || left >= width || right >= width) continue
    const difference = Math.abs(plane[above + left]! - plane[below + right]!)
    // A slanted direction must be clearly better: on texture it is so by chance.
    if (difference < least - 2) {
      least = difference
      mean = (plane[above + left]! + plane[below + right]!) / 2
    }
  }
  return mean
}
