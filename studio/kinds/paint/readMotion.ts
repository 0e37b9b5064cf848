import { paintMoves } from '../../../core/kinds/paint/Paint'
import type { Readout } from '../../rooms/Balance'
import type { BalanceOf } from '../ofKind'

/** How long the motion takes, or that the paint stands still. */
export function readMotion({ document: { base } }: BalanceOf<'paint'>): Readout {
  if (!paintMoves(base))
    return { figure: 'still', unit: '', note: 'no motion', standing: 'settled' }
  const { moves, seconds } = base.motion!
  return {
    figure: seconds.toFixed(0),
    unit: 's there and back',
    note: { angle: 'the angle turns', centre: 'the centre moves', stops: 'the stops spread' }[
      moves
    ],
    standing: 'settled',
  }
}
