import { kindOf } from '../../../core/kinds'
import { describeFinding } from '../../../core/material/describeFinding'
import type { Readout } from '../../rooms/Balance'
import type { BalanceOf } from '../ofKind'
import { imageOf } from './imageOf'

/** How large the image is, and the gravest problem with it. */
export function readImage({ document, sources }: BalanceOf<'image'>): Readout {
  const source = imageOf(document, sources)
  if (!source) return { figure: '–', unit: 'px', note: 'no image', standing: 'fix' }
  const { displayWidth: width, displayHeight: height } = source.facts
  const [gravest] = kindOf(document.base).checks(document.base, sources.known)
  return {
    figure: String(width),
    unit: `× ${height} px`,
    note: gravest ? describeFinding(gravest).title : source.name,
    standing: gravest ? (gravest.weight === 'fix' ? 'fix' : 'look') : 'settled',
  }
}
