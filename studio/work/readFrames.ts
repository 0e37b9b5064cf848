import type { OpenClip } from './OpenClip'
import { keyBefore } from './OpenClip'
import { decodeFrames } from './decodeFrames'
import { drawUpright } from './renderPoster'

/** A picture of one frame, ready to be drawn. */
export interface FramePicture {
  readonly number: number
  readonly picture: ImageBitmap
}

/** Frames to decode for one picture of a filmstrip before the nearest key frame serves instead. */
const FARTHEST = 60

/**
 * Pictures of the frames asked for, upright, `width` pixels wide, in order. With `coarse`, a frame far behind its
 * key frame is stood in for by that key frame: a filmstrip of a long clip then costs little.
 */
export async function* readFrames(clip: OpenClip, numbers: readonly number[], width: number, coarse: boolean, signal: AbortSignal): AsyncGenerator<FramePicture> {
  const { displayWidth, displayHeight, rotationDeg } = clip.file.video
  const wide = Math.min(width, displayWidth)
  const high = Math.max(1, Math.round((wide * displayHeight) / displayWidth))
  for (const group of groups(clip, numbers, coarse)) {
    const wanted = new Map(group.map((each) => [each.decode, each.number]))
    for await (const { number, frame } of decodeFrames(clip, group[0]!.decode, group[group.length - 1]!.decode, signal)) {
      const asked = wanted.get(number)
      if (asked !== undefined) {
        const canvas = drawUpright(frame, rotationDeg, wide, high)
        frame.close()
        yield { number: asked, picture: canvas.transferToImageBitmap() }
      } else frame.close()
    }
  }
}

interface Wanted {
  readonly number: number
  /** The frame decoded for it. */
  readonly decode: number
}

/** Splits what is asked for into runs that one decoder serves without a jump to another key frame. */
function groups(clip: OpenClip, numbers: readonly number[], coarse: boolean): Wanted[][] {
  const { order } = clip.presentation
  const found: Wanted[][] = []
  let lastKey = -1
  for (const number of numbers) {
    const key = keyBefore(clip, order[number]!)
    const keyNumber = order.indexOf(key)
    const far = coarse && order[number]! - key > FARTHEST && keyNumber >= 0
    const wanted = { number, decode: far ? keyNumber : number }
    const current = found[found.length - 1]
    if (current && key === lastKey && wanted.decode > current[current.length - 1]!.decode) current.push(wanted)
    else found.push([wanted])
    lastKey = key
  }
  return found
}
