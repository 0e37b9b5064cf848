import { judgeSeam, type SeamFigures } from '../../../../core/loop/judgeSeam'
import type { Standing } from '../../../ui/controls'

/** The meaning of a seam's figures in words, and its state. */
export function seamMeaning(figures: SeamFigures): {
  readonly words: string
  readonly standing: Standing
} {
  const { visibility, words } = judgeSeam(figures)
  return { words, standing: visibility === 'visible' ? 'look' : 'settled' }
}
