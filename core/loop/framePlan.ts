import { toNumber, type Fraction } from '../Fraction'
import { frameGrid, type FrameGrid } from '../media/frameGrid'
import { frameAt, type Presentation } from '../media/presentation'

/** An interval `[start, end)` of a source's presentation time, in ticks of its own timescale. */
export interface Cut {
  readonly timescale: number
  readonly start: number
  readonly end: number
}

/** How the end of a loop meets its start. */
export interface Seam {
  readonly kind: 'straight' | 'blended' | 'ping-pong'
  /** Length of a blended seam, in seconds of the loop; ignored by the other kinds. */
  readonly overlapSeconds: number
}

/** What decides which source frames each output frame shows. */
export interface LoopSettings {
  readonly cut: Cut
  /** 0.25 to 4; above 1 is faster. */
  readonly speed: number
  readonly frameRate: Fraction
  /** The clip's constant rate (`constantRate`); null if it varies, or is not known. */
  readonly sourceRate?: Fraction | null
  readonly seam: Seam
  /** Whether slow motion mixes neighbouring frames instead of repeating one. */
  readonly blendFrames: boolean
}

/**
 * What is seen at a moment of the source: a frame, and with frame blending a share (0 to 1) of the
 * one after it.
 */
export interface Moment {
  readonly frame: number
  readonly next: number
  readonly share: number
}

/** An output frame: `show` with `weight` over `under`; without `under` it is `show` alone. */
export interface PlannedFrame {
  readonly show: Moment
  readonly under: Moment | null
  /** 0 to 1; 1 without `under`. */
  readonly weight: number
}

/**
 * Frames of the cut at the output rate, before the seam removes or adds any: `round((end −
 * start)·f/s)`, at least one. Source: docs/method.md (frames).
 */
export function cutFrames(settings: RateSettings & Pick<LoopSettings, 'cut'>): number {
  const { cut, speed, frameRate, sourceRate } = settings
  const seconds = (cut.end - cut.start) / cut.timescale
  const stride = sourceRate ? wholeStride(settings, toNumber(sourceRate)) : null
  return Math.max(
    1,
    stride === null
      ? Math.round((seconds * frameRate.num) / (frameRate.den * speed))
      : Math.round(Math.round(seconds * toNumber(sourceRate!)) / stride),
  )
}

type RateSettings = Pick<LoopSettings, 'speed' | 'frameRate' | 'sourceRate'>

/** Rates that differ by less are treated as equal: at 24 frames a second 0.2 % is one in 20 s. */
const SAME_RATE = 0.002

/**
 * Source frames per output frame if that is a whole number, or one over a whole number, within
 * `SAME_RATE`: then frames are mapped by number, and none is repeated or left out for the sake of a
 * tiny difference in rates. Null otherwise.
 */
function wholeStride({ speed, frameRate }: RateSettings, sourceFps: number): number | null {
  const stride = (speed * sourceFps) / toNumber(frameRate)
  const whole = stride >= 1 ? Math.round(stride) : 1 / Math.round(1 / stride)
  return Math.abs(stride / whole - 1) <= SAME_RATE ? whole : null
}

/** Seconds of the source from one output frame to the next. */
function strideSeconds(settings: RateSettings): number {
  const { speed, frameRate, sourceRate } = settings
  const stride = sourceRate ? wholeStride(settings, toNumber(sourceRate)) : null
  return stride === null ? speed / toNumber(frameRate) : stride / toNumber(sourceRate!)
}

/**
 * Output frames over which a blended seam runs: less than half of the cut, so that at least its
 * last frame is unmixed; 0 for the other kinds.
 */
export function overlapFrames(settings: Omit<LoopSettings, 'blendFrames'>): number {
  const { seam, frameRate } = settings
  if (seam.kind !== 'blended') return 0
  const max = Math.floor((cutFrames(settings) - 1) / 2)
  return Math.min(max, Math.max(1, Math.round(seam.overlapSeconds * toNumber(frameRate))))
}

/**
 * Number of frames of the loop: the cut's, less the overlap of a blended seam; for ping-pong twice
 * the cut's, with both ends shown once.
 */
export function frameCount(settings: Omit<LoopSettings, 'blendFrames'>): number {
  const frames = cutFrames(settings)
  return settings.seam.kind === 'ping-pong'
    ? Math.max(1, 2 * frames - 2)
    : frames - overlapFrames(settings)
}

/** Length of the loop in seconds: its frames over its rate, so exactly what is delivered. */
export function loopSeconds(settings: Omit<LoopSettings, 'blendFrames'>): number {
  return frameCount(settings) / toNumber(settings.frameRate)
}

/**
 * The weight of the start over the end at `u` (0 to 1) of a blended seam: rises without a jump in
 * speed. Source: docs/method.md (seam).
 */
export function blendWeight(u: number): number {
  return u * u * (3 - 2 * u)
}

/**
 * Mixing shares closer to a whole frame than this are rounded to it: the difference is invisible,
 * and the frame need not be composed.
 */
const MIN_SHARE = 1 / 64

/** A cut that starts this close to a frame's time starts at the frame: times were rounded. */
const START_TOLERANCE = { ticks: 1.01, seconds: 0.002 } as const
/** At a boundary between two frames the earlier one is shown, whatever the rounding. */
const EARLIER = 1e-6

/**
 * What the source shows `j` output frames after the start of the cut: the frame on screen at the
 * middle of the output frame's interval, `start + (j + ½)·s/f`. In the middle the rounding of times
 * does not matter; at the interval's start it decided between two frames. Mixed frames are taken at
 * the interval's start, so that the first one is the cut's first frame. Source: docs/method.md
 * (frames).
 */
export function momentAt(
  settings: LoopSettings,
  presentation: Pick<Presentation, 'times' | 'timescale'>,
  j: number,
): Moment {
  const { cut, blendFrames } = settings
  const { times, timescale } = presentation
  const grid = frameGrid(presentation)
  const last = times.length - 1
  const startTicks = (cut.start * timescale) / cut.timescale
  // Positions are in places of the grid, or in ticks of a clip whose rate varies.
  const places = grid ? grid.places : times
  const stride = grid
    ? strideOn(settings, timescale / grid.period)
    : (settings.speed * timescale) / toNumber(settings.frameRate)
  const start = grid ? placeOf(startTicks, presentation, grid) : startTicks
  const frameOn = (position: number): number => frameAt({ times: places }, position)
  const middle = frameOn(start + (j + 0.5) * stride - EARLIER)
  const whole: Moment = { frame: middle, next: middle, share: 0 }
  if (!blendFrames) return whole
  const position = start + j * stride
  const frame = frameOn(position + EARLIER)
  // Blending only applies where the source has fewer frames than the output.
  if (frame === last || places[frame + 1]! - places[frame]! <= stride * 1.01) return whole
  const share = (position - places[frame]!) / (places[frame + 1]! - places[frame]!)
  if (share < MIN_SHARE) return { frame, next: frame, share: 0 }
  return share > 1 - MIN_SHARE
    ? { frame: frame + 1, next: frame + 1, share: 0 }
    : { frame, next: frame + 1, share }
}

function strideOn(settings: RateSettings, sourceFps: number): number {
  return (
    wholeStride(settings, sourceFps) ?? (settings.speed * sourceFps) / toNumber(settings.frameRate)
  )
}

/** The place of the grid at which a cut starts: never before the first frame. */
function placeOf(
  ticks: number,
  { times, timescale }: Pick<Presentation, 'times' | 'timescale'>,
  { first, period, places }: FrameGrid,
): number {
  const tolerance = Math.min(
    period / 4,
    Math.max(START_TOLERANCE.ticks, START_TOLERANCE.seconds * timescale),
  )
  const frame = frameAt({ times }, ticks + tolerance)
  return Math.abs(times[frame]! - ticks) <= tolerance
    ? places[frame]!
    : Math.max(0, (ticks - first) / period)
}

/**
 * Output frame `k` of the loop. Any whole `k`: adding the loop's length changes nothing. Of a
 * blended seam of `X` frames in a loop of `N`, frame `k < X` shows the cut's frame `k` over its
 * frame `N + k`. Source: docs/method.md (seam).
 */
export function plannedFrame(
  settings: LoopSettings,
  presentation: Pick<Presentation, 'times' | 'timescale'>,
  k: number,
): PlannedFrame {
  const count = frameCount(settings)
  const at = ((k % count) + count) % count
  const alone = (j: number): PlannedFrame => ({
    show: momentAt(settings, presentation, j),
    under: null,
    weight: 1,
  })
  const overlap = overlapFrames(settings)
  if (settings.seam.kind === 'ping-pong') return alone(at < cutFrames(settings) ? at : count - at)
  if (at >= overlap) return alone(at)
  // At weight 0 only `under` is visible; both are named so that the order of frames keeps rising.
  return {
    show: momentAt(settings, presentation, at),
    under: momentAt(settings, presentation, count + at),
    weight: blendWeight(at / overlap),
  }
}

/** Every output frame of the loop in order. */
export function framePlan(
  settings: LoopSettings,
  presentation: Pick<Presentation, 'times' | 'timescale'>,
): PlannedFrame[] {
  return Array.from({ length: frameCount(settings) }, (_, k) =>
    plannedFrame(settings, presentation, k),
  )
}

/**
 * Time of the first output frame in seconds of the source: the cut's start, or the start of the
 * overlap at its end.
 */
export function firstFrameSeconds(settings: LoopSettings): number {
  const { cut, seam } = settings
  const j = seam.kind === 'blended' && overlapFrames(settings) > 0 ? frameCount(settings) : 0
  return cut.start / cut.timescale + j * strideSeconds(settings)
}

/** The seconds of the source that the loop shows at `seconds` of its own time. */
export function sourceSeconds(settings: LoopSettings, seconds: number): number {
  const { cut, frameRate } = settings
  const start = cut.start / cut.timescale
  const length = loopSeconds(settings)
  const within = length > 0 ? ((seconds % length) + length) % length : 0
  const turn = (cutFrames(settings) - 1) / toNumber(settings.frameRate)
  const forward = settings.seam.kind === 'ping-pong' && within > turn ? 2 * turn - within : within
  return start + forward * toNumber(frameRate) * strideSeconds(settings)
}

/**
 * When the loop shows a moment of the source, in seconds of the loop; null for moments outside of
 * the cut. The inverse of `sourceSeconds` for the forward part of the loop.
 */
export function loopMoment(settings: LoopSettings, seconds: number): number | null {
  const { cut, frameRate } = settings
  const [start, end] = [cut.start / cut.timescale, cut.end / cut.timescale]
  if (seconds < start - 1e-6 || seconds >= end - 1e-6) return null
  const at = Math.max(0, (seconds - start) / (toNumber(frameRate) * strideSeconds(settings)))
  const length = loopSeconds(settings)
  // The end of the cut that is blended over is shown at the loop's start.
  return at < length || length <= 0 ? at : at - length
}

/** Minimum length of a cut, in source frames. */
const MIN_FRAMES = 2

/**
 * A cut with both ends on frames of the source, in order, inside `[0, length]`, and at least two
 * frames long. `moved` is the end that was moved: it gives way when the ends meet.
 */
export function snapCut(
  cut: Cut,
  presentation: Presentation,
  moved: 'start' | 'end' | 'both',
): Cut {
  const scale = presentation.timescale / cut.timescale
  const boundaries = [...presentation.times, presentation.length]
  const nearest = (ticks: number): number => {
    const before = frameAt({ times: boundaries }, ticks)
    const after = Math.min(boundaries.length - 1, before + 1)
    return ticks - boundaries[before]! <= boundaries[after]! - ticks ? before : after
  }
  const last = boundaries.length - 1
  let start = Math.min(nearest(cut.start * scale), last)
  let end = nearest(cut.end * scale)
  const min = Math.min(MIN_FRAMES, last)
  if (end - start < min) {
    if (moved === 'start') start = Math.max(0, end - min)
    end = Math.min(last, Math.max(end, start + min))
    start = Math.min(start, end - min)
  }
  return { timescale: presentation.timescale, start: boundaries[start]!, end: boundaries[end]! }
}
