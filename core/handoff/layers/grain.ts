import { indexedPng, pngAddress } from '../../picture/indexedPng'

/*
 * The texture that hides the steps of dark gradients: a tile of black and white specks, each so
 * transparent that it changes a dark pixel by one or two of 255 steps.
 */

const SIDE = 64
/** Of 255, for black and for white specks. */
const ALPHA = 2
const SEED = 20_261_128

/** The tile as a data address of less than a kilobyte: a PNG of one bit a pixel. */
export function grainUrl(): string {
  const rows = new Uint8Array((SIDE * SIDE) / 8)
  let state = SEED
  for (let at = 0; at < rows.length; at++) {
    // Each row begins a step later: so the tile is the same as it has always been.
    if (at % (SIDE / 8) === 0) state = next(state)
    state = next(state)
    rows[at] = state >>> 24
  }
  const colors = [
    [0, 0, 0, ALPHA],
    [255, 255, 255, ALPHA],
  ] as const
  return pngAddress(indexedPng(SIDE, SIDE, 1, colors, rows))
}

const next = (state: number): number => (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0
