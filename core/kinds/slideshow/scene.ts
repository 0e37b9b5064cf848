import { shownAt, type Cycle } from './cycle'
import { entering, leaving, type Look, type Transition } from './transition'

/** A slide as it is seen at a moment. */
export interface SceneSlide {
  /** Its place in the cycle. */
  readonly slide: number
  readonly look: Look
  /** The transition that the look belongs to. */
  readonly transition: Transition
  /** How far its pan and zoom has come, 0 to 1. */
  readonly panShare: number
}

/**
 * What is seen `time` seconds after a cycle began, from back to front: one slide, or within a
 * transition two. `transitions` are how the next slide replaces each.
 */
export function sceneAt(
  cycle: Cycle,
  transitions: readonly Transition[],
  time: number,
): SceneSlide[] {
  const { slide, next, progress } = shownAt(cycle, time)
  const transition = transitions[slide]!
  const within = ((time % cycle.seconds) + cycle.seconds) % cycle.seconds
  const below = {
    slide,
    look: leaving(transition, progress),
    transition,
    panShare: panShare(cycle, transitions, slide, within),
  }
  if (progress === 0) return [below]
  const above = {
    slide: next,
    look: entering(transition, progress),
    transition,
    // The first one comes again at the end of the cycle.
    panShare: panShare(cycle, transitions, next, next === 0 ? within - cycle.seconds : within),
  }
  return [below, above]
}

/** A pan goes on from when its slide begins to come until it is gone. */
function panShare(
  { spans }: Cycle,
  transitions: readonly Transition[],
  slide: number,
  time: number,
): number {
  const before = transitions.at(slide - 1)!.seconds
  const { fullFrom, goneAt } = spans[slide]!
  return Math.min(1, Math.max(0, (time - fullFrom + before) / (goneAt - fullFrom + before)))
}
