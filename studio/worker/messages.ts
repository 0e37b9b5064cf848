import type { RenditionFacts } from '../../core/api/wire'
import type { Recipe } from '../../core/backdrop/recipe'
import type { Analysed } from './analyseClip'
import type { RenderProgress } from './renderClip'
import type { ClipPlace } from './sources'
import type { WorkErrorCode } from './WorkError'

/** What the worker is asked to do. */
export type Order =
  | { readonly type: 'render'; readonly place: ClipPlace; readonly recipe: Recipe }
  | { readonly type: 'frames'; readonly place: ClipPlace; readonly numbers: readonly number[]; readonly width: number; readonly coarse: boolean }
  | { readonly type: 'index'; readonly place: ClipPlace }
  | { readonly type: 'analyse'; readonly place: ClipPlace }
  | { readonly type: 'analyse-still'; readonly place: ClipPlace; readonly mime: string }

/** What comes back at the end of each kind of order. */
export interface Outcome {
  readonly render: { readonly bytes: Uint8Array<ArrayBuffer>; readonly facts: RenditionFacts }
  readonly frames: null
  /** Presentation times in ticks, for the deck's ruler and exact cuts; `keys` are those of key frames, as the container flags them. */
  readonly index: { readonly timescale: number; readonly times: readonly number[]; readonly length: number; readonly keys: readonly number[] }
  readonly analyse: Analysed
  readonly 'analyse-still': Analysed
}

/** What comes back on the way. */
export interface Step {
  readonly render: RenderProgress
  readonly frames: { readonly number: number; readonly picture: ImageBitmap }
  readonly index: never
  readonly analyse: RenderProgress
  readonly 'analyse-still': never
}

export type Request = { readonly id: number; readonly order: Order } | { readonly cancel: number }

export type Reply =
  | { readonly id: number; readonly step: Step[Order['type']] }
  | { readonly id: number; readonly outcome: Outcome[Order['type']] }
  | { readonly id: number; readonly error: { readonly code: WorkErrorCode; readonly message: string } }
