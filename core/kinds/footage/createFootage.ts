import { defaultOutputRate } from '../../Fraction'
import { sourceFps, type MediaFacts } from '../../media/probe'
import { FIRST_FOOTAGE, type Footage } from './Footage'

/** What new footage is made from. */
export interface FootageOrder {
  readonly sourceId: string
  readonly facts: MediaFacts
  /**
   * The part without cards, black and cuts, in milliseconds; absent or null where it is not known
   * or all of it.
   */
  readonly usable?: { readonly startMs: number; readonly endMs: number } | null
}

/** Longest cut of new footage, in seconds: longer loops are the designer's decision. */
const FIRST_CUT_SECONDS = 10

/** New footage: the first seconds of the clip's usable part, in a loop. */
export function createFootage({ sourceId, facts, usable = null }: FootageOrder): Footage {
  const { timescale, durationTicks } = facts.video
  const start = usable ? Math.round((usable.startMs * timescale) / 1000) : 0
  const end = usable
    ? Math.min(durationTicks, Math.round((usable.endMs * timescale) / 1000))
    : durationTicks
  return {
    kind: 'footage',
    material: { sourceId, frameRate: facts.video.frameRate },
    timing: {
      cut: { timescale, start, end: Math.min(end, start + FIRST_CUT_SECONDS * timescale) },
      speed: 1,
      repeat: 'loop',
      frameRate: defaultOutputRate(sourceFps(facts.video)),
      ...FIRST_FOOTAGE.timing,
    },
    picture: FIRST_FOOTAGE.picture,
  }
}
