import { convertRgbaToI420 } from '../../../core/picture/convertRgbaToI420'
import { i420Blurrer } from '../../../core/picture/blurI420'
import type { PictureOrder } from '../sequences/OpenSequence'
import { LIMITED_BT709, type Composed } from './composeFrame'

/** Pixels of sRGB as a composed picture, blurred where that is asked for. */
export function composedPixels(
  data: Uint8ClampedArray<ArrayBuffer>,
  { width, height, copyBlur }: PictureOrder,
): Composed {
  const planes = convertRgbaToI420(data, width, height)
  return {
    picture: copyBlur ? i420Blurrer(planes, copyBlur)(planes) : planes,
    colour: LIMITED_BT709,
    kind: { matrix: 'bt709', fullRange: false },
  }
}

/** Part of an image in its own pixels. */
interface Part {
  readonly x: number
  readonly y: number
  readonly width: number
  readonly height: number
}

/**
 * Part of an image drawn at a size over a colour: images can be transparent. The image is closed.
 */
export function composedImage(
  image: ImageBitmap,
  part: Part,
  matte: string,
  order: PictureOrder,
  opacity = 1,
): Composed {
  const { width, height } = order
  const canvas = new OffscreenCanvas(width, height)
  const context = canvas.getContext('2d', { willReadFrequently: true })!
  context.imageSmoothingQuality = 'high'
  context.fillStyle = matte
  context.fillRect(0, 0, width, height)
  context.globalAlpha = opacity
  context.drawImage(image, part.x, part.y, part.width, part.height, 0, 0, width, height)
  image.close()
  return composedPixels(context.getImageData(0, 0, width, height).data, order)
}
