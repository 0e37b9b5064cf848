import { easeInOut } from '../easing'
import type { Gradient, Paint } from './Paint'
import { paintSampler } from './paintPixels'

/** From `max` on, steps look like any clip's; fewer than `min` save hardly anything. */
export const STEPS_PER_SECOND = { min: 8, max: 30 } as const
/** How far a colour may change between two steps, of 255: a step of its own cannot be seen. */
const STEP_LEVELS = 1

/** Where the change is looked for: a screen in so many columns and rows. */
const SCREEN = { width: 1920, height: 1080 } as const
const GRID = { columns: 32, rows: 18 } as const
/** Half of the time that is looked at about the fastest moment, as a share of the way. */
const HALF = 0.01

/** Whether two colours meet without a way between them: an edge's steps are seen as such. */
function hasEdge({ shape, stops }: Gradient): boolean {
  const [first, last] = [stops[0]!, stops[stops.length - 1]!]
  return (
    stops.some(
      ({ at, color }, index) => at === stops[index - 1]?.at && color !== stops[index - 1]?.color,
    ) ||
    (shape === 'conic' && first.color !== last.color)
  )
}

/**
 * In how many steps a second the motion of a paint looks even: colours change by at most one of 255
 * levels from one to the next where that needs no more than 30. Paints of few colours that move
 * slowly need few, and cost as little (docs/paint.md).
 */
export function motionSteps(paint: Paint): number {
  const { min, max } = STEPS_PER_SECOND
  if (!paint.motion) return min
  if (paint.gradients.some(hasEdge)) return max
  const { width, height } = SCREEN
  const [before, after] = [0.5 - HALF, 0.5 + HALF].map((share) =>
    paintSampler(paint, width, height, easeInOut(share)),
  ) as [ReturnType<typeof paintSampler>, ReturnType<typeof paintSampler>]
  let change = 0
  for (let row = 0; row < GRID.rows; row++)
    for (let column = 0; column < GRID.columns; column++) {
      const x = ((column + 0.5) / GRID.columns) * width
      const y = ((row + 0.5) / GRID.rows) * height
      const [one, other] = [before(x, y), after(x, y)]
      for (let channel = 0; channel < 3; channel++)
        change = Math.max(change, Math.abs(one[channel]! - other[channel]!))
    }
  const levelsPerSecond = change / (2 * HALF * (paint.motion.seconds / 2))
  return Math.min(max, Math.max(min, Math.ceil(levelsPerSecond / STEP_LEVELS)))
}
