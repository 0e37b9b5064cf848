import type { ProbeFacts, RenditionFacts } from '../../core/api/wire'
import type { ClipRecipe, ProbeRecipe, Recipe } from '../../core/backdrop/recipe'
import type { CutMotion } from '../../core/loop/chooseOverlap'
import type { LoopRange } from '../../core/loop/findLoops'
import type { PictureShape, ShareRect } from '../../core/picture/pictureShape'
import type { Analysed } from './analyseClip'
import type { FoundLoops, SearchProgress } from './findLoopsInClip'
import type { Probed } from './probeClip'
import type { RenderProgress } from './renderClip'
import type { ClipPlace } from './sources'
import type { OfferedPoster } from './posterCandidates'
import type { WorkErrorCode } from './WorkError'

/** Orders for the worker. `place` says where the clip is. */
export type Order =
  | {
      readonly type: 'render'
      readonly place: ClipPlace
      readonly recipe: Recipe
      readonly poster?: ClipPlace | null
      readonly probe?: ProbeFacts | null
    }
  /** Short encodes of a clip: how its bytes and its quality hang together. */
  | {
      readonly type: 'probe'
      readonly place: ClipPlace
      readonly recipe: ProbeRecipe
      readonly settings?: readonly number[] | null
      readonly contrasts?: readonly number[]
    }
  /** Pictures of many frames, in order of their numbers. */
  | {
      readonly type: 'frames'
      readonly place: ClipPlace
      readonly numbers: readonly number[]
      readonly width: number
      readonly coarse: boolean
      readonly shape?: PictureShape
    }
  /** One exact frame at once; with `quick` from the scrub proxy where there is one. */
  | {
      readonly type: 'exact'
      readonly place: ClipPlace
      readonly number: number
      readonly width: number
      readonly quick: boolean
      readonly shape: PictureShape
    }
  /** Makes the scrub proxy of some frames; the one made last is kept. */
  | {
      readonly type: 'proxy'
      readonly place: ClipPlace
      readonly first: number
      readonly last: number
    }
  /** Output frames of a loop, composed as they are delivered, at the recipe's size. */
  | {
      readonly type: 'output'
      readonly place: ClipPlace
      readonly recipe: ClipRecipe
      readonly numbers: readonly number[]
    }
  | { readonly type: 'index'; readonly place: ClipPlace }
  | { readonly type: 'analyse'; readonly place: ClipPlace }
  | { readonly type: 'analyse-still'; readonly place: ClipPlace; readonly mime: string }
  | {
      readonly type: 'find-loops'
      readonly place: ClipPlace
      readonly trace: Uint8Array | null
      readonly range: LoopRange
      readonly count: number
    }
  /**
   * Measures the motion of a cut, frame by frame: what the length of a blended seam is chosen from.
   */
  | { readonly type: 'cut-motion'; readonly place: ClipPlace; readonly recipe: ClipRecipe }
  | {
      readonly type: 'candidates'
      readonly place: ClipPlace
      readonly recipe: ClipRecipe
      readonly copy: ShareRect | null
    }

/** What comes back at the end of each kind of order. */
export interface Outcome {
  readonly render: { readonly bytes: Uint8Array<ArrayBuffer>; readonly facts: RenditionFacts }
  readonly probe: Probed
  readonly frames: null
  readonly exact: { readonly picture: ImageBitmap; readonly quick: boolean }
  readonly proxy: null
  readonly output: null
  /**
   * Presentation times in ticks, for the deck's ruler and exact cuts; `keys` are those of key
   * frames, as the container flags them; `sizes` are the bytes of each frame.
   */
  readonly index: {
    readonly timescale: number
    readonly times: readonly number[]
    readonly length: number
    readonly keys: readonly number[]
    readonly sizes: readonly number[]
  }
  readonly analyse: Analysed
  readonly 'analyse-still': Analysed
  readonly 'find-loops': FoundLoops
  readonly 'cut-motion': CutMotion
  readonly candidates: readonly OfferedPoster[]
}

/** What comes back on the way. */
export interface Step {
  readonly render: RenderProgress
  readonly probe: RenderProgress
  readonly frames: { readonly number: number; readonly picture: ImageBitmap }
  readonly exact: never
  readonly proxy: RenderProgress
  readonly output: { readonly number: number; readonly picture: ImageBitmap }
  readonly index: never
  readonly analyse: RenderProgress
  readonly 'analyse-still': never
  readonly 'find-loops': SearchProgress
  readonly 'cut-motion': RenderProgress
  readonly candidates: RenderProgress
}

export type Request = { readonly id: number; readonly order: Order } | { readonly cancel: number }

export type Reply =
  | { readonly id: number; readonly step: Step[Order['type']] }
  | { readonly id: number; readonly outcome: Outcome[Order['type']] }
  | {
      readonly id: number
      readonly error: { readonly code: WorkErrorCode; readonly message: string }
    }
