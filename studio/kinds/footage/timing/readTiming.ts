import { proofKey } from '../../../../core/backdrop/recipe'
import { loopOf } from '../../../../core/kinds/footage/footageSequence'
import { loopSeconds } from '../../../../core/loop/framePlan'
import type { Readout } from '../../../rooms/Balance'
import type { BalanceOf } from '../../ofKind'
import { seamMeaning } from './seamMeaning'

/** How long the loop is, and how it joins. */
export function readTiming({ document, sources, made, proof }: BalanceOf<'footage'>): Readout {
  const seconds = loopSeconds(loopOf(document.base))
  const rendition = made[proofKey(document, sources.known)]
  const seam = rendition?.facts.kind === 'clip' ? rendition.facts.seam : null
  const base = { figure: seconds.toFixed(1), unit: 's' }
  const { repeat, atEnd } = document.base.timing
  if (repeat === 'once')
    return {
      ...base,
      note:
        atEnd === 'fade' ? 'plays once, fades to the poster' : 'plays once, holds its last frame',
      standing: 'settled',
    }
  if (!rendition)
    return {
      ...base,
      note: proof?.state === 'failed' ? 'no proof, see the stage' : 'seam is being measured',
      standing: proof?.state === 'failed' ? 'fix' : 'busy',
    }
  if (!seam) return { ...base, note: 'hardly moves', standing: 'settled' }
  const { words, standing } = seamMeaning(seam)
  if (seam.ratio === null) return { ...base, note: words, standing }
  return {
    ...base,
    note: `seam ${seam.ratio.toFixed(1)}${standing === 'look' ? ', a visible jump' : ''}`,
    standing,
  }
}
