import { toNumber } from '../Fraction'
import { loopRepeats } from '../loop/loopRepeats'
import { containerOverhead, turnBytes } from '../weight/containerOverhead'
import { dataBudget, type PassJob, type WeightGoal } from '../weight/passes'
import { ProbeCurve } from '../weight/ProbeCurve'
import type { ProbeFacts } from '../weight/ProbeFacts'
import { containerOf, type ClipRecipe } from './recipe'

/**
 * Frames before the loop point whose quality rises towards that of the first frame, and the maximum
 * share of a short loop that they take.
 */
const LOOP_POINT_FRAMES = 12
const LOOP_POINT_PART = 0.15

/**
 * How strongly frame `k` of a loop is part of its loop point: 1 for the first frame, rising over
 * the last ones.
 */
function loopPointRamp(k: number, frames: number): number {
  return k === 0
    ? 1
    : Math.max(0, 1 - (frames - 1 - k) / Math.min(LOOP_POINT_FRAMES, frames * LOOP_POINT_PART))
}

/**
 * Frames whose bytes are this close to the plan also get the planned index: its size changes in
 * steps, which would matter in small budgets.
 */
const AS_PLANNED = 0.05

/**
 * How often the index of a finished clip lists its loop, with `bytes` of frames: as its passes were
 * planned, where they came to about that.
 */
export function deliveredRepeats(
  recipe: Pick<ClipRecipe, 'family' | 'sequence' | 'goal'>,
  frames: number,
  bytes: number,
  offsetBytes = 0,
): number {
  if (!recipe.sequence.loops) return 1
  const repeats = (data: number): number => plannedRepeats(recipe, frames, data, offsetBytes)
  const { goal } = recipe
  if (goal?.kind !== 'budget') return repeats(bytes)
  const planned = dataBudget({ overhead: overheadOf(recipe, frames, offsetBytes) }, goal.bytes)
  return repeats(Math.abs(bytes / planned.bytes - 1) <= AS_PLANNED ? planned.basis : bytes)
}

function plannedRepeats(
  { sequence: { frameRate, loops } }: Pick<ClipRecipe, 'sequence'>,
  frames: number,
  bytes: number,
  offsetBytes: number,
): number {
  // Frames alone: the few bytes of each turn are no reason for one fewer.
  const each = turnBytes(frames, offsetBytes) - turnBytes(0, 0)
  return loops ? loopRepeats(frames, frameRate, bytes, each) : 1
}

/**
 * What the container of a clip adds to frames of so many bytes; `offsetBytes` is what the offsets
 * of reordered frames take in each turn.
 */
export function overheadOf(
  recipe: Pick<ClipRecipe, 'family' | 'sequence'>,
  frames: number,
  offsetBytes: number,
): (bytes: number) => number {
  const container = containerOf(recipe)
  return (bytes) =>
    containerOverhead(
      container,
      frames,
      plannedRepeats(recipe, frames, bytes, offsetBytes),
      offsetBytes,
    )
}

/** What a clip's passes are planned from: its recipe, a goal, and its probe. */
export function passJob(
  recipe: Pick<ClipRecipe, 'family' | 'sequence'>,
  goal: WeightGoal,
  { points, steering, bounds, anchorEvery, parts, frames }: ProbeFacts,
): PassJob {
  const { frameRate, loops } = recipe.sequence
  return {
    goal,
    curve: new ProbeCurve(points, steering),
    bounds,
    anchorEvery,
    parts,
    frames,
    framesPerSecond: toNumber(frameRate),
    ramp: loops ? (k) => loopPointRamp(k, frames) : null,
    overhead: overheadOf(recipe, frames, 0),
  }
}
