import { type Fraction, defaultOutputRate } from '../../Fraction'
import type { Cut } from '../../loop/framePlan'
import { sourceFps, type MediaFacts } from '../../media/probe'
import { patched } from '../../patched'
import { assertNever } from '../../result'
import { FIRST_FOOTAGE, type Footage } from './Footage'

/** Every change of footage. Values are already valid. */
export type FootageAction =
  | { readonly type: 'material/swap'; readonly sourceId: string; readonly facts: MediaFacts }
  | { readonly type: 'timing/cut'; readonly cut: Cut }
  | { readonly type: 'timing/speed'; readonly speed: number }
  | { readonly type: 'timing/repeat'; readonly repeat: Footage['timing']['repeat'] }
  | { readonly type: 'timing/frame-rate'; readonly frameRate: Fraction }
  | { readonly type: 'timing/seam'; readonly seam: Partial<Footage['timing']['seam']> }
  | { readonly type: 'timing/found-loop'; readonly cut: Cut }
  | { readonly type: 'timing/blend-frames'; readonly enabled: boolean }
  | { readonly type: 'timing/at-end'; readonly atEnd: Footage['timing']['atEnd'] }
  | { readonly type: 'picture/set'; readonly picture: Partial<Footage['picture']> }

/** The footage after an action; the same object when nothing changes. */
export function reduceFootage(base: Footage, action: FootageAction): Footage {
  const { timing } = base
  const withTiming = (fields: Partial<Footage['timing']>): Footage =>
    patched(base, 'timing', fields)
  switch (action.type) {
    case 'material/swap':
      return action.sourceId === base.material.sourceId
        ? base
        : swapMaterial(base, action.sourceId, action.facts)
    case 'timing/cut':
      return withTiming({ cut: action.cut })
    case 'timing/speed':
      return withTiming({ speed: action.speed })
    case 'timing/repeat':
      return withTiming({ repeat: action.repeat })
    case 'timing/frame-rate':
      return withTiming({ frameRate: action.frameRate })
    case 'timing/seam':
      return withTiming({ seam: { ...timing.seam, ...action.seam } })
    case 'timing/found-loop':
      // A found loop needs no blend: it would only blur the seam.
      return withTiming({
        cut: action.cut,
        repeat: 'loop',
        seam: { ...timing.seam, kind: 'straight' },
      })
    case 'timing/blend-frames':
      return withTiming({ blendFrames: action.enabled })
    case 'timing/at-end':
      return withTiming({ atEnd: action.atEnd })
    case 'picture/set':
      return patched(base, 'picture', action.picture)
    default:
      return assertNever(action)
  }
}

/** What the action is called in the list of undo steps. */
export function labelOfFootage(action: FootageAction): string {
  switch (action.type) {
    case 'material/swap':
      return 'swap the clip'
    case 'timing/cut':
      return 'cut'
    case 'timing/speed':
      return 'speed'
    case 'timing/repeat':
      return 'loop or once'
    case 'timing/frame-rate':
      return 'frame rate'
    case 'timing/seam':
      return 'seam'
    case 'timing/found-loop':
      return 'take a found loop'
    case 'timing/blend-frames':
      return 'frame blending'
    case 'timing/at-end':
      return 'how it ends'
    case 'picture/set':
      return action.picture.matte === undefined ? 'crop and turn' : 'fill colour'
    default:
      return assertNever(action)
  }
}

/**
 * Keeps the cut in seconds if the new clip is long enough, and takes the new clip's own frame rate.
 * Decisions that depend on the former picture are dropped.
 */
function swapMaterial(base: Footage, sourceId: string, facts: MediaFacts): Footage {
  const { timescale, durationTicks } = facts.video
  const { cut: before } = base.timing
  const scale = timescale / before.timescale
  const end = Math.min(durationTicks, Math.round(before.end * scale))
  const start = Math.round(before.start * scale)
  const cut =
    end - start >= timescale / 2
      ? { timescale, start, end }
      : { timescale, start: 0, end: Math.min(durationTicks, timescale * 10) }
  return {
    ...base,
    material: { sourceId, frameRate: facts.video.frameRate },
    picture: FIRST_FOOTAGE.picture,
    timing: { ...base.timing, cut, frameRate: defaultOutputRate(sourceFps(facts.video)) },
  }
}
