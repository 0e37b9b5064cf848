import { deltaE, type Oklab } from './convertSrgbToOklab'

/** How visible the swap from the poster to the clip's first frame is: ΔE (OKLab × 100) of cells. */
export interface SwapFigure {
  readonly mean: number
  readonly worst: number
}

/** Above this the swap is visible. Source: docs/method.md (poster). */
export const VISIBLE_SWAP = 2

/**
 * Compares two descriptions of one size, cell by cell. Throws RangeError for unequal or empty ones.
 */
export function swapDifference(poster: readonly Oklab[], first: readonly Oklab[]): SwapFigure {
  if (poster.length !== first.length || poster.length === 0)
    throw new RangeError('two descriptions of one size are needed')
  const distances = poster.map((cell, index) => deltaE(cell, first[index]!))
  const round = (value: number): number => Math.round(value * 100) / 100
  return {
    mean: round(distances.reduce((sum, each) => sum + each, 0) / distances.length),
    worst: round(distances.reduce((max, each) => Math.max(max, each), 0)),
  }
}
