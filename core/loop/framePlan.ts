import { frameAt, type Presentation } from '../media/presentation'
import { toNumber, type Fraction } from './Fraction'

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
export function cutFrames({
  cut,
  speed,
  frameRate,
}: Pick<LoopSettings, 'cut' | 'speed' | 'frameRate'>): number {
  return Math.max(
    1,
    Math.round(((cut.end - cut.start) * frameRate.num) / (cut.timescale * frameRate.den * speed)),
  )
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

/**
 * What the source shows `j` output frames after the start of the cut: the last frame at or before
 * `start + j·s/f`.
 */
export function momentAt(
  settings: LoopSettings,
  presentation: Pick<Presentation, 'times' | 'timescale'>,
  j: number,
): Moment {
  const { cut, speed, frameRate, blendFrames } = settings
  const step = (speed * presentation.timescale * frameRate.den) / frameRate.num
  const ticks = (cut.start * presentation.timescale) / cut.timescale + j * step
  // A millionth of a tick forgives the rounding of the division; it can never reach the next frame.
  const frame = frameAt(presentation, ticks + 1e-6)
  const whole: Moment = { frame, next: frame, share: 0 }
  const [at, after] = [presentation.times[frame]!, presentation.times[frame + 1]]
  // Blending only applies where the source has fewer frames than the output.
  if (!blendFrames || after === undefined || after - at <= step * 1.01) return whole
  const share = (ticks - at) / (after - at)
  if (share < MIN_SHARE) return whole
  return share > 1 - MIN_SHARE
    ? { frame: frame + 1, next: frame + 1, share: 0 }
    : { frame, next: frame + 1, share }
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
  const { cut, speed, frameRate, seam } = settings
  const j = seam.kind === 'blended' && overlapFrames(settings) > 0 ? frameCount(settings) : 0
  return cut.start / cut.timescale + (j * speed * frameRate.den) / frameRate.num
}

/** The seconds of the source that the loop shows at `seconds` of its own time. */
export function sourceSeconds(settings: LoopSettings, seconds: number): number {
  const { cut, speed } = settings
  const start = cut.start / cut.timescale
  const length = loopSeconds(settings)
  const within = length > 0 ? ((seconds % length) + length) % length : 0
  const turn = (cutFrames(settings) - 1) / toNumber(settings.frameRate)
  const forward = settings.seam.kind === 'ping-pong' && within > turn ? 2 * turn - within : within
  return start + forward * speed
}

/**
 * When the loop shows a moment of the source, in seconds of the loop; null for moments outside of
 * the cut. The inverse of `sourceSeconds` for the forward part of the loop.
 */
export function loopMoment(settings: LoopSettings, seconds: number): number | null {
  const { cut, speed } = settings
  const [start, end] = [cut.start / cut.timescale, cut.end / cut.timescale]
  if (seconds < start - 1e-6 || seconds >= end - 1e-6) return null
  const at = Math.max(0, (seconds - start) / speed)
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
