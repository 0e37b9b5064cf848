import type { RenditionFacts } from '../../core/api/wire'
import type { ProbeRecipe, Recipe } from '../../core/backdrop/recipe'
import type { AnySequence } from '../../core/kinds'
import type { FootageSequence } from '../../core/kinds/footage/footageSequence'
import type { CutMotion } from '../../core/loop/chooseOverlap'
import type { MapCell } from '../../core/legibility/loopMap'
import type { LoopRange } from '../../core/loop/findLoops'
import type { PictureShape, ShareRect } from '../../core/picture/pictureShape'
import type { ProbeFacts } from '../../core/weight/ProbeFacts'
import type { Analysed } from './jobs/analyseClip'
import type { FoundLoops, SearchProgress } from './jobs/findLoopsInClip'
import type { OfferedPoster } from './jobs/posterCandidates'
import type { Comparison, ComparisonOrder } from './jobs/compareClip'
import type { Probed } from './jobs/probeClip'
import type { PlanesRecipe, SentPlanes } from './jobs/sendPlanes'
import type { ContrastOrder, ContrastOutcome, ContrastStep } from './contrast/ContrastOrder'
import type { RenderProgress } from './jobs/renderClip'
import type { MapOrder } from './contrast/measureMap'
import type { PictureOrder } from './sequences/OpenSequence'
import type { ClipPlace, Places } from './sources'
import type { WorkErrorCode } from './WorkError'

/** Orders about output frames: `places` says where the inputs of the sequence are. */
type SequenceOrder =
  | {
      readonly type: 'render'
      readonly recipe: Recipe
      readonly places: Places
      readonly probe?: ProbeFacts | null
    }
  /** Short encodes of a clip: how its bytes and its quality hang together. */
  | {
      readonly type: 'probe'
      readonly recipe: ProbeRecipe
      readonly places: Places
      readonly settings?: readonly number[] | null
      readonly contrasts?: readonly number[]
    }
  /**
   * Composed frames of a clip as I420 planes, sent to `to` one after another: what an encoder
   * outside of the browser is fed with.
   */
  | {
      readonly type: 'planes'
      readonly recipe: PlanesRecipe
      readonly places: Places
      readonly to: string
    }
  /** Output frames, composed as they are delivered, at a size. */
  | ({
      readonly type: 'output'
      readonly sequence: AnySequence
      readonly places: Places
      readonly numbers: readonly number[]
    } & PictureOrder)
  /** The contrast of copy at all moments on all screens. */
  | ({ readonly type: 'contrasts' } & ContrastOrder)
  /** Where copy of a colour fails over the whole loop. */
  | ({ readonly type: 'contrast-map' } & MapOrder)
  | ({
      readonly type: 'candidates'
      readonly sequence: AnySequence
      readonly places: Places
      readonly copy: ShareRect | null
    } & PictureOrder)
  /**
   * Measures the motion of footage's cut, frame by frame: what the length of a blended seam is
   * chosen from.
   */
  | { readonly type: 'cut-motion'; readonly sequence: FootageSequence; readonly places: Places }

/** Orders about the frames of one file as it has them: `place` says where it is. */
type SourceOrder =
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
  /** Compares a finished clip with the frames that it was made from. */
  | ({ readonly type: 'compare' } & ComparisonOrder)
  | { readonly type: 'index'; readonly place: ClipPlace }
  | { readonly type: 'analyse'; readonly place: ClipPlace }
  | { readonly type: 'analyse-image'; readonly place: ClipPlace; readonly mime: string }
  | {
      readonly type: 'find-loops'
      readonly place: ClipPlace
      readonly trace: Uint8Array | null
      readonly range: LoopRange
      readonly count: number
    }

/** Orders for the worker. */
export type Order = SequenceOrder | SourceOrder

/** What comes back at the end of each kind of order. */
export interface Outcome {
  readonly render: { readonly bytes: Uint8Array<ArrayBuffer>; readonly facts: RenditionFacts }
  readonly probe: Probed
  readonly planes: SentPlanes
  readonly compare: Comparison
  readonly frames: null
  readonly exact: { readonly picture: ImageBitmap; readonly quick: boolean }
  readonly proxy: null
  readonly output: null
  readonly contrasts: ContrastOutcome
  readonly 'contrast-map': { readonly map: readonly MapCell[] }
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
  readonly 'analyse-image': Analysed
  readonly 'find-loops': FoundLoops
  readonly 'cut-motion': CutMotion
  readonly candidates: readonly OfferedPoster[]
}

/** What comes back on the way. */
export interface Step {
  readonly render: RenderProgress
  readonly probe: RenderProgress
  readonly planes: never
  readonly compare: never
  readonly frames: { readonly number: number; readonly picture: ImageBitmap }
  readonly exact: never
  readonly proxy: RenderProgress
  readonly output: { readonly number: number; readonly picture: ImageBitmap }
  readonly contrasts: ContrastStep
  readonly 'contrast-map': never
  readonly index: never
  readonly analyse: RenderProgress
  readonly 'analyse-image': never
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
