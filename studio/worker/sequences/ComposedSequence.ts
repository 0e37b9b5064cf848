import type { ComposedFrame } from '../compose/composedFrames'
import { encodedFrames } from '../compose/encodedFrames'
import type { FrameWitness, OutputOrder, PictureOrder } from './OpenSequence'

/** A sequence whose frames go to an encoder as they are composed. */
export abstract class ComposedSequence {
  abstract composed(
    numbers: readonly number[],
    order: PictureOrder,
    signal: AbortSignal,
  ): AsyncGenerator<ComposedFrame>

  output(
    numbers: readonly number[],
    order: OutputOrder,
    at: (k: number) => number,
    witness: FrameWitness | null,
    signal: AbortSignal,
  ): AsyncGenerator<VideoFrame> {
    return encodedFrames(this.composed(numbers, order, signal), at, witness)
  }
}
