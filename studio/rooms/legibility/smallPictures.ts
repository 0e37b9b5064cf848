import type { ShownPicture } from '../../../core/legibility/pictureCost'
import type { ScreenName } from '../../../core/fit/screens'
import { renditionSize } from '../../../core/weight/renditionSize'
import { frameWorker } from '../../state/frameWorker'
import type { ContrastOrder } from '../../worker/contrast/ContrastOrder'

/** Pixels of a picture's width, and how many of a loop are looked at. */
const WIDTH = 192
const FRAMES = 8

/** A small picture of what a screen shows. */
export interface ScreenPicture extends ShownPicture {
  readonly screen: ScreenName
}

/** Small pictures of what all screens show, spread over the loop. Errors: those of decoding. */
export async function smallPictures(
  { bases, screens }: ContrastOrder,
  signal: AbortSignal,
): Promise<ScreenPicture[]> {
  const drawn = await Promise.all(
    bases.map(async ({ sequence, places, copyBlur }) => {
      const count = Math.min(FRAMES, sequence.frames)
      const numbers = Array.from({ length: count }, (_, index) =>
        Math.floor(((index + 0.5) * sequence.frames) / count),
      )
      const size = renditionSize(sequence.size, WIDTH)
      const data: Uint8ClampedArray[] = []
      await frameWorker().run(
        { type: 'output', sequence, places, numbers, copyBlur, ...size },
        { signal, onStep: ({ picture }) => void data.push(pixelsOf(picture)) },
      )
      return { size, data }
    }),
  )
  return screens.flatMap(({ name, base, layout: { region }, focal, isStill }) => {
    const { size, data } = drawn[base]!
    const seen = isStill ? data.slice(0, 1) : data
    return seen.map((pixels) => ({ screen: name, data: pixels, size, region, focal }))
  })
}

function pixelsOf(picture: ImageBitmap): Uint8ClampedArray {
  const { width, height } = picture
  const context = new OffscreenCanvas(width, height).getContext('2d')!
  context.drawImage(picture, 0, 0)
  picture.close()
  return context.getImageData(0, 0, width, height).data
}
