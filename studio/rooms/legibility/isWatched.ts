import type { BackdropDocument } from '../../../core/backdrop/BackdropDocument'
import { liveParticlesOf } from '../../../core/backdrop/delivered'
import { moves } from '../../../core/kinds'

/**
 * Whether the heading is measured over all that is shown in turn, whatever room is open: over
 * slides, and over particles in front of what stands still.
 */
export const isWatched = (document: BackdropDocument): boolean =>
  document.base.kind === 'slideshow' ||
  (liveParticlesOf(document) !== null && !moves(document.base))
