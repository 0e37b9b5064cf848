import type { AnySequence } from '../../../core/kinds'
import type { PartBlur } from '../../../core/picture/blurI420'
import type { I420 } from '../../../core/picture/I420'
import type { ComposedFrame } from '../compose/composedFrames'
import type { Composed } from '../compose/composeFrame'
import type { LoopMeter } from '../compose/LoopMeter'

/** The size of pictures, and what is blurred in them. */
export interface PictureOrder {
  /** Even, in pixels. */
  readonly width: number
  readonly height: number
  readonly copyBlur: PartBlur | null
  /** Whether plain means suffice, as for what is measured and not shown: much faster. */
  readonly means?: boolean
}

/** What an encoder is given frames for. */
export interface OutputOrder extends PictureOrder {
  /** How strongly grain is taken out, 0 to 1. */
  readonly noiseReduction: number
  /**
   * Whether frames must come at the size that is delivered: an encoder that scales them itself
   * makes a key frame whenever its rate is changed.
   */
  readonly exactSize?: boolean
}

/** Whoever looks at frames on their way to the encoder. */
export interface FrameWitness {
  /** Whether frame `k` is to be seen. */
  wants(k: number): boolean
  /** The picture of frame `k`, at the size that goes to the encoder. */
  see(k: number, picture: () => Promise<I420>): Promise<void>
  /** What a mixed frame was mixed from, where that is known. */
  seeParts?(k: number, frame: ComposedFrame): void
}

/** A moment that a poster can show, in ticks of the base's own time. */
export interface PosterMoment {
  readonly ticks: number
  readonly timescale: number
}

/** A sequence whose inputs are open: gives its frames, by number, in any purpose's form. */
export interface OpenSequence {
  readonly sequence: AnySequence
  /** Frames with these numbers, composed as they are delivered, in the order of the list. */
  composed(
    numbers: readonly number[],
    order: PictureOrder,
    signal: AbortSignal,
  ): AsyncGenerator<ComposedFrame>
  /**
   * Frames with these numbers for an encoder, the `k`th of them from `at(k)` to `at(k + 1)`
   * (microseconds). What needs no composing may pass as it was decoded, at its own size. The taker
   * closes them.
   */
  output(
    numbers: readonly number[],
    order: OutputOrder,
    at: (k: number) => number,
    witness: FrameWitness | null,
    signal: AbortSignal,
  ): AsyncGenerator<VideoFrame>
  /** `count` moments spread over the loop that a poster can show. */
  posterMoments(count: number): PosterMoment[]
  /** What a poster of each moment shows, in order. */
  atMoments(
    moments: readonly PosterMoment[],
    order: PictureOrder,
    signal: AbortSignal,
  ): AsyncGenerator<Composed>
  /** Measures its seam; null where it does not loop. */
  seamMeter(): LoopMeter | null
}
