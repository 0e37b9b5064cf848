import type { Size } from '../../../core/fit/cover'
import type { ImageSequence } from '../../../core/kinds/image/imageSequence'
import { paintPixels } from '../../../core/kinds/paint/paintPixels'
import { progressOf, type PaintSequence } from '../../../core/kinds/paint/paintSequence'
import type { ComposedFrame } from '../compose/composedFrames'
import type { Composed } from '../compose/composeFrame'
import { composedImage, composedPixels } from '../compose/stillPicture'
import { blobOf, type ClipPlace } from '../sources'
import { WorkError } from '../WorkError'
import { ComposedSequence } from './ComposedSequence'
import type { OpenSequence, PictureOrder, PosterMoment } from './OpenSequence'

/** A sequence whose frames are drawn one by one, at any size: usually it has one. */
export class OpenStill extends ComposedSequence implements OpenSequence {
  readonly sequence: ImageSequence | PaintSequence
  private readonly draw: (order: PictureOrder, number: number) => Promise<Composed>

  constructor(
    sequence: ImageSequence | PaintSequence,
    draw: (order: PictureOrder, number: number) => Promise<Composed>,
  ) {
    super()
    this.sequence = sequence
    this.draw = draw
  }

  async *composed(
    numbers: readonly number[],
    order: PictureOrder,
    signal: AbortSignal,
  ): AsyncGenerator<ComposedFrame> {
    for (const number of numbers) {
      if (signal.aborted) throw new WorkError('work/cancelled')
      const show = await this.draw(order, number)
      yield { ...show, show, under: null }
    }
  }

  /** There is one moment only, and it is the first frame. */
  posterMoments(): PosterMoment[] {
    return []
  }

  async *atMoments(
    moments: readonly PosterMoment[],
    order: PictureOrder,
    signal: AbortSignal,
  ): AsyncGenerator<Composed> {
    yield* this.composed(
      moments.map(() => 0),
      order,
      signal,
    )
  }

  seamMeter(): null {
    return null
  }
}

/**
 * Opens an image from its place. Errors: `work/unreadable`, and `work/decode-failed` when drawn.
 */
export async function openImage(sequence: ImageSequence, place: ClipPlace): Promise<OpenStill> {
  const { mime, part, matte, opacity } = sequence
  // In a drawing's place is its picture (vectorPlace.ts).
  const file = await blobOf(place, mime === 'image/svg+xml' ? 'image/png' : mime)
  return new OpenStill(sequence, async (order) => {
    const image = await decodedImage(file)
    const { x, y, width, height } = part ?? { x: 0, y: 0, width: 1, height: 1 }
    const shown = {
      x: x * image.width,
      y: y * image.height,
      width: width * image.width,
      height: height * image.height,
    }
    return composedImage(image, shown, matte ?? WHITE, order, opacity)
  })
}

const WHITE = '#ffffff'

/** An image upright. Errors: `work/decode-failed`. */
export function decodedImage(file: Blob): Promise<ImageBitmap> {
  return createImageBitmap(file, { imageOrientation: 'from-image' }).catch((cause: unknown) => {
    throw new WorkError(
      'work/decode-failed',
      'The image cannot be decoded in this browser. Export it again as JPEG or PNG.',
      cause,
    )
  })
}

/** A whole image over its colour at a size. It is closed. */
export function overColour(
  image: ImageBitmap,
  { matte, opacity }: Pick<ImageSequence, 'matte' | 'opacity'>,
  { width, height }: Size,
): OffscreenCanvas {
  const canvas = new OffscreenCanvas(width, height)
  const context = canvas.getContext('2d')!
  context.imageSmoothingQuality = 'high'
  context.fillStyle = matte ?? WHITE
  context.fillRect(0, 0, width, height)
  context.globalAlpha = opacity
  context.drawImage(image, 0, 0, width, height)
  image.close()
  return canvas
}

/** A paint, drawn as browsers draw it. */
export function openPaint(sequence: PaintSequence): OpenStill {
  return new OpenStill(sequence, (order, number) => {
    const progress = progressOf(sequence, number)
    const pixels =
      sequence.frames > 1
        ? enlargedPaint(sequence.paint, progress, order)
        : paintPixels(sequence.paint, order.width, order.height)
    return Promise.resolve(composedPixels(pixels, order))
  })
}

/** Wider, what is only measured is drawn smaller and enlarged: colours hardly differ from there. */
const DRAWN_WIDTH = 320

function enlargedPaint(
  paint: PaintSequence['paint'],
  progress: number,
  { width, height }: PictureOrder,
): Uint8ClampedArray<ArrayBuffer> {
  const share = Math.min(1, DRAWN_WIDTH / width)
  const [wide, high] = [Math.round(width * share), Math.max(1, Math.round(height * share))]
  const pixels = paintPixels(paint, wide, high, progress)
  if (share === 1) return pixels
  const small = new OffscreenCanvas(wide, high)
  small.getContext('2d')!.putImageData(new ImageData(pixels, wide, high), 0, 0)
  const context = new OffscreenCanvas(width, height).getContext('2d')!
  context.imageSmoothingQuality = 'high'
  context.drawImage(small, 0, 0, width, height)
  return context.getImageData(0, 0, width, height).data
}
