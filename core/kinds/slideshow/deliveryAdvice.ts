import { slideshowCost } from './slideCost'
import { panOf, type Slideshow } from './Slideshow'

/** Costs more than this, a slideshow is heavier for weak machines than a clip of it. */
const MAX_LIVE_COST = 1.2

/** Whether a slideshow is better delivered live or as a clip, and why. */
export function deliveryAdvice(base: Slideshow): {
  readonly delivery: Slideshow['delivery']
  readonly because: string
} {
  const needsScript = base.order !== 'given' || base.controls.arrows || base.controls.markers
  if (needsScript)
    return {
      delivery: 'live',
      because: 'Its order, or what visitors change slides with, only works with images.',
    }
  const cost = slideshowCost({ ...base, delivery: 'live' })
  if (cost > MAX_LIVE_COST)
    return {
      delivery: 'clip',
      because: `Live it takes about ${cost.toFixed(1)} times the processor time of a clip${
        base.slides.some(panOf) ? ', because slides are panned all the time' : ''
      }.`,
    }
  return {
    delivery: 'live',
    because: `Images are sharper on every screen, they come one by one, and most of the time nothing is drawn (${cost.toFixed(2)} of a clip's processor time).`,
  }
}
