import { outcomes } from '../../../core/behaviour/conditions'
import { motionOf, rendersClips } from '../../../core/backdrop/delivered'
import type { Balance, Readout } from '../Balance'

/** Motion that starts by itself and lasts longer must be pausable. Source: WCAG 2.2, 2.2.2. */
const PAUSE_AFTER_SECONDS = 5

/** In how many conditions nothing moves. */
export function readBehaviour({ document }: Balance): Readout {
  const { behaviour } = document
  const all = outcomes(document)
  const still = all.filter(({ shows }) => shows === 'poster' || shows === 'still').length
  const motion = motionOf(document)
  if (!motion)
    return { figure: 'still', unit: '', note: 'nothing of it moves', standing: 'settled' }
  const figures = {
    figure: String(still),
    unit: `of ${all.length} ${rendersClips(document) ? 'show the poster' : 'stand still'}`,
  }
  if (!behaviour.pauseControl && (motion.loops || motion.turnSeconds > PAUSE_AFTER_SECONDS))
    return { ...figures, note: 'visitors cannot pause it', standing: 'fix' }
  if (behaviour.reducedMotion === 'play')
    return { ...figures, note: 'moves under reduced motion', standing: 'look' }
  return { ...figures, note: 'respects reduced motion; can be paused', standing: 'settled' }
}
