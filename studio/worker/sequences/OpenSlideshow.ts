import { MAX_ZOOM } from '../../../core/kinds/image/Image'
import type { ImageSequence } from '../../../core/kinds/image/imageSequence'
import { eased } from '../../../core/kinds/easing'
import { sceneAt } from '../../../core/kinds/slideshow/scene'
import {
  plannedCycle,
  TILES_FOR_WIDTH,
  type PlannedSlide,
  type SlideshowSequence,
} from '../../../core/kinds/slideshow/slideshowSequence'
import type { Size } from '../../../core/fit/cover'
import type { ComposedFrame } from '../compose/composedFrames'
import type { Composed } from '../compose/composeFrame'
import { drawScene, type SlideImage } from '../compose/drawSlides'
import { composedPixels, softenPart } from '../compose/stillPicture'
import type { LoopMeter } from '../compose/LoopMeter'
import { blobOf, placeIn, type Places } from '../sources'
import { WorkError } from '../WorkError'
import { decodedImage, overColour } from './OpenStill'
import { ComposedSequence } from './ComposedSequence'
import type { OpenSequence, PictureOrder, PosterMoment } from './OpenSequence'

/** Images that are held at a time: two are seen, and the next is near. */
const MAX_HELD = 3
/** Ticks a second of a poster's moments. */
const TIMESCALE = 1000

/** The frames of a slideshow, drawn as the delivered style shows them. */
export class OpenSlideshow extends ComposedSequence implements OpenSequence {
  readonly sequence: SlideshowSequence
  private readonly places: Places
  private readonly held = new Map<string, Promise<SlideImage>>()

  constructor(sequence: SlideshowSequence, places: Places) {
    super()
    this.sequence = sequence
    this.places = places
  }

  composed(
    numbers: readonly number[],
    order: PictureOrder,
    signal: AbortSignal,
  ): AsyncGenerator<ComposedFrame> {
    const { num, den } = this.sequence.frameRate
    return this.atTimes(
      numbers.map((number) => (number * den) / num),
      order,
      signal,
    )
  }

  posterMoments(count: number): PosterMoment[] {
    const { spans } = plannedCycle(this.sequence.slides)
    return spans
      .slice(0, count)
      .map(({ fullFrom }) => ({ ticks: Math.round(fullFrom * TIMESCALE), timescale: TIMESCALE }))
  }

  atMoments(
    moments: readonly PosterMoment[],
    order: PictureOrder,
    signal: AbortSignal,
  ): AsyncGenerator<Composed> {
    return this.atTimes(
      moments.map(({ ticks, timescale }) => ticks / timescale),
      order,
      signal,
    )
  }

  /** A cycle returns to its first slide by a transition: there is no seam to measure. */
  seamMeter(): LoopMeter | null {
    return null
  }

  private async *atTimes(
    times: readonly number[],
    order: PictureOrder,
    signal: AbortSignal,
  ): AsyncGenerator<ComposedFrame> {
    let last: { readonly key: string; readonly frame: Composed } | null = null
    for (const time of times) {
      if (signal.aborted) throw new WorkError('work/cancelled')
      const { key, draw } = await this.frameAt(time, order)
      // A hold is one picture: it is composed once.
      const show: Composed = last?.key === key ? last.frame : composedPixels(draw(), order)
      last = { key, frame: show }
      yield { ...show, show, under: null }
    }
  }

  private async frameAt(
    time: number,
    { width, height }: PictureOrder,
  ): Promise<{ readonly key: string; readonly draw: () => Uint8ClampedArray<ArrayBuffer> }> {
    const { slides, part, region: filled } = this.sequence
    const shown = part ?? { x: 0, y: 0, width: 1, height: 1 }
    const region = {
      width: Math.round(width / shown.width),
      height: Math.round(height / shown.height),
    }
    const scene = sceneAt(
      plannedCycle(slides),
      slides.map(({ transition }) => transition),
      time,
    ).map((each) => {
      const { pan, panEasing = 'linear' } = slides[each.slide]!
      return { ...each, panShare: pan ? eased(panEasing, each.panShare) : 0 }
    })
    const scale = region.width / (filled?.width ?? TILES_FOR_WIDTH)
    const pictures = new Map<number, SlideImage>()
    for (const { slide } of scene) {
      const { everyHeight = 0 } = slides[slide]!
      const box = { ...region, height: Math.max(region.height, everyHeight * scale) }
      pictures.set(slide, await this.picture(slides[slide]!, box))
    }
    const draw = (): Uint8ClampedArray<ArrayBuffer> => {
      const canvas = new OffscreenCanvas(width, height)
      const context = canvas.getContext('2d', { willReadFrequently: true })!
      context.translate(-Math.round(shown.x * region.width), -Math.round(shown.y * region.height))
      drawScene(context, scene, region, (slide) => ({
        place: {
          ...slides[slide]!,
          tileWidth: slides[slide]!.tileWidth * scale,
          everyHeight: scaledHeight(slides[slide]!, scale),
        },
        picture: pictures.get(slide)!,
      }))
      return context.getImageData(0, 0, width, height).data
    }
    return { key: JSON.stringify(scene), draw }
  }

  /** A slide's image, no larger than the region needs it. */
  private picture(slide: PlannedSlide, region: Size): Promise<SlideImage> {
    const { still, placing, softened } = slide
    const key = JSON.stringify([still.keys, placing, region, softened])
    const known = this.held.get(key)
    if (known) return known
    const made = this.decoded(slide, region)
    this.held.set(key, made)
    made.catch(() => this.held.delete(key))
    for (const oldest of this.held.keys()) if (this.held.size > MAX_HELD) this.held.delete(oldest)
    return made
  }

  private async decoded(
    { still, placing, softened }: PlannedSlide,
    region: Size,
  ): Promise<SlideImage> {
    const file = await blobOf(placeIn(this.places, still.sourceSha256), stillMime(still))
    const image = await decodedImage(file)
    const cover = Math.max(region.width / image.width, region.height / image.height)
    const scale = placing === 'tile' ? 1 : Math.min(1, cover * MAX_ZOOM)
    const size = {
      width: Math.max(1, Math.round(image.width * scale)),
      height: Math.max(1, Math.round(image.height * scale)),
    }
    const drawn = overColour(image, still, size)
    if (softened) softenPart(drawn, softened)
    return { image: drawn, ...size }
  }
}

const scaledHeight = ({ everyHeight }: PlannedSlide, scale: number): number | undefined =>
  everyHeight === undefined ? undefined : everyHeight * scale

/** Drawings come as pictures (vectorPlace.ts). */
const stillMime = ({ mime }: ImageSequence): string =>
  mime === 'image/svg+xml' ? 'image/png' : mime
