import {
  findLoops,
  isSameLoop,
  refineLoop,
  type DescribedFrame,
  type LoopCandidate,
  type LoopRange,
} from '../../../core/loop/findLoops'
import {
  decodeTrace,
  encodeTrace,
  TraceBuilder,
  type FrameTrace,
} from '../../../core/loop/FrameTrace'
import { frameAt } from '../../../core/media/presentation'
import type { Oklab } from '../../../core/picture/convertSrgbToOklab'
import { describeTwice } from '../../../core/picture/describeCells'
import {
  CELLS_ACROSS,
  CELLS_DOWN,
  descriptionDistance,
  describeI420,
} from '../../../core/picture/describeI420'
import { seamRatio } from '../../../core/picture/frameDifference'
import { rotateI420 } from '../../../core/picture/rotateI420'
import { kindOfFrame, planesOfFrame } from '../compose/composeFrame'
import { decodeFrames } from '../decode/decodeFrames'
import { drawUpright } from '../decode/drawUpright'
import type { OpenClip } from '../decode/OpenClip'
import { groupFrames } from '../decode/readFrames'
import { WorkError } from '../WorkError'

/**
 * Candidates of the coarse search that are refined, and how far their ends may move, in seconds.
 * Source: docs/method.md (seam).
 */
const LOOKED_AT = 6
const REACH_SECONDS = 0.3
/** The close look has 96 × 54 cells. */
const FINENESS = 3
/**
 * Seconds before and after the loop point in the small looping picture, and its width in pixels.
 */
const SHOWN_SECONDS = 0.4
const PICTURE_WIDTH = 176
/**
 * A loop's figure is of its own rate; what is kept of a trace's search in memory grows with the
 * clip's length only.
 */
const REPORT_EVERY = 16

/** Progress of a search: the present step, and the share of it that is done. */
export interface SearchProgress {
  readonly phase: 'describing' | 'comparing' | 'refining'
  readonly done: number
}

/** A loop that was found: `[start, end)` in ticks of the clip. */
export interface FoundLoop {
  readonly startTicks: number
  readonly endTicks: number
  readonly seconds: number
  /**
   * Its seam figure, measured on the frames around the loop point; null if almost nothing moves.
   */
  readonly ratio: number | null
  readonly deltaE: number
  /**
   * The frames around the loop point in playing order: the last before it, then the first after it.
   */
  readonly pictures: readonly ImageBitmap[]
}

/** What a search gives: loops, best first, and the clip's trace for the next one. */
export interface FoundLoops {
  readonly loops: readonly FoundLoop[]
  readonly trace: Uint8Array<ArrayBuffer>
  /** Moments that the trace describes. */
  readonly moments: number
}

/** Describes a clip for the search by decoding it once. Errors: those of decoding. */
async function traceClip(
  clip: OpenClip,
  onProgress: (done: number) => void,
  signal: AbortSignal,
): Promise<FrameTrace> {
  const { presentation, file } = clip
  const builder = new TraceBuilder(presentation.length / presentation.timescale)
  const last = presentation.order.length - 1
  for await (const { number, frame } of decodeFrames(clip, 0, last, signal)) {
    try {
      const seconds = presentation.times[number]! / presentation.timescale
      if (builder.wants(seconds))
        builder.add(seconds, describeI420(await planesOfFrame(frame, file.video)))
    } finally {
      frame.close()
    }
    if (number % REPORT_EVERY === 0) onProgress(number / Math.max(1, last))
  }
  return builder.finish()
}

/**
 * Searches a clip for loops. `known` is its trace from an earlier search or from its measuring.
 * Errors: those of decoding, `work/cancelled`.
 */
export async function findLoopsInClip(
  clip: OpenClip,
  known: Uint8Array | null,
  range: LoopRange,
  count: number,
  onProgress: (progress: SearchProgress) => void,
  signal: AbortSignal,
): Promise<FoundLoops> {
  const trace = known
    ? decodeTrace(known)
    : await traceClip(clip, (done) => onProgress({ phase: 'describing', done }), signal)
  const candidates = findLoops(trace, range, LOOKED_AT, (done) => {
    if (signal.aborted) throw new WorkError('work/cancelled')
    onProgress({ phase: 'comparing', done })
  })
  const near = await lookClosely(
    clip,
    candidates,
    (done) => onProgress({ phase: 'refining', done }),
    signal,
  )
  const loops = candidates
    .flatMap((candidate) => refined(clip, candidate, near, range) ?? [])
    .sort((a, b) => rank(a) - rank(b))
  const distinct = loops.filter(
    (loop, index) =>
      !loops
        .slice(0, index)
        .some((better) => isSameLoop(inSeconds(clip, loop), inSeconds(clip, better))),
  )
  const kept = distinct.slice(0, count)
  // Pictures of loops that are not offered are not needed any more.
  const used = new Set(kept.flatMap((loop) => loop.pictures))
  for (const { picture } of near.values()) if (!used.has(picture)) picture.close()
  return { loops: kept, trace: encodeTrace(trace), moments: trace.seconds.length }
}

const rank = ({ ratio, deltaE }: FoundLoop): number => ratio ?? deltaE / 100

function inSeconds(
  clip: OpenClip,
  { startTicks, endTicks }: FoundLoop,
): { start: number; end: number } {
  return {
    start: startTicks / clip.presentation.timescale,
    end: endTicks / clip.presentation.timescale,
  }
}

/** What is kept of a frame near an end of a candidate. */
interface NearFrame {
  readonly fine: readonly Oklab[]
  readonly coarse: readonly Oklab[]
  readonly picture: ImageBitmap
}

/** Decodes the frames around the ends of all candidates in one go, in order. */
async function lookClosely(
  clip: OpenClip,
  candidates: readonly LoopCandidate[],
  onProgress: (done: number) => void,
  signal: AbortSignal,
): Promise<Map<number, NearFrame>> {
  const wanted = [
    ...new Set(
      candidates.flatMap(({ start, end }) => [
        ...framesAround(clip, start, REACH_SECONDS, SHOWN_SECONDS),
        ...framesAround(clip, end, SHOWN_SECONDS, REACH_SECONDS),
      ]),
    ),
  ].sort((a, b) => a - b)
  const near = new Map<number, NearFrame>()
  const { video } = clip.file
  const height = Math.max(2, Math.round((PICTURE_WIDTH * video.displayHeight) / video.displayWidth))
  const wants = new Set(wanted)
  for (const group of groupFrames(clip, wanted)) {
    for await (const { number, frame } of decodeFrames(
      clip,
      group[0]!,
      group[group.length - 1]!,
      signal,
    )) {
      try {
        if (!wants.has(number)) continue
        const picture = rotateI420(await planesOfFrame(frame, video), video.rotationDeg)
        near.set(number, {
          ...describeTwice(picture, kindOfFrame(frame), CELLS_ACROSS, CELLS_DOWN, FINENESS),
          picture: drawUpright(frame, video, PICTURE_WIDTH, height).transferToImageBitmap(),
        })
        onProgress(near.size / wanted.length)
      } finally {
        frame.close()
      }
    }
  }
  return near
}

function framesAround(
  { presentation }: OpenClip,
  seconds: number,
  before: number,
  after: number,
): number[] {
  const at = (moment: number): number =>
    frameAt(presentation, moment * presentation.timescale + 1e-6)
  const [first, last] = [
    Math.max(0, at(seconds - before) - 1),
    Math.min(presentation.order.length - 1, at(seconds + after) + 1),
  ]
  return Array.from({ length: last - first + 1 }, (_, index) => first + index)
}

function refined(
  clip: OpenClip,
  candidate: LoopCandidate,
  near: ReadonlyMap<number, NearFrame>,
  range: LoopRange,
): FoundLoop | null {
  const { presentation } = clip
  const { times, timescale } = presentation
  const describedAround = (seconds: number): DescribedFrame<readonly Oklab[]>[] =>
    framesAround(clip, seconds, REACH_SECONDS, REACH_SECONDS).flatMap((number) => {
      const held = near.get(number)
      return held ? [{ seconds: times[number]! / timescale, description: held.fine }] : []
    })
  const best = refineLoop(
    describedAround(candidate.start),
    describedAround(candidate.end),
    descriptionDistance,
    range,
  )
  if (!best) return null
  const frameOf = (seconds: number): number => frameAt(presentation, seconds * timescale + 1e-3)
  const [first, behind] = [frameOf(best.start), frameOf(best.end)]
  const last = behind - 1
  const run = (from: number, to: number): number[] =>
    Array.from({ length: Math.max(0, to - from + 1) }, (_, index) => from + index).filter(
      (number) => near.has(number),
    )
  const [before, after] = [
    run(frameOf(best.end - SHOWN_SECONDS), last),
    run(first, frameOf(best.start + SHOWN_SECONDS)),
  ]
  const steps = [before, after].flatMap((numbers) =>
    numbers
      .slice(1)
      .map((number, index) =>
        descriptionDistance(near.get(numbers[index]!)!.coarse, near.get(number)!.coarse),
      ),
  )
  if (!near.has(last) || !near.has(first) || steps.length === 0) return null
  const deltaE = descriptionDistance(near.get(last)!.coarse, near.get(first)!.coarse)
  const ratio = seamRatio(deltaE, steps)
  return {
    startTicks: times[first]!,
    endTicks: times[behind]!,
    seconds: (times[behind]! - times[first]!) / timescale,
    ratio: ratio === null ? null : Math.round(ratio * 100) / 100,
    deltaE: Math.round(deltaE * 100) / 100,
    pictures: [...before, ...after].map((number) => near.get(number)!.picture),
  }
}
