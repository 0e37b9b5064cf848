import { cycleWords } from '../../../../core/kinds/slideshow/cycle'
import { isCycling, slideCycle, timingsOf } from '../../../../core/kinds/slideshow/Slideshow'
import type { Readout } from '../../../rooms/Balance'
import type { BalanceOf } from '../../ofKind'

/** The length of the cycle, and how it comes about. */
export function readCycle({ document: { base } }: BalanceOf<'slideshow'>): Readout {
  const { seconds } = slideCycle(base)
  if (!isCycling(base))
    return {
      figure: '1',
      unit: base.order === 'visit' ? 'slide a visit' : 'slide a day',
      note: 'the first one, then the chosen one',
      standing: 'settled',
    }
  // Three changes a second and more could be flashes. Source: WCAG 2.2, 2.3.1.
  const hasty = timingsOf(base).some(
    ({ holdSeconds, transitionSeconds }) => holdSeconds + transitionSeconds < 1,
  )
  return {
    figure: seconds.toFixed(1),
    unit: 's',
    note: hasty ? 'a slide changes within a second' : cycleWords(timingsOf(base)),
    standing: hasty ? 'look' : 'settled',
  }
}
