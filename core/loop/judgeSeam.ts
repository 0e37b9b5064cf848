/** What is measured of a loop's seam. */
export interface SeamFigures {
  /** Last frame to first, over the median step; null for a loop that hardly moves. */
  readonly ratio: number | null
  /** Last frame to first: mean ΔE (OKLab × 100) of 32 × 18 cells. */
  readonly deltaE: number
  /** The same of the cell that differs most; null in files rendered before it was measured. */
  readonly worstDeltaE: number | null
}

export interface SeamVerdict {
  readonly visibility: 'invisible' | 'slight' | 'visible'
  /** One clause without a capital, such as "2.8 times an ordinary step: a visible jump". */
  readonly words: string
}

/** Up to this ratio a loop point cannot be seen. Source: docs/method.md (seam). */
const MAX_INVISIBLE_RATIO = 1.2
/** Above this ratio it is a visible jump. */
const MAX_SLIGHT_RATIO = 2
/**
 * A difference of a cell, in ΔE, that is hard to see side by side, let alone in motion. A calm clip
 * can have a high ratio of two differences that are both below it: the ratio alone called a clip of
 * drifting haze "a visible jump" at 2.1.
 */
const MAX_UNSEEN_DELTA_E = 2

/**
 * How visible a seam is: by its ratio to the motion, unless no part of the picture changes enough
 * to be seen at all.
 */
export function judgeSeam({ ratio, deltaE, worstDeltaE }: SeamFigures): SeamVerdict {
  if (ratio === null && (worstDeltaE ?? deltaE) <= MAX_UNSEEN_DELTA_E)
    return { visibility: 'invisible', words: 'hardly moves: no visible seam' }
  if (worstDeltaE !== null && worstDeltaE <= MAX_UNSEEN_DELTA_E)
    return {
      visibility: 'invisible',
      words: `ΔE ${worstDeltaE.toFixed(1)} at most: too small to see`,
    }
  if (ratio === null)
    return { visibility: 'visible', words: 'a visible jump in a clip that hardly moves' }
  if (ratio <= MAX_INVISIBLE_RATIO)
    return { visibility: 'invisible', words: 'no larger than any other step: invisible' }
  if (ratio <= MAX_SLIGHT_RATIO)
    return { visibility: 'slight', words: 'slightly larger than other steps: barely visible' }
  return {
    visibility: 'visible',
    words: `${ratio.toFixed(1)} times an ordinary step: a visible jump`,
  }
}

const ORDER = ['invisible', 'slight', 'visible'] as const

/** How visible the worst of some seams is. */
export const mostVisible = (seams: readonly SeamFigures[]): SeamVerdict['visibility'] =>
  ORDER[Math.max(0, ...seams.map((seam) => ORDER.indexOf(judgeSeam(seam).visibility)))]!

/** What to do about a visible seam. */
export const SEAM_ADVICE =
  'Blend the seam, play it as ping-pong, or search for a loop (Timing; on the command line --seam blended, --seam ping-pong, --find-loop).'
