import { panOf, slideCycle, timingsOf, transitionOf, type Slideshow } from './Slideshow'
import type { Transition } from './transition'

/*
 * What slides cost a visitor's processor, relative to a playing clip of 1280 × 720 in H.264,
 * without a graphics processor (`npm run bench -- --played`, docs/slideshow.md).
 */

/** While something changes, by what it is that browsers must draw. */
const COSTS = { fade: 2.6, move: 2, clip: 5, mask: 6.6, pan: 3.4 } as const

/** What a transition costs while it lasts, in the same measure. */
export function transitionCost({ style, softness, angleDeg }: Transition): number {
  switch (style) {
    case 'crossfade':
    case 'through-colour':
      return COSTS.fade
    case 'push':
    case 'slide-over':
      return COSTS.move
    case 'edge':
      return softness === 0 && angleDeg % 90 === 0 ? COSTS.move : COSTS.mask
    default:
      return COSTS.clip
  }
}

/** What a whole cycle costs on average: holds cost nothing, except where slides are panned. */
export function slideshowCost(base: Slideshow): number {
  const timings = timingsOf(base)
  const spent = base.slides.reduce((sum, slide, index) => {
    const { holdSeconds, transitionSeconds } = timings[index]!
    const transition = transitionCost(transitionOf(base, slide)) * transitionSeconds
    return sum + transition + (panOf(slide) ? COSTS.pan * (holdSeconds + transitionSeconds) : 0)
  }, 0)
  return spent / slideCycle(base).seconds
}
