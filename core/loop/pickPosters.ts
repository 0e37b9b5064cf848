import type { Oklab } from '../picture/convertSrgbToOklab'
import { descriptionDistance } from '../picture/describeI420'

/** A frame that could become the poster, with the reasons for it. */
export interface PosterCandidate {
  /** Its moment in seconds of the source. */
  readonly seconds: number
  /** Variance of the Laplacian: more is sharper. */
  readonly sharpness: number
  /** Standard deviation of luma behind the copy: less is calmer. */
  readonly unrest: number
  /** 32 × 18 cells. */
  readonly cells: readonly Oklab[]
}

/** Why a frame is offered. */
export type PosterReason = 'sharpest' | 'calmest' | 'closest to the average frame'

/**
 * The frames offered as posters: the sharpest, the calmest behind the copy, and the one most like
 * all of them; each for one reason, `index` into the candidates.
 */
export function pickPosters(
  candidates: readonly PosterCandidate[],
): { readonly reason: PosterReason; readonly index: number }[] {
  if (candidates.length === 0) return []
  const mean = candidates[0]!.cells.map((_, cell): Oklab => {
    const sum = candidates.reduce(
      (total, { cells }) => ({
        lightness: total.lightness + cells[cell]!.lightness,
        a: total.a + cells[cell]!.a,
        b: total.b + cells[cell]!.b,
      }),
      { lightness: 0, a: 0, b: 0 },
    )
    return {
      lightness: sum.lightness / candidates.length,
      a: sum.a / candidates.length,
      b: sum.b / candidates.length,
    }
  })
  const taken = new Set<number>()
  const take = (
    reason: PosterReason,
    badness: (candidate: PosterCandidate) => number,
  ): { reason: PosterReason; index: number }[] => {
    let best = -1
    candidates.forEach((candidate, index) => {
      if (!taken.has(index) && (best < 0 || badness(candidate) < badness(candidates[best]!)))
        best = index
    })
    if (best < 0) return []
    taken.add(best)
    return [{ reason, index: best }]
  }
  return [
    ...take('sharpest', ({ sharpness }) => -sharpness),
    ...take('calmest', ({ unrest }) => unrest),
    ...take('closest to the average frame', ({ cells }) => descriptionDistance(cells, mean)),
  ]
}
