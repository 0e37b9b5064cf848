import { useRef, useState, type KeyboardEvent, type PointerEvent } from 'react'
import type { FootageDocument } from '../FootageDocument'
import { snapCut, type Cut } from '../../../../core/loop/framePlan'
import { frameAt } from '../../../../core/media/presentation'
import type { ClipIndex, useScrubber } from '../../../clip/useClipFrames'
import { useBackdrop } from '../../../state/backdropStore'
import { useStage } from '../../../state/stageStore'
import { panView, revealMoment, snapTo, type SnapPoint, type View } from './view'

/** What a handle moves: an end of the cut, the whole cut, or the overlap of its seam. */
export type Part = 'start' | 'end' | 'both' | 'overlap'

export interface CutHandleProps {
  readonly document: FootageDocument
  readonly index: ClipIndex
  readonly view: View
  readonly width: number
  readonly points: readonly SnapPoint[]
  readonly scrubber: ReturnType<typeof useScrubber>
  readonly onView: (change: (view: View) => View) => void
}

/**
 * The handles of the cut: `handle` gives a button what moves a part by pointer and keyboard (one
 * undo step for each movement), `snapped` what it has snapped to.
 */
export function useCutHandles({
  document,
  index,
  view,
  width,
  points,
  scrubber,
  onView,
}: CutHandleProps) {
  const gesture = useRef('')
  /** Seconds between the pointer and the part that it holds. */
  const grip = useRef(0)
  const [snapped, setSnapped] = useState<{ part: Part; label: string } | null>(null)
  const moveTo = useMovePart(document, index, scrubber, gesture)
  const boundaries = [...index.times, index.length]
  const numberAt = (seconds: number): number =>
    frameAt({ times: boundaries }, seconds * index.timescale + 1e-6)
  const start = document.base.timing.cut.start / document.base.timing.cut.timescale
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
  const release = (part: Part) => (): void => {
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
    onPointerUp: release(part),
    onPointerCancel: release(part),
    onFocus: () => {
      gesture.current = crypto.randomUUID()
      onView((now) => revealMoment(now, seconds, index))
    },
    onBlur: release(part),
    onKeyDown: step(part, seconds),
  })
  return { handle, numberAt, snapped }
}

/** Moves a part of the cut to a moment of the clip, in seconds, and shows the frame there. */
function useMovePart(
  document: FootageDocument,
  index: ClipIndex,
  scrubber: CutHandleProps['scrubber'],
  gesture: { readonly current: string },
): (part: Part, seconds: number) => void {
  const dispatch = useBackdrop((state) => state.dispatch)
  const { cut, speed } = document.base.timing
  const setCut = (next: Cut, part: Part): void => {
    const laid = snapCut(next, { ...index, order: [] }, part === 'overlap' ? 'both' : part)
    dispatch({ type: 'timing/cut', cut: laid }, gesture.current)
    // The last frame shown is just before the end.
    const shown =
      part === 'end' ? Math.max(0, frameAt(index, laid.end - 1)) : frameAt(index, laid.start)
    scrubber.show(shown)
    useStage.getState().set({ parkedTicks: index.times[shown]! })
  }
  return (part, seconds) => {
    const ticks = seconds * cut.timescale
    if (part === 'overlap') {
      const wanted = Math.max(
        0.04,
        Math.round(((seconds - cut.start / cut.timescale) / speed) * 1000) / 1000,
      )
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
}
