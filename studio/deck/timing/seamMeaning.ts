import type { Standing } from '../../ui/controls'

/**
 * Up to the first value a loop point cannot be seen; above the second it is a visible jump. Source:
 * docs/method.md (seam).
 */
const UNSEEN = 1.2
export const VISIBLE_SEAM = 2

/** The meaning of a seam figure in words, and its state. */
export function seamMeaning(ratio: number | null): {
  readonly words: string
  readonly standing: Standing
} {
  if (ratio === null) return { words: 'hardly moves: no visible seam', standing: 'settled' }
  if (ratio <= UNSEEN)
    return { words: 'no larger than any other step: invisible', standing: 'settled' }
  if (ratio <= VISIBLE_SEAM)
    return { words: 'slightly larger than other steps: barely visible', standing: 'settled' }
  return { words: `${ratio.toFixed(1)} times an ordinary step: a visible jump`, standing: 'look' }
}
