import type { FootageSequence } from '../../../core/kinds/footage/footageSequence'
import type { PlannedFrame } from '../../../core/loop/framePlan'
import type { I420 } from '../../../core/picture/I420'
import { PLAIN_SHAPE, regionOf, shapedSize } from '../../../core/picture/pictureShape'
import { composedFrames } from '../compose/composedFrames'
import {
  frameComposer,
  frameOf,
  needsComposing,
  planesOfFrame,
  type ComposeOrder,
} from '../compose/composeFrame'
import { encodedFrames } from '../compose/encodedFrames'
import { decodeFrames } from '../decode/decodeFrames'
import type { OpenClip } from '../decode/OpenClip'
import type { FrameWitness, OutputOrder } from './OpenSequence'

/**
 * Planned frames of footage for an encoder. If only crop and size change, decoded frames pass
 * unchanged and mixed ones at the clip's own size: the encoder scales both, faster than our own
 * code and in the same way. All others are composed at the delivered size.
 */
export async function* footageFrames(
  clip: OpenClip,
  { shape, loop }: Pick<FootageSequence, 'shape' | 'loop'>,
  order: OutputOrder,
  plan: readonly PlannedFrame[],
  at: (k: number) => number,
  witness: FrameWitness | null,
  signal: AbortSignal,
): AsyncGenerator<VideoFrame> {
  const { rotationDeg, visibleWidth, visibleHeight } = clip.file.video
  const own = shapedSize(
    { width: visibleWidth - (visibleWidth % 2), height: visibleHeight - (visibleHeight % 2) },
    shape,
  )
  const scaled = own.width !== order.width || own.height !== order.height
  const passes =
    shape.quarterTurns === 0 &&
    !shape.mirrored &&
    rotationDeg === 0 &&
    loop.seam.kind !== 'ping-pong' &&
    !order.copyBlur &&
    !(scaled && order.exactSize)
  let k = 0
  for (const run of passes ? runsByMixing(plan) : [{ mixed: true, frames: plan }]) {
    if (run.mixed)
      yield* mixedFrames(
        clip,
        passes ? { shape, ...own, copyBlur: null } : { ...order, shape },
        run.frames,
        k,
        at,
        witness,
        signal,
      )
    else
      yield* passedFrames(
        clip,
        { ...order, shape },
        run.frames.map(({ show }) => show.frame),
        k,
        at,
        witness,
        signal,
      )
    k += run.frames.length
  }
}

/** Splits a plan into runs of frames that are mixed from others and of frames that stand alone. */
function runsByMixing(
  plan: readonly PlannedFrame[],
): { readonly mixed: boolean; readonly frames: PlannedFrame[] }[] {
  const runs: { mixed: boolean; frames: PlannedFrame[] }[] = []
  for (const frame of plan) {
    const mixed = frame.under !== null || frame.show.share > 0
    const run = runs[runs.length - 1]
    if (run?.mixed === mixed) run.frames.push(frame)
    else runs.push({ mixed, frames: [frame] })
  }
  return runs
}

/** Composed frames, the first of them number `first` of the loop. */
async function* mixedFrames(
  clip: OpenClip,
  order: ComposeOrder,
  plan: readonly PlannedFrame[],
  first: number,
  at: (k: number) => number,
  witness: FrameWitness | null,
  signal: AbortSignal,
): AsyncGenerator<VideoFrame> {
  yield* encodedFrames(composedFrames(clip, order, plan, signal), at, witness, first)
}

/**
 * Frames that are only cropped and scaled, the first of them number `first` of the loop. A source
 * frame that is shown several times is decoded once.
 */
async function* passedFrames(
  clip: OpenClip,
  order: ComposeOrder,
  numbers: readonly number[],
  first: number,
  at: (k: number) => number,
  witness: FrameWitness | null,
  signal: AbortSignal,
): AsyncGenerator<VideoFrame> {
  const track = clip.file.video
  const compose = frameComposer(track, order)
  let due = 0
  for await (const { number, frame } of decodeFrames(
    clip,
    numbers[0]!,
    numbers[numbers.length - 1]!,
    signal,
  )) {
    const shown =
      due < numbers.length && numbers[due]! <= number ? cropped(frame, track, order) : null
    try {
      for (; due < numbers.length && numbers[due]! <= number; due++) {
        const k = first + due
        const duration = at(k + 1) - at(k)
        const composed = shown ? null : await compose(frame)
        const picture = (): Promise<I420> =>
          composed ? Promise.resolve(composed.picture) : visiblePlanes(shown!)
        if (witness?.wants(k)) await witness.see(k, picture)
        yield composed
          ? frameOf(composed, at(k), duration)
          : new VideoFrame(shown!, { timestamp: at(k), duration })
      }
    } finally {
      shown?.close()
      frame.close()
    }
  }
}

/**
 * A decoded frame with only the part in view that is delivered, sharing its pixels; null where it
 * must be composed.
 */
function cropped(
  frame: VideoFrame,
  track: OpenClip['file']['video'],
  { shape }: ComposeOrder,
): VideoFrame | null {
  if (needsComposing(frame, track, PLAIN_SHAPE)) return null
  if (!shape.crop) return frame.clone()
  // Planar formats only: a browser crops others to whole samples of its own choice.
  if (frame.format !== 'I420' && frame.format !== 'NV12') return null
  const rect = frame.visibleRect!
  const region = regionOf(shape.crop, {
    width: Math.min(rect.width, track.visibleWidth),
    height: Math.min(rect.height, track.visibleHeight),
  })
  const visibleRect = {
    x: rect.x + region.x,
    y: rect.y + region.y,
    width: region.width,
    height: region.height,
  }
  return new VideoFrame(frame, {
    visibleRect,
    displayWidth: region.width,
    displayHeight: region.height,
  })
}

const visiblePlanes = (frame: VideoFrame): Promise<I420> =>
  planesOfFrame(frame, {
    visibleWidth: frame.visibleRect!.width,
    visibleHeight: frame.visibleRect!.height,
  })
