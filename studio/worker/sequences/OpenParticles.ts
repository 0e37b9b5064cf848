import {
  frameUnder,
  particleSeconds,
  type ParticleSequence,
} from '../../../core/kinds/particleSequence'
import { drawLinks } from '../../../core/particles/links'
import { painterOf, type Draw } from '../../../core/particles/Painter'
import { prepare, spritesOf } from '../../../core/particles/prepare'
import type { ComposedFrame } from '../compose/composedFrames'
import { frameOf, type Composed } from '../compose/composeFrame'
import type { LoopMeter } from '../compose/LoopMeter'
import { composedPixels } from '../compose/stillPicture'
import { decodedSprites } from './decodedSprites'
import { WorkError } from '../WorkError'
import { ComposedSequence } from './ComposedSequence'
import type { OpenSequence, PictureOrder, PosterMoment } from './OpenSequence'

/**
 * Frames of a base with particles over them, composed as a page shows its canvas in front of the
 * base: what is blurred behind the copy is the base alone.
 */
export class OpenParticles extends ComposedSequence implements OpenSequence {
  readonly sequence: ParticleSequence
  private readonly below: OpenSequence

  constructor(sequence: ParticleSequence, below: OpenSequence) {
    super()
    this.sequence = sequence
    this.below = below
  }

  async *composed(
    numbers: readonly number[],
    order: PictureOrder,
    signal: AbortSignal,
  ): AsyncGenerator<ComposedFrame> {
    const over = await this.painting(order)
    let k = 0
    for await (const below of this.bases(numbers, order, signal)) {
      if (signal.aborted) throw new WorkError('work/cancelled')
      yield { ...below, ...over(below, particleSeconds(this.sequence, numbers[k]!)) }
      k += 1
    }
  }

  posterMoments(count: number): PosterMoment[] {
    return this.below.posterMoments(count)
  }

  /** A poster of another moment of the base shows the first picture of the particles. */
  async *atMoments(
    moments: readonly PosterMoment[],
    order: PictureOrder,
    signal: AbortSignal,
  ): AsyncGenerator<Composed> {
    const over = await this.painting(order)
    for await (const below of this.below.atMoments(moments, order, signal)) yield over(below, 0)
  }

  /** The seam of the base, as it is seen behind the particles; where it comes once. */
  seamMeter(): LoopMeter | null {
    const { frames, under } = this.sequence
    return frames === under.frames ? this.below.seamMeter() : null
  }

  /** The base's frames; of a still one its only picture, composed once. */
  private async *bases(
    numbers: readonly number[],
    order: PictureOrder,
    signal: AbortSignal,
  ): AsyncGenerator<ComposedFrame> {
    const wanted = numbers.map((number) => frameUnder(this.sequence, number))
    if (this.sequence.under.frames > 1) {
      yield* this.below.composed(wanted, order, signal)
      return
    }
    for await (const still of this.below.composed([0], order, signal))
      for (const _ of wanted) yield still
  }

  private async painting({
    width,
    height,
  }: PictureOrder): Promise<(below: Composed, seconds: number) => Composed> {
    const { definition, area } = this.sequence
    const canvasOf = (): OffscreenCanvasRenderingContext2D =>
      new OffscreenCanvas(width, height).getContext('2d', { willReadFrequently: true })!
    const whole = canvasOf()
    // Light adds up among the particles, and what comes of it covers the base.
    const drawn = canvasOf()
    const density = width / area.width
    // A picture's sides are even: what is lost by it is stretched.
    const shown = { width: area.width, height: height / density }
    const draw: Draw = painterOf(
      prepare(definition),
      shown,
      density,
      [drawLinks],
      await decodedSprites(spritesOf(definition)),
    )
    return (below, seconds) => {
      const frame = frameOf(below, 0)
      whole.drawImage(frame, 0, 0, width, height)
      frame.close()
      draw(drawn, seconds)
      whole.drawImage(drawn.canvas, 0, 0)
      return composedPixels(whole.getImageData(0, 0, width, height).data, {
        width,
        height,
        copyBlur: null,
      })
    }
  }
}
