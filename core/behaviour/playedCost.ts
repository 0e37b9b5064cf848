import { motionSteps, STEPS_PER_SECOND } from '../kinds/paint/motionSteps'
import type { Paint, PaintMotion } from '../kinds/paint/Paint'

/**
 * What motion by style costs a visitor's processor, relative to a playing clip of 1280 × 720 in
 * H.264: measured without a graphics processor, where it costs most (`npm run bench -- --played`,
 * 2026-11-28, Debian's Chromium; docs/paint.md). Paints in the fewest and the most steps a second.
 */
const PAINT_COST: Readonly<Record<PaintMotion['moves'], { fewest: number; most: number }>> = {
  angle: { fewest: 0.76, most: 2.27 },
  centre: { fewest: 0.54, most: 1.82 },
  stops: { fewest: 0.62, most: 1.83 },
}

/** What a slow pan and zoom of an image costs, in the same measure. */
export const PAN_COST = 1.46

/** What the motion of a paint costs, in the same measure; 0 where it stands still. */
export function paintCost(paint: Paint): number {
  if (!paint.motion) return 0
  const { min, max } = STEPS_PER_SECOND
  const { fewest, most } = PAINT_COST[paint.motion.moves]
  return fewest + ((most - fewest) * (motionSteps(paint) - min)) / (max - min)
}

/** Such a cost in words. */
export function playedCostWords(cost: number): string {
  return `About ${cost.toFixed(1)} times the processor time of a playing clip of 1280 × 720, measured without a graphics processor, where it costs most.`
}
