import type { AnyRecipe } from '../../core/api/recipes'
import type { RenditionFacts } from '../../core/api/renditions'
import type { Mismatch } from '../../core/api/verifyRendition'
import type { ContainerErrorCode } from '../../core/bytes/ContainerError'
import type { SourceFacts } from '../../core/media/probe'
import type { RepairOrder, RepairPlan } from '../../core/media/repair/RepairPlan'
import type { Result } from '../../core/result'

/** What is wrong with a file, as `describeContainerError` wants it. */
export interface FileProblem {
  readonly code: ContainerErrorCode
  readonly subject: string
}

export type Task =
  | { readonly type: 'probe' }
  | { readonly type: 'plan-repair'; readonly order: RepairOrder }
  | { readonly type: 'verify'; readonly recipe: AnyRecipe; readonly facts: RenditionFacts }

/** What each task gives. */
export interface Outcome {
  readonly probe: Result<SourceFacts, FileProblem>
  readonly 'plan-repair': Result<RepairPlan, FileProblem>
  readonly verify: Result<null, Mismatch>
}

export interface Job {
  readonly task: Task
  /** Size of the file in bytes. */
  readonly size: number
}

export type ToThread =
  | { readonly type: 'job'; readonly job: Job }
  /** Bytes that were asked for; null where they cannot be read. */
  | { readonly type: 'bytes'; readonly read: number; readonly bytes: Uint8Array | null }

export type FromThread =
  | { readonly type: 'begun' }
  | {
      readonly type: 'read'
      readonly read: number
      readonly offset: number
      readonly length: number
    }
  | { readonly type: 'done'; readonly result: Outcome[Task['type']] }
  | { readonly type: 'fault'; readonly message: string }
