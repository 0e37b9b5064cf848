import { PERCENTILE } from '../scrim/frameContrast'

/** How opaque what lies around letters is, 0 to 1. */
export interface HaloAround {
  /** Next to the letters, where it is weakest: the 5th percentile of all places. */
  readonly near: number
  /** At equal shares of all places, the least first. */
  readonly opacities: readonly number[]
  /** On average over the box that the letters are in. */
  readonly mean: number
}

/** Opacities that stand for all places. */
const SHARES = 20

/** Pixels that letters cover more than this, of 255, are theirs. */
const COVERED = 127

/**
 * What lies around letters, from the opacity of both, 0 to 255, row after row. At each place beside
 * a letter the mean of what is free of letters in a square of `side` pixels counts: as far away as
 * an eye takes for its edge. Null where there are no letters. Source: docs/method.md (letters).
 */
export function haloAround(
  letters: Uint8Array,
  halo: Uint8Array,
  width: number,
  height: number,
  side: number,
): HaloAround | null {
  const isFree = (at: number): boolean => letters[at]! <= COVERED
  const half = Math.floor(side / 2)
  const places: number[] = []
  let [left, top, right, bottom] = [width, height, -1, -1]
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const at = y * width + x
      if (!isFree(at)) {
        left = Math.min(left, x)
        top = Math.min(top, y)
        right = Math.max(right, x)
        bottom = Math.max(bottom, y)
        continue
      }
      // Half of a square away from a letter: the square lies between there and its edge.
      if (!touches(x, y)) continue
      let [sum, count] = [0, 0]
      forSquare(x, y, (near) => {
        if (!isFree(near)) return
        sum += halo[near]!
        count += 1
      })
      places.push(sum / count / 255)
    }
  if (right < 0) return null
  places.sort((one, other) => one - other)
  let sum = 0
  for (let y = top; y <= bottom; y++)
    for (let x = left; x <= right; x++) sum += halo[y * width + x]!
  return {
    near: places[Math.floor((places.length - 1) * PERCENTILE)] ?? 0,
    opacities: Array.from(
      { length: Math.min(SHARES, places.length) },
      (_, share, shares = Math.min(SHARES, places.length)) =>
        places[Math.floor(((share + 0.5) * places.length) / shares)]!,
    ),
    mean: sum / ((right - left + 1) * (bottom - top + 1) * 255),
  }

  function touches(x: number, y: number): boolean {
    let found = false
    forSquare(x, y, (near) => {
      found ||= !isFree(near)
    })
    return found
  }

  function forSquare(x: number, y: number, act: (at: number) => void): void {
    for (let row = Math.max(0, y - half); row <= Math.min(height - 1, y + half); row++)
      for (let column = Math.max(0, x - half); column <= Math.min(width - 1, x + half); column++)
        act(row * width + column)
  }
}
