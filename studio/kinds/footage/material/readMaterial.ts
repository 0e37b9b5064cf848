import { pictureSize } from '../../../../core/backdrop/recipe'
import { kindOf } from '../../../../core/kinds'
import { describeFinding } from '../../../../core/material/describeFinding'
import type { Readout } from '../../../rooms/Balance'
import type { BalanceOf } from '../../ofKind'
import { formatFps } from '../../../ui/format'
import { clipOf } from '../clipOf'

/** How large the picture is, and the gravest problem of the part that is used. */
export function readMaterial({ document, sources }: BalanceOf<'footage'>): Readout {
  const { known } = sources
  const { name, facts } = clipOf(document, sources)
  const { width, height } = pictureSize(document, known)
  const [gravest] = kindOf(document.base).checks(document.base, known)
  return {
    figure: String(Math.min(width, height)),
    unit: 'p',
    note: gravest
      ? describeFinding(gravest).title
      : `${name}, ${formatFps(facts.video.averageFps)} fps`,
    standing: gravest ? (gravest.weight === 'fix' ? 'fix' : 'look') : 'settled',
  }
}
