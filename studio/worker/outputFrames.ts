import type { ClipRecipe } from '../../core/backdrop/recipe'
import type { PlannedFrame } from '../../core/loop/framePlan'
import type { I420 } from '../../core/picture/I420'
import { PLAIN_SHAPE, regionOf, shapedSize } from '../../core/picture/pictureShape'
import { i420Scaler } from '../../core/picture/scaleI420'
import { TemporalFilter } from '../../core/picture/TemporalFilter'
import {
  composeFrame,
  type ComposeOrder,
  type Composed,
  frameOf,
  needsComposing,
  planesOfFrame,
} from './composeFrame'
import { composedFrames, type ComposedFrame } from './composedFrames'
import { decodeFrames } from './decodeFrames'
import type { OpenClip } from './OpenClip'

/** What decides the pictures of a clip, for any purpose. */
export interface FramesRecipe extends Omit<ClipRecipe, 'kind' | 'goal' | 'family'> {
  /**
   * Whether frames must come at the size that is delivered: an encoder that scales them itself
   * makes a key frame whenever its rate is changed.
   */
  readonly exactSize?: boolean
}

/** Whoever looks at frames on their way to the encoder. */
export interface FrameWitness {
  /** Whether frame `k` is to be seen. */
  wants(k: number): boolean
  /** The picture of frame `k`, at the size that goes to the encoder. */
  see(k: number, picture: () => Promise<I420>): Promise<void>
  /** What a mixed frame was mixed from, where that is known. */
  seeParts?(k: number, frame: ComposedFrame): void
}

/**
 * Frames that the filter of grain sees before the first: a loop's first frame is then as clean as
 * its last.
 */
const FILTER_LEAD = 8

/**
 * Planned frames of a loop in order, each with its time, ready for an encoder of the recipe's size.
 * If only crop and size change, decoded frames pass unchanged and mixed ones at the clip's own
 * size: the encoder scales both, faster than our own code and in the same way. All others are
 * composed at the delivered size. The first `lead` frames come twice, first at times before frame
 * 0; the frames at the loop's end would have to be decoded from their key frame, often the whole
 * clip. Errors: those of decoding.
 */
export async function* outputFrames(
  clip: OpenClip,
  recipe: FramesRecipe,
  plan: readonly PlannedFrame[],
  lead: number,
  witness: FrameWitness | null,
  signal: AbortSignal,
): AsyncGenerator<VideoFrame> {
  const { num, den } = recipe.frameRate
  const at = (k: number): number => Math.round(((k + lead) * den * 1e6) / num)
  if (recipe.noiseReduction > 0) {
    yield* cleanedFrames(clip, recipe, plan, lead, at, witness, signal)
    return
  }
  if (lead > 0)
    yield* plannedFrames(clip, recipe, plan.slice(0, lead), (k) => at(k - lead), null, signal)
  yield* plannedFrames(clip, recipe, plan, at, witness, signal)
}

async function* plannedFrames(
  clip: OpenClip,
  recipe: FramesRecipe,
  plan: readonly PlannedFrame[],
  at: (k: number) => number,
  witness: FrameWitness | null,
  signal: AbortSignal,
): AsyncGenerator<VideoFrame> {
  const { rotationDeg, visibleWidth, visibleHeight } = clip.file.video
  const { shape } = recipe
  const own = shapedSize(
    { width: visibleWidth - (visibleWidth % 2), height: visibleHeight - (visibleHeight % 2) },
    shape,
  )
  const scaled = own.width !== recipe.width || own.height !== recipe.height
  const passes =
    shape.quarterTurns === 0 &&
    !shape.mirrored &&
    rotationDeg === 0 &&
    recipe.seam.kind !== 'ping-pong' &&
    !recipe.soften &&
    !(scaled && recipe.exactSize)
  let k = 0
  for (const run of passes ? runsByMixing(plan) : [{ mixed: true, frames: plan }]) {
    if (run.mixed)
      yield* mixedFrames(
        clip,
        passes ? { shape, ...own, soften: null } : recipe,
        run.frames,
        k,
        at,
        witness,
        signal,
      )
    else
      yield* passedFrames(
        clip,
        recipe,
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
  let k = first
  for await (const composed of composedFrames(clip, order, plan, signal)) {
    if (witness?.wants(k)) await witness.see(k, () => Promise.resolve(composed.picture))
    witness?.seeParts?.(k, composed)
    yield frameOf(composed, at(k), at(k + 1) - at(k))
    k += 1
  }
}

/** Frames without their grain, composed at the size that is delivered. */
async function* cleanedFrames(
  clip: OpenClip,
  recipe: FramesRecipe,
  plan: readonly PlannedFrame[],
  lead: number,
  at: (k: number) => number,
  witness: FrameWitness | null,
  signal: AbortSignal,
): AsyncGenerator<VideoFrame> {
  const before = Math.min(plan.length, Math.max(lead, recipe.loops ? FILTER_LEAD : 0))
  const filter = new TemporalFilter(recipe.noiseReduction)
  let k = -before
  for (const part of [plan.slice(plan.length - before), plan]) {
    for await (const composed of composedFrames(clip, recipe, part, signal)) {
      const cleaned: Composed = { ...composed, picture: filter.next(composed.picture) }
      if (k >= 0 && witness?.wants(k)) await witness.see(k, () => Promise.resolve(cleaned.picture))
      if (k >= 0) witness?.seeParts?.(k, composed)
      if (k >= -lead) yield frameOf(cleaned, at(k), at(k + 1) - at(k))
      k += 1
    }
  }
}

/**
 * Frames that are only cropped and scaled, the first of them number `first` of the loop. A source
 * frame that is shown several times is decoded once.
 */
async function* passedFrames(
  clip: OpenClip,
  recipe: FramesRecipe,
  numbers: readonly number[],
  first: number,
  at: (k: number) => number,
  witness: FrameWitness | null,
  signal: AbortSignal,
): AsyncGenerator<VideoFrame> {
  const track = clip.file.video
  let due = 0
  for await (const { number, frame } of decodeFrames(
    clip,
    numbers[0]!,
    numbers[numbers.length - 1]!,
    signal,
  )) {
    const shown =
      due < numbers.length && numbers[due]! <= number ? cropped(frame, track, recipe) : null
    try {
      for (; due < numbers.length && numbers[due]! <= number; due++) {
        const k = first + due
        const duration = at(k + 1) - at(k)
        const composed = shown ? null : await composeFrame(frame, track, recipe)
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
  { shape }: FramesRecipe,
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

/**
 * Brings pictures of any size to the size that is delivered: weights are worked out once for each
 * size.
 */
export function toSize(width: number, height: number): (picture: I420) => I420 {
  const scalers = new Map<string, (picture: I420) => I420>()
  return (picture) => {
    if (picture.width === width && picture.height === height) return picture
    const key = `${picture.width}x${picture.height}`
    const scale =
      scalers.get(key) ??
      i420Scaler(
        picture,
        { x: 0, y: 0, width: picture.width, height: picture.height },
        width,
        height,
      )
    scalers.set(key, scale)
    return scale(picture)
  }
}

const visiblePlanes = (frame: VideoFrame): Promise<I420> =>
  planesOfFrame(frame, {
    visibleWidth: frame.visibleRect!.width,
    visibleHeight: frame.visibleRect!.height,
  })
