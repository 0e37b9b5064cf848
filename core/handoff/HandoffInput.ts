import type { TriedCost } from '../api/slowMachines'
import type { ClipFacts, PosterFacts } from '../api/wire'
import type { BackdropDocument } from '../backdrop/BackdropDocument'
import type { DeliveredMedia } from '../kinds/DeliveredMedia'
import type { DeliveredScripts } from './scripts'

/** What was measured while the files were made: one entry for each of the media, in their order. */
export interface HandoffFigures {
  readonly clips: readonly Pick<
    ClipFacts,
    'repeats' | 'seam' | 'deliveredSeam' | 'quality' | 'passes' | 'encodeSeconds'
  >[]
  readonly posters: readonly Pick<PosterFacts, 'ssim' | 'swapDeltaE' | 'swapWorst'>[]
  /** Of the particles on slowed machines; null where that was not tried. */
  readonly particleCost: TriedCost | null
}

/** What a handoff is written from. */
export interface HandoffInput {
  /** The backdrop's short id: letters, digits and hyphens. */
  readonly id: string
  readonly name: string
  readonly document: BackdropDocument
  readonly media: DeliveredMedia
  readonly figures: HandoffFigures
  readonly scripts: DeliveredScripts
}
