import { writeMp4 } from '../../../core/media/isobmff/writeMp4'
import { PLAIN_SHAPE } from '../../../core/picture/pictureShape'
import { maxBitrate } from '../../../core/weight/maxUsefulRate'
import { renditionSize } from '../../../core/weight/renditionSize'
import { frameComposer, frameOf, needsComposing } from '../compose/composeFrame'
import { encodeFrames } from '../encode/encodeFrames'
import { fileSource } from '../sources'
import { decodeFrames } from './decodeFrames'
import { ExactFrames } from './ExactFrames'
import { openClip, type OpenClip } from './OpenClip'

const WIDTH = 640
/** A key frame so often that any frame is at most a few decodes away. */
const KEY_EVERY = 6

/**
 * A small copy of a stretch of a clip with a key frame every few frames, kept in the worker's
 * memory: clips for the web often have seconds between their key frames, and no decoder reaches an
 * exact frame of such a clip while a hand is moving. Frame for frame the same as the clip, at 640
 * pixels.
 */
export interface ScrubProxy {
  readonly first: number
  readonly last: number
  readonly frames: ExactFrames
}

/** Makes the proxy of the frames `first` to `last`. Errors: those of decoding and encoding. */
export async function makeScrubProxy(
  clip: OpenClip,
  first: number,
  last: number,
  onProgress: (done: number) => void,
  signal: AbortSignal,
): Promise<ScrubProxy> {
  const { video } = clip.file
  const size = renditionSize({ width: video.displayWidth, height: video.displayHeight }, WIDTH)
  const count = last - first + 1
  const compose = frameComposer(video, { shape: PLAIN_SHAPE, copyBlur: null, ...size })
  async function* frames(): AsyncGenerator<VideoFrame> {
    let due = first
    for await (const { number, frame } of decodeFrames(clip, first, last, signal)) {
      try {
        // A frame that never came is stood in for by the next one, so that numbers stay in step.
        for (; due <= number; due++) {
          const at = (due - first) * 33_333
          yield needsComposing(frame, video, PLAIN_SHAPE)
            ? frameOf(await compose(frame), at, 33_333)
            : new VideoFrame(frame, { timestamp: at, duration: 33_333 })
        }
      } finally {
        frame.close()
      }
    }
  }
  const frameRate = { num: 30, den: 1 }
  const order = {
    family: 'h264' as const,
    ...size,
    frameRate,
    bitsPerSecond: maxBitrate('h264', size.width, size.height, 30) * 2,
    keyEvery: KEY_EVERY,
  }
  const track = await encodeFrames(order, frames(), (done) => onProgress(done / count), signal)
  const copy = await openClip(fileSource(new Blob([writeMp4(track)])))
  return { first, last: first + track.frames.length - 1, frames: new ExactFrames(copy) }
}
