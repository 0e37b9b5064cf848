import { useRef, useState, type KeyboardEvent, type PointerEvent } from 'react'
import type { BackdropDocument } from '../../../core/backdrop/BackdropDocument'
import { loopOf } from '../../../core/backdrop/recipe'
import { toNumber } from '../../../core/loop/Fraction'
import { overlapFrames, snapCut, type Cut } from '../../../core/loop/framePlan'
import { frameAt } from '../../../core/media/presentation'
import { useBackdrop } from '../../state/backdropStore'
import { useStage } from '../../state/stageStore'
import type { ClipIndex, useScrubber } from '../useClipFrames'
import { panView, revealMoment, snapTo, type SnapPoint, type View } from './view'

type Part = 'start' | 'end' | 'both' | 'overlap'

interface Props {
  readonly document: BackdropDocument
  readonly index: ClipIndex
  readonly view: View
  readonly width: number
  readonly stripTop: number
  readonly stripHeight: number
  readonly points: readonly SnapPoint[]
  readonly scrubber: ReturnType<typeof useScrubber>
  readonly onView: (change: (view: View) => View) => void
}

/**
 * The cut on the strip: what lies outside is dimmed, both ends are handles, its upper edge moves it
 * whole, and a blended seam shows as the two ramps that it is.
 */
export function CutRegion({
  document,
  index,
  view,
  width,
  stripTop,
  stripHeight,
  points,
  scrubber,
  onView,
}: Props) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const gesture = useRef('')
  const grip = useRef(0)
  const [snapped, setSnapped] = useState<{ part: Part; label: string } | null>(null)
  const { cut, speed, frameRate, seam } = document.timing
  const loop = loopOf(document)
  const [start, end] = [cut.start / cut.timescale, cut.end / cut.timescale]
  const overlap = (overlapFrames(loop) / toNumber(frameRate)) * speed
  const clip = { ...index, order: [] }
  const share = (seconds: number): number => (seconds - view.from) / (view.to - view.from)
  const boundaries = [...index.times, index.length]
  const numberAt = (seconds: number): number =>
    frameAt({ times: boundaries }, seconds * index.timescale + 1e-6)

  const setCut = (next: Cut, part: Part): void => {
    const laid = snapCut(next, clip, part === 'overlap' ? 'both' : part)
    dispatch({ type: 'timing/cut', cut: laid }, gesture.current)
    // The last frame shown lies just before the end.
    const shown =
      part === 'end' ? Math.max(0, frameAt(index, laid.end - 1)) : frameAt(index, laid.start)
    scrubber.show(shown)
    useStage.getState().set({ heldTicks: index.times[shown]! })
  }
  const moveTo = (part: Part, seconds: number): void => {
    const ticks = seconds * cut.timescale
    if (part === 'overlap') {
      const wanted = Math.max(0.04, Math.round(((seconds - start) / speed) * 1000) / 1000)
      dispatch(
        { type: 'timing/seam', seam: { overlapSeconds: Math.min(10, wanted) } },
        gesture.current,
      )
    } else if (part === 'both') {
      const length = cut.end - cut.start
      const from = Math.min(
        Math.max(0, ticks),
        (index.length * cut.timescale) / index.timescale - length,
      )
      setCut({ ...cut, start: from, end: from + length }, 'both')
    } else setCut({ ...cut, [part]: ticks }, part)
  }
  const drag =
    (part: Part) =>
    (event: PointerEvent<HTMLButtonElement>): void => {
      if (!event.currentTarget.hasPointerCapture(event.pointerId)) return
      const box = event.currentTarget.parentElement!.getBoundingClientRect()
      const at = (event.clientX - box.left) / box.width
      // At the edge of the view the clip comes along.
      if (at < 0 || at > 1)
        onView((now) => panView(now, Math.max(-0.03, Math.min(0.03, at < 0 ? at : at - 1)), index))
      const seconds = view.from + at * (view.to - view.from) - grip.current
      const found =
        event.altKey || part === 'overlap'
          ? null
          : snapTo(
              seconds,
              points.filter(({ label }) => label !== 'playhead' || part !== 'both'),
              view,
              width,
            )
      setSnapped(found && { part, label: found.label })
      moveTo(part, found?.seconds ?? seconds)
    }
  const step =
    (part: Part, seconds: number) =>
    (event: KeyboardEvent): void => {
      const by = { ArrowLeft: -1, ArrowRight: 1, ArrowDown: -1, ArrowUp: 1 }[event.key]
      if (!by) return
      event.preventDefault()
      event.stopPropagation()
      const next = Math.min(
        boundaries.length - 1,
        Math.max(0, numberAt(seconds) + by * (event.shiftKey ? 10 : 1)),
      )
      moveTo(part, boundaries[next]! / index.timescale)
    }
  const let_go = (part: Part) => (): void => {
    setSnapped(null)
    if (part !== 'overlap') scrubber.end()
  }
  /** What every handle has in common. */
  const handle = (part: Part, seconds: number, label: string, shown: string) => ({
    type: 'button' as const,
    role: 'slider',
    'aria-label': label,
    'aria-orientation': 'horizontal' as const,
    'aria-valuemin': 0,
    'aria-valuemax': index.times.length,
    'aria-valuenow': numberAt(seconds),
    'aria-valuetext': shown,
    onPointerDown: (event: PointerEvent<HTMLButtonElement>) => {
      gesture.current = crypto.randomUUID()
      const box = event.currentTarget.parentElement!.getBoundingClientRect()
      grip.current =
        part === 'both'
          ? view.from + ((event.clientX - box.left) / box.width) * (view.to - view.from) - start
          : 0
      event.currentTarget.setPointerCapture(event.pointerId)
      event.currentTarget.focus({ preventScroll: true })
    },
    onPointerMove: drag(part),
    onPointerUp: let_go(part),
    onPointerCancel: let_go(part),
    onFocus: () => {
      gesture.current = crypto.randomUUID()
      onView((now) => revealMoment(now, seconds, index))
    },
    onBlur: let_go(part),
    onKeyDown: step(part, seconds),
  })
  const percent = (seconds: number): string => `${share(seconds) * 100}%`
  const span = (from: number, to: number): React.CSSProperties => ({
    left: percent(from),
    width: `${Math.max(0, share(to) - share(from)) * 100}%`,
    top: stripTop,
    height: stripHeight,
  })
  const words = (seconds: number): string =>
    `${seconds.toFixed(2)} seconds, frame ${numberAt(seconds)}`
  return (
    <div className="pointer-events-none absolute inset-0">
      <div
        aria-hidden
        className="absolute left-0 bg-paper-deep/75"
        style={{ width: `${Math.max(0, share(start)) * 100}%`, top: stripTop, height: stripHeight }}
      />
      <div
        aria-hidden
        className="absolute right-0 bg-paper-deep/75"
        style={{
          left: `${Math.min(1, Math.max(0, share(end))) * 100}%`,
          top: stripTop,
          height: stripHeight,
        }}
      />
      {overlap > 0 && <Ramp style={span(start, start + overlap)} rising />}
      {overlap > 0 && <Ramp style={span(end - overlap, end)} rising={false} />}
      <div aria-hidden className="absolute border-y-3 border-curtain" style={span(start, end)} />
      <button
        {...handle('both', start, 'Move the cut', `${words(start)} to ${words(end)}`)}
        className="pointer-events-auto absolute h-2.5 cursor-grab touch-none rounded-t bg-curtain/85 active:cursor-grabbing"
        style={{
          left: percent(start),
          width: `${Math.max(0, share(end) - share(start)) * 100}%`,
          top: stripTop - 3,
        }}
      />
      {seam.kind === 'ping-pong' && document.timing.repeat === 'loop' && (
        <span
          aria-hidden
          className="absolute rounded bg-curtain px-1 text-xs text-white"
          style={{
            left: percent(end),
            top: stripTop + stripHeight / 2 - 9,
            transform: 'translateX(-120%)',
          }}
        >
          ↩ and back
        </span>
      )}
      {overlap > 0 && (
        <button
          {...handle(
            'overlap',
            start + overlap,
            'Overlap of the seam',
            `${(overlap / speed).toFixed(2)} seconds`,
          )}
          className="pointer-events-auto absolute z-10 w-3 -translate-x-1/2 cursor-ew-resize touch-none"
          style={{ left: percent(start + overlap), top: stripTop, height: stripHeight }}
        >
          <span className="absolute inset-y-0 left-1/2 w-px -translate-x-1/2 bg-white" />
          <span className="absolute top-1.5 left-1/2 size-2.5 -translate-x-1/2 rotate-45 border border-curtain bg-white" />
        </button>
      )}
      {(
        [
          ['start', start, 'Start of the cut'],
          ['end', end, 'End of the cut'],
        ] as const
      ).map(([part, seconds, label]) => (
        <button
          key={part}
          {...handle(part, seconds, label, words(seconds))}
          className="pointer-events-auto absolute z-10 w-4 -translate-x-1/2 cursor-ew-resize touch-none focus-visible:outline-offset-0"
          style={{ left: percent(seconds), top: stripTop - 4, height: stripHeight + 18 }}
        >
          <span className="absolute inset-y-0 left-1/2 w-[3px] -translate-x-1/2 bg-curtain" />
          <span className="absolute bottom-0 left-1/2 size-3.5 -translate-x-1/2 rounded-full border-2 border-sheet bg-curtain" />
          {snapped?.part === part && (
            <span className="absolute bottom-full left-1/2 -translate-x-1/2 rounded bg-ink px-1.5 text-[0.66rem] whitespace-nowrap text-white">
              {snapped.label}
            </span>
          )}
        </button>
      ))}
    </div>
  )
}

/**
 * How strongly the start shows over the end: rising where it comes in, falling where the end goes
 * out.
 */
function Ramp({ style, rising }: { style: React.CSSProperties; rising: boolean }) {
  return (
    <svg
      aria-hidden
      viewBox="0 0 100 100"
      preserveAspectRatio="none"
      className="absolute"
      style={style}
    >
      <polygon
        points={rising ? '0,100 100,0 100,100' : '0,0 0,100 100,100'}
        className="fill-curtain/35"
      />
      <line
        x1="0"
        y1={rising ? 100 : 0}
        x2="100"
        y2={rising ? 0 : 100}
        vectorEffect="non-scaling-stroke"
        strokeWidth="2"
        className="stroke-white"
      />
    </svg>
  )
}
