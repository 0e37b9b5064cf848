import { PLAIN_SHAPE, shapedSize, type PictureShape } from '../../../core/picture/pictureShape'
import { decodeFrames } from './decodeFrames'
import { drawUpright } from './drawUpright'
import { type OpenClip, keyBefore } from './OpenClip'

/** A picture of one frame, ready to be drawn. */
export interface FramePicture {
  readonly number: number
  readonly picture: ImageBitmap
}

/**
 * Pictures of the requested frames, upright, `width` pixels wide, in order. With `coarse`, a key
 * frame less than one step of the list before a frame replaces it, which makes the filmstrip of a
 * long clip cheap.
 */
export async function* readFrames(
  clip: OpenClip,
  numbers: readonly number[],
  width: number,
  coarse: boolean,
  signal: AbortSignal,
  shape: PictureShape = PLAIN_SHAPE,
): AsyncGenerator<FramePicture> {
  const [wide, high] = pictureSides(clip, width, shape)
  for (const group of groups(clip, numbers, coarse)) {
    const wanted = new Map(group.map((each) => [each.decode, each.number]))
    for await (const { number, frame } of decodeFrames(
      clip,
      group[0]!.decode,
      group[group.length - 1]!.decode,
      signal,
    )) {
      const asked = wanted.get(number)
      if (asked !== undefined) {
        const canvas = drawUpright(frame, clip.file.video, wide, high, shape)
        frame.close()
        yield { number: asked, picture: canvas.transferToImageBitmap() }
      } else frame.close()
    }
  }
}

/** Sides of a picture of a clip's frame, `width` pixels wide or as wide as the frame. */
export function pictureSides(
  { file }: OpenClip,
  width: number,
  shape: PictureShape,
): [number, number] {
  const size = shapedSize(
    { width: file.video.displayWidth, height: file.video.displayHeight },
    shape,
  )
  const wide = Math.min(width, size.width)
  return [wide, Math.max(1, Math.round((wide * size.height) / size.width))]
}

/**
 * Frame numbers in rising order, split into runs that one decoder serves without a jump to another
 * key frame.
 */
export function groupFrames(clip: OpenClip, numbers: readonly number[]): number[][] {
  return groups(clip, numbers, false).map((group) => group.map(({ number }) => number))
}

interface Wanted {
  readonly number: number
  /** The frame decoded for it. */
  readonly decode: number
}

/**
 * Splits what is asked for into runs that one decoder serves without a jump to another key frame.
 */
function groups(clip: OpenClip, numbers: readonly number[], coarse: boolean): Wanted[][] {
  const { order } = clip.presentation
  const found: Wanted[][] = []
  let lastKey = -1
  const step = numbers.length > 1 ? numbers[1]! - numbers[0]! : 0
  for (const number of numbers) {
    const key = keyBefore(clip, order[number]!)
    const keyNumber = order.indexOf(key)
    const near = coarse && keyNumber >= 0 && number - keyNumber < step
    const wanted = { number, decode: near ? keyNumber : number }
    const current = found[found.length - 1]
    if (current && key === lastKey && wanted.decode > current[current.length - 1]!.decode)
      current.push(wanted)
    else found.push([wanted])
    lastKey = key
  }
  return found
}
