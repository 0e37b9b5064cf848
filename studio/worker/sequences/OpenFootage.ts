import type { FootageSequence } from '../../../core/kinds/footage/footageSequence'
import { cutFrames, framePlan, momentAt, type PlannedFrame } from '../../../core/loop/framePlan'
import { composedFrames, type ComposedFrame } from '../compose/composedFrames'
import type { Composed } from '../compose/composeFrame'
import { LoopMeter } from '../compose/LoopMeter'
import { withMatte, type OpenClip } from '../decode/OpenClip'
import { footageFrames } from './footageFrames'
import type {
  FrameWitness,
  OpenSequence,
  OutputOrder,
  PictureOrder,
  PosterMoment,
} from './OpenSequence'

/** The frames of footage, from its clip. */
export class OpenFootage implements OpenSequence {
  readonly sequence: FootageSequence
  readonly clip: OpenClip
  private readonly plan: readonly PlannedFrame[]

  constructor(clip: OpenClip, sequence: FootageSequence) {
    this.clip = withMatte(clip, sequence.shape.matte)
    this.sequence = sequence
    this.plan = framePlan(sequence.loop, clip.presentation)
  }

  composed(
    numbers: readonly number[],
    order: PictureOrder,
    signal: AbortSignal,
  ): AsyncGenerator<ComposedFrame> {
    return this.compose(this.planned(numbers), order, signal)
  }

  output(
    numbers: readonly number[],
    order: OutputOrder,
    at: (k: number) => number,
    witness: FrameWitness | null,
    signal: AbortSignal,
  ): AsyncGenerator<VideoFrame> {
    const plan = this.planned(numbers)
    return footageFrames(this.clip, this.sequence, order, plan, at, witness, signal)
  }

  posterMoments(count: number): PosterMoment[] {
    const { times, timescale } = this.clip.presentation
    const loop = { ...this.sequence.loop, blendFrames: false }
    const frames = cutFrames(loop)
    const some = Math.min(count, frames)
    return Array.from({ length: some }, (_, index) => {
      const j = Math.floor((index * frames) / some)
      return { ticks: times[momentAt(loop, this.clip.presentation, j).frame]!, timescale }
    })
  }

  atMoments(
    moments: readonly PosterMoment[],
    order: PictureOrder,
    signal: AbortSignal,
  ): AsyncGenerator<Composed> {
    const { loop } = this.sequence
    const plan = moments.map(({ ticks, timescale }) => ({
      show: momentAt(
        { ...loop, cut: { ...loop.cut, start: ticks, timescale }, blendFrames: false },
        this.clip.presentation,
        0,
      ),
      under: null,
      weight: 1,
    }))
    return this.compose(plan, order, signal)
  }

  seamMeter(): LoopMeter | null {
    return this.sequence.loops ? new LoopMeter(this.sequence.loop, this.plan) : null
  }

  private planned(numbers: readonly number[]): PlannedFrame[] {
    return numbers.map((number) => this.plan[number]!)
  }

  private compose(
    plan: readonly PlannedFrame[],
    order: PictureOrder,
    signal: AbortSignal,
  ): AsyncGenerator<ComposedFrame> {
    return composedFrames(this.clip, { ...order, shape: this.sequence.shape }, plan, signal)
  }
}
