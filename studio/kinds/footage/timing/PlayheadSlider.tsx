import type { KeyboardEvent, PointerEvent, RefObject } from 'react'
import { frameAt } from '../../../../core/media/presentation'
import type { ClipIndex } from '../../../clip/useClipFrames'
import { useStage } from '../../../state/stageStore'
import { ZOOM_STEP } from './StripBar'
import type { View } from './view'

interface Props {
  readonly track: RefObject<HTMLDivElement | null>
  readonly index: ClipIndex
  readonly view: View
  /** The source frame at the playhead, and its time in the clip. */
  readonly frame: number
  readonly seconds: number
  /** Of the cut, in seconds. */
  readonly ends: { readonly start: number; readonly end: number }
  /** Parks the playhead on a frame; `isFinal` where no further movement follows at once. */
  readonly onPark: (frame: number, isFinal: boolean) => void
  readonly onRelease: () => void
  readonly onSetEnd: (end: 'start' | 'end') => void
  readonly onResume: () => void
  /** Zooms by a factor around a share of the strip's width. */
  readonly onZoom: (factor: number, share: number) => void
  readonly onShowAll: () => void
}

/** The area of the strip that moves the playhead, by pointer and keyboard. */
export function PlayheadSlider({
  track,
  index,
  view,
  frame,
  seconds,
  ends,
  onPark,
  onRelease,
  onSetEnd,
  onResume,
  onZoom,
  onShowAll,
}: Props) {
  const share = (seconds - view.from) / (view.to - view.from)
  const momentOf = (event: PointerEvent): number => {
    const box = track.current!.getBoundingClientRect()
    return view.from + ((event.clientX - box.left) / box.width) * (view.to - view.from)
  }
  const seek = (event: PointerEvent): void =>
    onPark(frameAt(index, momentOf(event) * index.timescale), false)
  const press = (event: KeyboardEvent): void => {
    const by = { ArrowLeft: -1, ArrowRight: 1, ArrowDown: -1, ArrowUp: 1 }[event.key]
    const acts: Record<string, () => void> = {
      '+': () => onZoom(ZOOM_STEP, share),
      '=': () => onZoom(ZOOM_STEP, share),
      '-': () => onZoom(1 / ZOOM_STEP, share),
      '0': onShowAll,
      '[': () => onSetEnd('start'),
      ']': () => onSetEnd('end'),
      Home: () => onPark(frameAt(index, ends.start * index.timescale + 1e-6), true),
      End: () => onPark(frameAt(index, ends.end * index.timescale - 1), true),
      Escape: onResume,
    }
    const act = by ? () => onPark(frame + by * (event.shiftKey ? 10 : 1), true) : acts[event.key]
    if (!act || event.ctrlKey || event.metaKey) return
    event.preventDefault()
    act()
  }

  return (
    <div
      role="slider"
      tabIndex={0}
      aria-label="Playhead on the clip"
      aria-valuemin={0}
      aria-valuemax={index.times.length - 1}
      aria-valuenow={frame}
      aria-valuetext={`${seconds.toFixed(2)} seconds, frame ${frame}`}
      className="absolute inset-0 cursor-ew-resize"
      onKeyDown={press}
      onPointerDown={(event) => {
        if (event.button !== 0) return
        event.currentTarget.setPointerCapture(event.pointerId)
        seek(event)
      }}
      onPointerMove={(event) =>
        event.currentTarget.hasPointerCapture(event.pointerId) && event.isPrimary && seek(event)
      }
      onPointerUp={() => useStage.getState().scrubbing && onRelease()}
      onPointerCancel={() => useStage.getState().scrubbing && onRelease()}
    />
  )
}
