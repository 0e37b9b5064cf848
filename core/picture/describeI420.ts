import { deltaE, type Oklab } from './convertSrgbToOklab'
import { describeCells } from './describeCells'
import type { I420 } from './I420'

/** Cells across and down a picture's description. Source: docs/method.md (seam). */
export const CELLS_ACROSS = 32
export const CELLS_DOWN = 18

/**
 * A picture in 32 × 18 cells, row after row: the mean colour of each in OKLab, over all its pixels,
 * so that coding noise does not count as motion. BT.709 limited range is taken for granted.
 */
export function describeI420(picture: I420): Oklab[] {
  return describeCells(picture, { matrix: 'bt709', fullRange: false }, CELLS_ACROSS, CELLS_DOWN)
    .colours
}

/** Mean ΔE (OKLab × 100) of two descriptions. */
export function descriptionDistance(one: readonly Oklab[], other: readonly Oklab[]): number {
  return one.reduce((sum, cell, index) => sum + deltaE(cell, other[index]!), 0) / one.length
}

/** The largest ΔE (OKLab × 100) of a cell between two descriptions. */
export function worstDistance(one: readonly Oklab[], other: readonly Oklab[]): number {
  return one.reduce((worst, cell, index) => Math.max(worst, deltaE(cell, other[index]!)), 0)
}
