import type { Moment, PlannedFrame } from '../../../core/loop/framePlan'
import { i420Bytes } from '../../../core/picture/I420'
import { mixI420 } from '../../../core/picture/mixI420'
import { decodeFrames } from '../decode/decodeFrames'
import type { OpenClip } from '../decode/OpenClip'
import { WorkError } from '../WorkError'
import { frameComposer, type ComposeFrame, type ComposeOrder, type Composed } from './composeFrame'

/** What a run of frames that is shown backwards may hold at once: decoders only go forward. */
const MAX_HELD_BYTES = 96 * 1024 * 1024

/** An output frame with what it was mixed from. */
export interface ComposedFrame extends Composed {
  /** What `show` and `under` of the plan are by themselves; `under` is null where there is none. */
  readonly show: Composed
  readonly under: Composed | null
}

/**
 * Composes planned frames in order: blends of a seam, of slow motion, both, or plain ones. Each
 * lane of the plan has a decoder of its own that reads forward; a lane that runs backward is read
 * run by run. At most a few pictures are in memory, except during such a run. Errors: those of
 * decoding.
 */
export async function* composedFrames(
  clip: OpenClip,
  order: ComposeOrder,
  plan: readonly PlannedFrame[],
  signal: AbortSignal,
): AsyncGenerator<ComposedFrame> {
  const shows = lane(
    clip,
    order,
    plan.map(({ show }) => show),
    signal,
  )
  const unders = lane(
    clip,
    order,
    plan.flatMap(({ under }) => under ?? []),
    signal,
  )
  try {
    for (const { under: below, weight } of plan) {
      const show = await next(shows)
      const under = below ? await next(unders) : null
      yield {
        ...show,
        picture: under ? mixI420(under.picture, show.picture, weight) : show.picture,
        show,
        under,
      }
    }
  } finally {
    await shows.return(undefined)
    await unders.return(undefined)
  }
}

async function next(lane: AsyncGenerator<Composed>): Promise<Composed> {
  const { value, done } = await lane.next()
  // A damaged tail ends decoding early: a loop with a hole in it must not be delivered.
  if (done) throw new WorkError('work/decode-failed')
  return value as Composed
}

/** One composed picture for each moment, in order. */
async function* lane(
  clip: OpenClip,
  order: ComposeOrder,
  moments: readonly Moment[],
  signal: AbortSignal,
): AsyncGenerator<Composed> {
  const max = Math.max(4, Math.floor(MAX_HELD_BYTES / i420Bytes(order.width, order.height)))
  const compose = frameComposer(clip.file.video, order)
  for (const run of runsOf(moments, max)) {
    if (run.backward) yield* backward(clip, compose, run.moments, signal)
    else yield* forward(clip, compose, run.moments, signal)
  }
}

interface Run {
  readonly backward: boolean
  readonly moments: Moment[]
}

/**
 * Splits moments where their direction turns; runs that go backward are at most `most` frames long.
 */
function runsOf(moments: readonly Moment[], max: number): Run[] {
  const runs: Run[] = []
  for (const moment of moments) {
    const run = runs[runs.length - 1]
    const last = run?.moments[run.moments.length - 1]
    const backward = last !== undefined && moment.frame < last.frame
    if (
      !run ||
      !last ||
      (backward !== run.backward && run.moments.length > 1) ||
      (run.backward && run.moments.length >= max)
    )
      runs.push({ backward, moments: [moment] })
    else {
      run.moments.push(moment)
      if (run.moments.length === 2) runs[runs.length - 1] = { backward, moments: run.moments }
    }
  }
  return runs
}

/** The frames that moments show, in order, each once. */
function framesOf(moments: readonly Moment[]): number[] {
  return [...new Set(moments.flatMap(({ frame, next: after }) => [frame, after]))].sort(
    (a, b) => a - b,
  )
}

function mixMoment(moment: Moment, frame: Composed, after: Composed): Composed {
  return moment.share === 0
    ? frame
    : { ...frame, picture: mixI420(frame.picture, after.picture, moment.share) }
}

/**
 * Decodes what moments show and composes it into `held`; gives control back after each frame of the
 * clip.
 */
async function* composing(
  clip: OpenClip,
  compose: ComposeFrame,
  moments: readonly Moment[],
  held: Map<number, Composed>,
  signal: AbortSignal,
): AsyncGenerator<void> {
  const wanted = framesOf(moments)
  const wants = new Set(wanted)
  const last = wanted[wanted.length - 1]!
  for await (const { number, frame } of decodeFrames(clip, wanted[0]!, last, signal)) {
    try {
      if (wants.has(number)) held.set(number, await compose(frame))
    } finally {
      frame.close()
    }
    yield
  }
}

/** What a moment shows, of the frames that are held; null while one of them is not there. */
function shownOf(moment: Moment, held: ReadonlyMap<number, Composed>): Composed | null {
  const [one, other] = [held.get(moment.frame), held.get(moment.next)]
  return one && other ? mixMoment(moment, one, other) : null
}

async function* forward(
  clip: OpenClip,
  compose: ComposeFrame,
  moments: readonly Moment[],
  signal: AbortSignal,
): AsyncGenerator<Composed> {
  const held = new Map<number, Composed>()
  let due = 0
  for await (const _ of composing(clip, compose, moments, held, signal)) {
    for (; due < moments.length; due++) {
      const shown = shownOf(moments[due]!, held)
      if (!shown) break
      yield shown
    }
    const min = moments[due]?.frame ?? Infinity
    for (const each of held.keys()) if (each < min) held.delete(each)
  }
}

async function* backward(
  clip: OpenClip,
  compose: ComposeFrame,
  moments: readonly Moment[],
  signal: AbortSignal,
): AsyncGenerator<Composed> {
  const held = new Map<number, Composed>()
  for await (const _ of composing(clip, compose, moments, held, signal));
  for (const moment of moments) {
    const shown = shownOf(moment, held)
    if (!shown) return
    yield shown
  }
}
