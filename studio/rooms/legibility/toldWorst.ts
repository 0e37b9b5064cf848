import { SCREENS } from '../../../core/fit/screens'
import { worstOfAll, type WorstMoment } from '../../../core/legibility/worstOf'
import type { Contrasts } from '../../state/contrastStore'
import type { WorstContrast } from '../../state/stageStore'

/** Where and when a text is hardest to read, in words. */
const whereOf = ({ text, screen, seconds }: WorstMoment): string =>
  `${text.label.toLowerCase()}, at ${seconds.toFixed(1)} s, ${SCREENS[screen].label.toLowerCase()}`

/** The worst of all texts and screens for the readout; null until all are measured. */
export function toldWorst(contrasts: Contrasts | null): WorstContrast | null {
  const least = contrasts?.isWhole ? worstOfAll(contrasts.worst) : null
  return least && { ratio: least.ratio, needed: least.text.needed, where: whereOf(least) }
}
