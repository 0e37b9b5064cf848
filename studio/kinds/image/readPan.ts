import { drifts } from '../../../core/kinds/image/Image'
import type { Readout } from '../../rooms/Balance'
import type { BalanceOf } from '../ofKind'

/** How long the pan and zoom takes, or that the image stands still. */
export function readPan({ document: { base } }: BalanceOf<'image'>): Readout {
  if (!drifts(base))
    return { figure: 'still', unit: '', note: 'no pan and zoom', standing: 'settled' }
  const { from, to, seconds } = base.drift!
  const zooms = Math.max(from.zoom, to.zoom) / Math.min(from.zoom, to.zoom)
  return {
    figure: seconds.toFixed(0),
    unit: 's there and back',
    note: zooms > 1.005 ? `zooms by ${zooms.toFixed(2)} ×` : 'pans',
    standing: 'settled',
  }
}
