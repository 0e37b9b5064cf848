import { deinterlaceI420 } from '../../../core/picture/deinterlaceI420'
import { yuvFromRgb } from '../../../core/picture/describeCells'
import { flattenI420 } from '../../../core/picture/flattenI420'
import type { I420 } from '../../../core/picture/I420'
import { parseHex } from '../../../core/picture/srgb'
import { kindOfFrame, planesOfFrame } from '../compose/composeFrame'
import { WorkError } from '../WorkError'
import type { DecodedFrame } from './DecodedFrame'
import { decodePictures } from './decodePictures'
import { decodeVideo } from './decodeVideo'
import type { OpenClip } from './OpenClip'

/**
 * Decodes the shown frames `first` to `last` (numbers in order of presentation) with back-pressure:
 * only a few frames exist at a time, for clips of any length. Every number comes, in order: in
 * place of frames that cannot be decoded the last good one is repeated (before the first good one,
 * that one), and their numbers are added to `clip.missing`. Errors: `work/decode-failed` where no
 * frame can be decoded; `work/stalled`, `work/cancelled`.
 */
export async function* decodeFrames(
  clip: OpenClip,
  first: number,
  last: number,
  signal: AbortSignal,
): AsyncGenerator<DecodedFrame> {
  if (!clip.config) yield* decodePictures(clip, first, last, signal)
  else if (isInterlaced(clip)) yield* deinterlacedFrames(clip, first, last, signal)
  else if (clip.alpha) yield* flattenedFrames(clip, clip.alpha, first, last, signal)
  else yield* everyFrame(clip, first, last, signal)
}

/** Whether a clip's frames are two fields each; Telon makes one moment of them. */
export function isInterlaced({ file }: Pick<OpenClip, 'file'>): boolean {
  return file.video.codec.stream?.interlaced === true
}

/** Deinterlaced frames; each needs the one before it, so one more is decoded. */
async function* deinterlacedFrames(
  clip: OpenClip,
  first: number,
  last: number,
  signal: AbortSignal,
): AsyncGenerator<DecodedFrame> {
  let previous: I420 | null = null
  for await (const { number, frame } of everyFrame(clip, Math.max(0, first - 1), last, signal)) {
    try {
      const picture: I420 = await planesOfFrame(frame, clip.file.video)
      if (number >= first) {
        const whole = deinterlaceI420(picture, previous)
        yield { number, frame: frameOfPlanes(whole, frame) }
      }
      previous = picture
    } finally {
      frame.close()
    }
  }
}

/** Frames on the clip's matte. */
async function* flattenedFrames(
  clip: OpenClip,
  alpha: OpenClip,
  first: number,
  last: number,
  signal: AbortSignal,
): AsyncGenerator<DecodedFrame> {
  const { r, g, b } = parseHex(clip.matte)
  const opacities = everyFrame(alpha, first, last, signal)
  try {
    for await (const { number, frame } of everyFrame(clip, first, last, signal)) {
      try {
        // Both give every number, in order.
        const { value } = (await opacities.next()) as IteratorResult<DecodedFrame, undefined>
        if (!value) throw new WorkError('work/decode-failed')
        const opacity = await planesOfFrame(value.frame, clip.file.video).finally(() =>
          value.frame.close(),
        )
        const picture = await planesOfFrame(frame, clip.file.video)
        const matte = yuvFromRgb(r, g, b, kindOfFrame(frame))
        yield { number, frame: frameOfPlanes(flattenI420(picture, opacity, matte), frame) }
      } finally {
        frame.close()
      }
    }
  } finally {
    await opacities.return(undefined)
  }
}

/** Planes as a frame with the time and colour of another. */
function frameOfPlanes({ data, width, height }: I420, like: VideoFrame): VideoFrame {
  return new VideoFrame(data, {
    format: 'I420',
    codedWidth: width,
    codedHeight: height,
    timestamp: like.timestamp,
    colorSpace: like.colorSpace,
  })
}

/** `decodeFrames` of a video track, as it is coded. */
async function* everyFrame(
  clip: OpenClip,
  first: number,
  last: number,
  signal: AbortSignal,
): AsyncGenerator<DecodedFrame> {
  let good: VideoFrame | null = null
  let pending: VideoFrame | null = null
  let next = first
  try {
    for await (const { number, frame } of decodeVideo(clip, clip.config!, first, last, signal)) {
      pending = frame
      if (number > next) good ??= await goodBefore(clip, first, signal)
      for (; next < number; next++) {
        clip.missing.add(next)
        yield { number: next, frame: (good ?? frame).clone() }
      }
      good?.close()
      good = frame
      pending = null
      next = number + 1
      yield { number, frame: frame.clone() }
    }
    if (next > last) return
    good ??= (await goodBefore(clip, first, signal)) ?? (await goodAfter(clip, last, signal))
    if (!good) throw new WorkError('work/decode-failed')
    for (; next <= last; next++) {
      clip.missing.add(next)
      yield { number: next, frame: good.clone() }
    }
  } finally {
    good?.close()
    pending?.close()
  }
}

/** The last frame before `number` that can be decoded; null if there is none. */
async function goodBefore(
  clip: OpenClip,
  number: number,
  signal: AbortSignal,
): Promise<VideoFrame | null> {
  // Damage is mostly short: the range grows only as far as it must.
  for (let span = 16, end = number; end > 0; span *= 4) {
    const from = Math.max(0, number - span)
    let found: VideoFrame | null = null
    for await (const { frame } of decodeVideo(clip, clip.config!, from, end - 1, signal)) {
      found?.close()
      found = frame
    }
    if (found) return found
    end = from
  }
  return null
}

/** The first frame after `number` that can be decoded; null if there is none. */
async function goodAfter(
  clip: OpenClip,
  number: number,
  signal: AbortSignal,
): Promise<VideoFrame | null> {
  const last = clip.presentation.order.length - 1
  if (number >= last) return null
  for await (const { frame } of decodeVideo(clip, clip.config!, number + 1, last, signal))
    return frame
  return null
}
