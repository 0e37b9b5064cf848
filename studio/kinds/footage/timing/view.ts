import { frameAt } from '../../../../core/media/presentation'

/** The part of a clip that the deck shows, in seconds. */
export interface View {
  readonly from: number
  readonly to: number
}

/** The times of a clip's frames, as the deck needs them. */
export interface FrameTimes {
  readonly timescale: number
  readonly times: readonly number[]
  readonly length: number
}

/** The view of a whole clip. */
export function wholeView({ length, timescale }: FrameTimes): View {
  return { from: 0, to: length / timescale }
}

/** Frames that the closest view shows at least: each is then as wide as its picture. */
const MIN_FRAMES = 8

/** Keeps a view inside its clip and not closer than a few frames. */
export function clampView({ from, to }: View, clip: FrameTimes): View {
  const length = clip.length / clip.timescale
  const min = Math.min(length, (MIN_FRAMES * length) / clip.times.length)
  const span = Math.min(length, Math.max(min, to - from))
  const middle = (from + to) / 2
  const start = Math.min(length - span, Math.max(0, to - from < min ? middle - span / 2 : from))
  return { from: start, to: start + span }
}

/**
 * Zooms by `factor` (above 1 comes closer) so that the moment at `share` of the width stays where
 * it is.
 */
export function zoomView(view: View, factor: number, share: number, clip: FrameTimes): View {
  const at = view.from + (view.to - view.from) * share
  const bounded = clampView({ from: 0, to: (view.to - view.from) / factor }, clip)
  const span = bounded.to - bounded.from
  return clampView({ from: at - span * share, to: at + span * (1 - share) }, clip)
}

/** Moves a view by a share of its own width. */
export function panView(view: View, share: number, clip: FrameTimes): View {
  const by = (view.to - view.from) * share
  return clampView({ from: view.from + by, to: view.to + by }, clip)
}

/** The view moved just far enough to show a moment. */
export function revealMoment(view: View, seconds: number, clip: FrameTimes): View {
  const span = view.to - view.from
  if (seconds < view.from)
    return clampView({ from: seconds - span * 0.1, to: seconds + span * 0.9 }, clip)
  if (seconds > view.to)
    return clampView({ from: seconds - span * 0.9, to: seconds + span * 0.1 }, clip)
  return view
}

/** A cell of the filmstrip: the frame it shows, and its position in shares of the width. */
export interface StripCell {
  readonly frame: number
  readonly left: number
  readonly width: number
}

/**
 * The cells of a filmstrip: each covers a power of two of frames, the fewest that leave room for a
 * picture, and starts at a multiple of that, so that the same pictures are used while the view
 * moves.
 */
export function stripCells(
  view: View,
  clip: FrameTimes,
  widthPx: number,
  picturePx: number,
): { readonly step: number; readonly cells: readonly StripCell[] } {
  const seconds = clip.length / clip.timescale
  const framesShown = (clip.times.length * (view.to - view.from)) / seconds
  if (widthPx <= 0 || framesShown <= 0) return { step: 1, cells: [] }
  const framesPerPicture = (framesShown * picturePx) / widthPx
  const step = 2 ** Math.max(0, Math.ceil(Math.log2(framesPerPicture) - 1e-9))
  const first = Math.floor(frameAt(clip, view.from * clip.timescale) / step) * step
  const last = frameAt(clip, Math.max(0, view.to * clip.timescale - 1e-6))
  const share = (ticks: number): number =>
    (ticks / clip.timescale - view.from) / (view.to - view.from)
  const cells: StripCell[] = []
  for (let frame = first; frame <= last; frame += step) {
    const left = share(clip.times[frame]!)
    cells.push({ frame, left, width: share(clip.times[frame + step] ?? clip.length) - left })
  }
  return { step, cells }
}

/** A line of the ruler. */
export interface RulerTick {
  readonly left: number
  /** Null for a small line between. */
  readonly label: string | null
}

const SECOND_STEPS = [0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 30, 60, 120, 300, 600]
const FRAME_STEPS = [1, 2, 5, 10]
const MIN_LABEL_PX = 64
const MIN_TICK_PX = 7

/** The ruler's lines: seconds from afar; from near frame numbers, with the seconds among them. */
export function rulerTicks(view: View, clip: FrameTimes, widthPx: number): RulerTick[] {
  const span = view.to - view.from
  if (widthPx <= 0 || span <= 0) return []
  const pxPerSecond = widthPx / span
  const fps = (clip.times.length * clip.timescale) / clip.length
  const framePx = pxPerSecond / fps
  const left = (seconds: number): number => (seconds - view.from) / span
  if (framePx >= MIN_TICK_PX) {
    const each = FRAME_STEPS.find((step) => step * framePx >= MIN_LABEL_PX) ?? 20
    const [first, last] = [
      frameAt(clip, view.from * clip.timescale),
      frameAt(clip, view.to * clip.timescale),
    ]
    return Array.from({ length: last - first + 1 }, (_, index) => {
      const frame = first + index
      const seconds = clip.times[frame]! / clip.timescale
      return {
        left: left(seconds),
        label: frame % each === 0 ? `${frame}f · ${seconds.toFixed(2)} s` : null,
      }
    }).filter((tick) => tick.left >= -0.001)
  }
  const step = SECOND_STEPS.find((each) => each * pxPerSecond >= MIN_LABEL_PX) ?? 1200
  const small = step / 5
  const count = Math.floor(view.to / small) - Math.ceil(view.from / small) + 1
  return Array.from({ length: Math.max(0, count) }, (_, index) => {
    const line = Math.ceil(view.from / small) + index
    const seconds = line * small
    return { left: left(seconds), label: line % 5 === 0 ? `${Number(seconds.toFixed(2))} s` : null }
  })
}

/** A moment that the hand is drawn to, and what it is. */
export interface SnapPoint {
  readonly seconds: number
  readonly label: string
}

const SNAP_PX = 8

/** The snap point near a moment, as the view shows it; null where none is near enough. */
export function snapTo(
  seconds: number,
  points: readonly SnapPoint[],
  view: View,
  widthPx: number,
): SnapPoint | null {
  const reach = (SNAP_PX * (view.to - view.from)) / Math.max(1, widthPx)
  let best: SnapPoint | null = null
  for (const point of points) {
    const distance = Math.abs(point.seconds - seconds)
    if (distance <= reach && (!best || distance < Math.abs(best.seconds - seconds))) best = point
  }
  return best
}
