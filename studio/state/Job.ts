import type { WorkJob } from '../../core/api/work'
import type { ProbeRecipe, Recipe } from '../../core/backdrop/recipe'

/** A file rendering, or waiting for its turn. */
export interface Job {
  readonly key: string
  readonly recipe: Recipe | ProbeRecipe
  readonly state: 'queued' | 'running' | 'failed'
  /** 0 to 1: of the pass under way, or of the whole job where a render worker does it. */
  readonly done: number
  readonly pass: number
  readonly startedAt: number | null
  readonly message: string | null
  /** Whether it failed since this browser cannot decode the clip: another try would fail too. */
  readonly cannotDecode?: boolean
  /** What a render worker does of it; undefined where this tab renders it. */
  readonly apart?: Pick<WorkJob, 'step' | 'secondsLeft' | 'worker'>
}
