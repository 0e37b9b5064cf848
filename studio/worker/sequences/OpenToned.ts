import { tonedI420 } from '../../../core/tone/applyTone'
import type { Tone } from '../../../core/tone/Tone'
import type { ComposedFrame } from '../compose/composedFrames'
import type { Composed } from '../compose/composeFrame'
import type { LoopMeter } from '../compose/LoopMeter'
import { ComposedSequence } from './ComposedSequence'
import type { OpenSequence, PictureOrder, PosterMoment } from './OpenSequence'

/** A composed picture with a tone. */
export const tonedPicture = <C extends Composed>(composed: C, tone: Tone): C => ({
  ...composed,
  picture: tonedI420(composed.picture, tone, composed.kind),
})

/** The frames of a sequence with a tone. */
export class OpenToned extends ComposedSequence implements OpenSequence {
  readonly sequence: OpenSequence['sequence']
  private readonly below: OpenSequence
  private readonly tone: Tone

  constructor(below: OpenSequence, tone: Tone) {
    super()
    this.sequence = below.sequence
    this.below = below
    this.tone = tone
  }

  async *composed(
    numbers: readonly number[],
    order: PictureOrder,
    signal: AbortSignal,
  ): AsyncGenerator<ComposedFrame> {
    for await (const frame of this.below.composed(numbers, order, signal)) {
      const own = tonedPicture(frame, this.tone)
      // A frame that is not mixed is its only part.
      const part = <P extends Composed | null>(each: P): P =>
        each && each.picture === frame.picture
          ? { ...each, picture: own.picture }
          : each && tonedPicture(each, this.tone)
      yield { ...own, show: part(frame.show), under: part(frame.under) }
    }
  }

  posterMoments(count: number): PosterMoment[] {
    return this.below.posterMoments(count)
  }

  async *atMoments(
    moments: readonly PosterMoment[],
    order: PictureOrder,
    signal: AbortSignal,
  ): AsyncGenerator<Composed> {
    for await (const picture of this.below.atMoments(moments, order, signal))
      yield tonedPicture(picture, this.tone)
  }

  /** Its frames differ as much as those below do, whatever their tone is. */
  seamMeter(): LoopMeter | null {
    return this.below.seamMeter()
  }
}
