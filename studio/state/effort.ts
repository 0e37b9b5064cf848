import type { ProbeRecipe, Recipe } from '../../core/backdrop/recipe'
import type { Job } from './Job'

/**
 * Relative cost of encoding a pixel of each format, and a pixel of a poster, which is encoded
 * repeatedly until it fits.
 */
const PACE = { av1: 2.4, vp9: 1.6, h264: 1 } as const
const POSTER_SPEED = { avif: 60, webp: 50, jpeg: 22, svg: 1 } as const
/** Frames that a probe encodes, about. */
const PROBE_FRAMES = 180
/** The share of a job from which on its own pace is believed. */
const SURE = 0.25

/** Frames times pixels, weighed by format: what a job costs, for the time left. */
export function effortOf(recipe: Recipe | ProbeRecipe): number {
  const pixels = recipe.width * recipe.height
  if (recipe.kind === 'poster') return pixels * POSTER_SPEED[recipe.format]
  const { frames } = recipe.sequence
  return (
    pixels *
    PACE[recipe.family] *
    (recipe.kind === 'probe' ? Math.min(PROBE_FRAMES, 5 * frames) : frames)
  )
}

/** Progress of rendering. */
export interface Progress {
  /** Share of all effort that is done, 0 to 1. */
  readonly share: number
  /** NaN as long as this machine has not shown its pace. */
  readonly secondsLeft: number
}

/**
 * How much of the work on `recipes` the jobs have done. `usual` is this machine's effort per second
 * so far, null if unknown; `nowMs` is on the clock of the jobs' starts. The present speed decides
 * once enough is done; before that the usual one.
 */
export function progressOf(
  jobs: readonly Job[],
  recipes: readonly Recipe[],
  usual: number | null,
  nowMs: number,
): Progress {
  const all = recipes.reduce((sum, recipe) => sum + effortOf(recipe), 0)
  const left = jobs.reduce((sum, job) => sum + effortOf(job.recipe) * (1 - job.done), 0)
  const running = jobs.find((job) => job.state === 'running')
  const spent = running?.startedAt != null ? (nowMs - running.startedAt) / 1000 : 0
  // What a worker tells of a picture says nothing of the clips that follow.
  const told = running?.recipe.kind === 'poster' ? null : running?.apart?.secondsLeft
  const pace =
    running && told
      ? (effortOf(running.recipe) * (1 - running.done)) / told
      : running && spent > 0 && running.done > SURE
        ? (effortOf(running.recipe) * running.done) / spent
        : (usual ?? NaN)
  return { share: Math.max(0, 1 - left / all), secondsLeft: left / pace }
}
