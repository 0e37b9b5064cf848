import { bandingOf } from '../../../core/kinds/paint/banding'
import type { Readout } from '../../rooms/Balance'
import type { BalanceOf } from '../ofKind'

/** How many colours the paint has, and whether steps are seen in it. */
export function readPaint({ document: { base } }: BalanceOf<'paint'>): Readout {
  const { gradients, color } = base
  if (gradients.length === 0)
    return { figure: '1', unit: 'colour', note: color, standing: 'settled' }
  const stops = gradients.reduce((sum, each) => sum + each.stops.length, 0)
  const { isVisible } = bandingOf(base)
  return {
    figure: String(stops),
    unit: gradients.length === 1 ? 'colours' : 'colours in 2 gradients',
    note: isVisible ? 'steps may be seen: dither' : 'no steps to be seen',
    standing: isVisible ? 'look' : 'settled',
  }
}
