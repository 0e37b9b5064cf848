import type { ProbeFacts } from '../api/wire'
import { toNumber } from '../loop/Fraction'
import { loopRepeats } from '../loop/loopRepeats'
import { containerOverhead } from '../weight/containerOverhead'
import { ProbeCurve } from '../weight/ProbeCurve'
import type { PassJob, WeightGoal } from '../weight/passes'
import { containerOf, type ClipRecipe } from './recipe'

/** Frames before the join that go towards its quality, and the share of a short loop that they are at most. */
const JOIN_FRAMES = 12
const JOIN_PART = 0.15

/** How far frame `k` of a loop belongs to its join: the first all the way, the last ones more and more. */
function joinRamp(k: number, frames: number): number {
  return k === 0 ? 1 : Math.max(0, 1 - (frames - 1 - k) / Math.min(JOIN_FRAMES, frames * JOIN_PART))
}

/** What the passes of a clip are planned from: its recipe, a goal, and what its probe told. */
export function passJob(recipe: Pick<ClipRecipe, 'family' | 'loops' | 'frameRate'>, goal: WeightGoal, { points, steering, bounds, anchorEvery, parts, frames }: ProbeFacts): PassJob {
  return {
    goal, curve: new ProbeCurve(points, steering), bounds, anchorEvery, parts, frames, framesPerSecond: toNumber(recipe.frameRate), ramp: recipe.loops ? (k) => joinRamp(k, frames) : null,
    overhead: (bytes) => containerOverhead(containerOf(recipe), frames, recipe.loops ? loopRepeats(frames, recipe.frameRate, bytes) : 1),
  }
}
