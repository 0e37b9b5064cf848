import { panOf, slideCycle, timingsOf, transitionOf, type Slideshow } from './Slideshow'
import type { Transition, TransitionStyle } from './transition'

/*
 * What slides cost a visitor's processor, relative to a playing clip of 1280 × 720 in H.264,
 * without a graphics processor (`npm run bench -- --played`, docs/slideshow.md).
 */

/** While it lasts. (A mosaic changes a few times a second only.) */
const COSTS: Readonly<Record<TransitionStyle, number>> = {
  crossfade: 2.9,
  'through-colour': 3.8,
  push: 3.3,
  'slide-over': 2.4,
  edge: 5.4,
  slats: 6,
  columns: 5.2,
  mosaic: 0.7,
  circle: 3.7,
}
/** An edge that transforms alone can move. */
const STRAIGHT_EDGE_COST = 1.7
const PAN_COST = 1.5

/** What a transition costs while it lasts, in the same measure. */
export function transitionCost({ style, softness, angleDeg }: Transition): number {
  return style === 'edge' && softness === 0 && angleDeg % 90 === 0
    ? STRAIGHT_EDGE_COST
    : COSTS[style]
}

/** What a whole cycle costs on average: holds cost nothing, except where slides are panned. */
export function slideshowCost(base: Slideshow): number {
  const timings = timingsOf(base)
  const spent = base.slides.reduce((sum, slide, index) => {
    const { holdSeconds, transitionSeconds } = timings[index]!
    const transition = transitionCost(transitionOf(base, slide)) * transitionSeconds
    return sum + transition + (panOf(slide) ? PAN_COST * (holdSeconds + transitionSeconds) : 0)
  }, 0)
  return spent / slideCycle(base).seconds
}
