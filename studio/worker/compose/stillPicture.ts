import { convertRgbaToI420 } from '../../../core/picture/convertRgbaToI420'
import { i420Blurrer } from '../../../core/picture/blurI420'
import type { PictureOrder } from '../sequences/OpenSequence'
import type { SoftPart } from '../../../core/kinds/Sources'
import { frameOf, LIMITED_BT709, type Composed } from './composeFrame'

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

/** Blurs a box of what a file has of a drawn picture, as the file is blurred when it is made. */
export function softenPart(canvas: OffscreenCanvas, { part, blur }: SoftPart): void {
  const whole = part ?? { x: 0, y: 0, width: 1, height: 1 }
  const [x, y] = [Math.round(whole.x * canvas.width), Math.round(whole.y * canvas.height)]
  const even = (length: number): number => Math.max(2, 2 * Math.floor(length / 2))
  const width = even(Math.min(canvas.width - x, whole.width * canvas.width))
  const height = even(Math.min(canvas.height - y, whole.height * canvas.height))
  const context = canvas.getContext('2d')!
  const { data } = context.getImageData(x, y, width, height)
  const frame = frameOf(composedPixels(data, { width, height, copyBlur: blur }), 0)
  context.drawImage(frame, x, y, width, height)
  frame.close()
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
