import type { I420 } from '../../../core/picture/I420'
import { i420Scaler } from '../../../core/picture/scaleI420'
import { TemporalFilter } from '../../../core/picture/TemporalFilter'
import type { FrameWitness, OpenSequence, OutputOrder } from '../sequences/OpenSequence'
import type { ComposedFrame } from './composedFrames'
import { frameOf, type Composed } from './composeFrame'

/**
 * Frames that the filter of grain sees before the first: a loop's first frame is then as clean as
 * its last.
 */
const FILTER_LEAD = 8

/** The numbers of all frames of a sequence. */
export function allFrames({ sequence }: Pick<OpenSequence, 'sequence'>): number[] {
  return Array.from({ length: sequence.frames }, (_, number) => number)
}

/**
 * Frames of a sequence by their numbers, in order, each with its time, ready for an encoder. The
 * first `lead` frames come twice, first at times before frame 0; the frames at the loop's end would
 * have to be decoded from their key frame, often the whole clip. Errors: those of decoding.
 */
export async function* outputFrames(
  open: OpenSequence,
  order: OutputOrder,
  numbers: readonly number[],
  lead: number,
  witness: FrameWitness | null,
  signal: AbortSignal,
): AsyncGenerator<VideoFrame> {
  const { num, den } = open.sequence.frameRate
  const at = (k: number): number => Math.round(((k + lead) * den * 1e6) / num)
  if (order.noiseReduction > 0) {
    yield* cleanedFrames(open, order, numbers, lead, at, witness, signal)
    return
  }
  if (lead > 0) yield* open.output(numbers.slice(0, lead), order, (k) => at(k - lead), null, signal)
  yield* open.output(numbers, order, at, witness, signal)
}

/** Frames without their grain, composed at the size that is delivered. */
async function* cleanedFrames(
  open: OpenSequence,
  order: OutputOrder,
  numbers: readonly number[],
  lead: number,
  at: (k: number) => number,
  witness: FrameWitness | null,
  signal: AbortSignal,
): AsyncGenerator<VideoFrame> {
  for await (const { k, cleaned, parts } of cleanedPictures(open, order, numbers, lead, signal)) {
    if (k >= 0 && witness?.wants(k)) await witness.see(k, () => Promise.resolve(cleaned.picture))
    if (k >= 0) witness?.seeParts?.(k, parts)
    yield frameOf(cleaned, at(k), at(k + 1) - at(k))
  }
}

/** A composed frame, without its grain where that is taken out. */
interface CleanedPicture {
  /** Its place in the list of numbers; negative for frames before the first. */
  readonly k: number
  readonly cleaned: Composed
  /** What it was mixed from. */
  readonly parts: ComposedFrame
}

/**
 * Composed frames of a sequence by their numbers, in order, without grain where the order takes it
 * out; `lead` frames of the list's end come before the first. Errors: those of decoding.
 */
export async function* cleanedPictures(
  open: OpenSequence,
  order: OutputOrder,
  numbers: readonly number[],
  lead: number,
  signal: AbortSignal,
): AsyncGenerator<CleanedPicture> {
  const filter = order.noiseReduction > 0 ? new TemporalFilter(order.noiseReduction) : null
  // A part of a loop has nothing before it that leads into it.
  const whole = open.sequence.loops && numbers.length === open.sequence.frames
  const before = Math.min(numbers.length, Math.max(lead, whole && filter ? FILTER_LEAD : 0))
  let k = -before
  for (const part of [numbers.slice(numbers.length - before), numbers]) {
    for await (const parts of open.composed(part, order, signal)) {
      const cleaned = filter ? { ...parts, picture: filter.next(parts.picture) } : parts
      if (k >= -lead) yield { k, cleaned, parts }
      k += 1
    }
  }
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
