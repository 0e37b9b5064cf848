import { useEffect, useLayoutEffect, useRef, useState, type KeyboardEvent, type PointerEvent } from 'react'
import type { ClipSource } from '../../core/api/wire'
import type { BackdropDocument } from '../../core/backdrop/BackdropDocument'
import { snapCut } from '../../core/loop/framePlan'
import { frameAt } from '../../core/media/presentation'
import { useBackdrop } from '../state/backdropStore'
import { useStage } from '../state/stageStore'
import { useClipIndex, useFilmstrip, useScrubber, type ClipIndex } from './useClipFrames'

const STRIP_HEIGHT = 62

/** The filmstrip of the whole clip with its ruler, and the cut as a region with two handles. */
export function TimingDeck({ document, source }: { document: BackdropDocument; source: ClipSource }) {
  const { index, error } = useClipIndex(source)
  const track = useRef<HTMLDivElement>(null)
  const [width, setWidth] = useState(0)
  useLayoutEffect(() => {
    const observer = new ResizeObserver(() => setWidth(track.current?.clientWidth ?? 0))
    observer.observe(track.current!)
    return () => observer.disconnect()
  }, [])
  const { displayWidth, displayHeight } = source.facts.video
  const cells = Math.round(width / Math.max(24, (STRIP_HEIGHT * displayWidth) / displayHeight))
  const pictures = useFilmstrip(source, index, cells)
  return (
    <div className="px-4 py-2">
      <div className="flex items-baseline justify-between text-xs">
        <span><b className="font-semibold">{source.name}</b> <span className="text-muted">whole clip, {(source.facts.durationMs / 1000).toFixed(2)} s</span></span>
        <span className="text-muted">Drag the red handles, or focus one: arrow keys move a frame, with Shift ten.</span>
      </div>
      {error && <p role="alert" className="mt-2 text-fix">{error}</p>}
      <div ref={track} className="relative mt-1 select-none">
        {index && <Ruler seconds={index.length / index.timescale} width={width} />}
        <div className="flex overflow-hidden rounded-sm bg-ink/15" style={{ height: STRIP_HEIGHT }}>
          {Array.from({ length: cells }, (_, cell) => <Cell key={cell} picture={pictures[cell] ?? null} />)}
        </div>
        {index && <CutRegion document={document} source={source} index={index} />}
      </div>
    </div>
  )
}

function Cell({ picture }: { picture: ImageBitmap | null }) {
  const canvas = useRef<HTMLCanvasElement>(null)
  useEffect(() => {
    if (!picture || !canvas.current) return
    canvas.current.width = picture.width
    canvas.current.height = picture.height
    canvas.current.getContext('2d')!.drawImage(picture, 0, 0)
  }, [picture])
  return <canvas ref={canvas} aria-hidden className="h-full min-w-0 flex-1 border-r border-paper-deep object-cover last:border-0" />
}

function Ruler({ seconds, width }: { seconds: number; width: number }) {
  const step = [0.5, 1, 2, 5, 10, 20, 30, 60, 120, 300].find((each) => (each / seconds) * width > 70) ?? 600
  const marks = Array.from({ length: Math.floor(seconds / step) + 1 }, (_, mark) => mark * step)
  return (
    <div aria-hidden className="relative h-5 font-mono text-[0.7rem] text-muted">
      {marks.map((mark) => (
        <span key={mark} className="absolute bottom-0 border-l border-line-strong pl-1" style={{ left: `${(mark / seconds) * 100}%` }}>{mark / seconds < 0.97 && `${mark} s`}</span>
      ))}
    </div>
  )
}

type End = 'start' | 'end'

function CutRegion({ document, source, index }: { document: BackdropDocument; source: ClipSource; index: ClipIndex }) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const time = useStage((state) => state.time)
  const scrubber = useScrubber(source)
  const gesture = useRef('')
  const { cut, speed } = document.timing
  const share = (ticks: number): number => ticks / cut.timescale / (index.length / index.timescale)

  const setEnd = (end: End, ticks: number): void => {
    const next = snapCut({ ...cut, [end]: (ticks * cut.timescale) / index.timescale }, { ...index, order: [] }, end)
    dispatch({ type: 'timing/cut', cut: next }, gesture.current)
    // The last frame shown lies just before the end.
    scrubber.show(end === 'start' ? frameAt(index, next.start) : Math.max(0, frameAt(index, next.end - 1)))
  }
  const drag = (end: End) => (event: PointerEvent<HTMLButtonElement>): void => {
    if (!event.currentTarget.hasPointerCapture(event.pointerId)) return
    const box = event.currentTarget.parentElement!.getBoundingClientRect()
    setEnd(end, ((event.clientX - box.left) / box.width) * index.length)
  }
  const step = (end: End) => (event: KeyboardEvent): void => {
    const by = { ArrowLeft: -1, ArrowRight: 1, ArrowDown: -1, ArrowUp: 1 }[event.key]
    if (!by) return
    event.preventDefault()
    const boundaries = [...index.times, index.length]
    const at = frameAt({ times: boundaries }, (cut[end] * index.timescale) / cut.timescale)
    setEnd(end, boundaries[Math.min(boundaries.length - 1, Math.max(0, at + by * (event.shiftKey ? 10 : 1)))]!)
  }
  const handle = (end: End) => {
    const number = frameAt({ times: [...index.times, index.length] }, (cut[end] * index.timescale) / cut.timescale)
    const seconds = cut[end] / cut.timescale
    return (
      <button
        type="button" role="slider" aria-label={end === 'start' ? 'Start of the cut' : 'End of the cut'} aria-orientation="horizontal"
        aria-valuemin={0} aria-valuemax={index.times.length} aria-valuenow={number} aria-valuetext={`${seconds.toFixed(2)} seconds, frame ${number}`}
        className="absolute top-5 z-10 w-4 -translate-x-1/2 cursor-ew-resize touch-none focus-visible:outline-offset-0"
        style={{ left: `${share(cut[end]) * 100}%`, height: STRIP_HEIGHT + 14 }}
        onPointerDown={(event) => {
          gesture.current = crypto.randomUUID()
          event.currentTarget.setPointerCapture(event.pointerId)
          event.currentTarget.focus()
        }}
        onPointerMove={drag(end)}
        onPointerUp={scrubber.end}
        onPointerCancel={scrubber.end}
        onFocus={() => (gesture.current = crypto.randomUUID())}
        onBlur={scrubber.end}
        onKeyDown={step(end)}
      >
        <span className="absolute inset-y-0 left-1/2 w-[3px] -translate-x-1/2 bg-curtain" />
        <span className="absolute bottom-0 left-1/2 size-3.5 -translate-x-1/2 rounded-full border-2 border-sheet bg-curtain" />
      </button>
    )
  }
  const playhead = share(cut.start) + share(time * speed * cut.timescale)
  return (
    <div className="absolute inset-0">
      <div aria-hidden className="absolute top-5 left-0 bg-paper-deep/75" style={{ width: `${share(cut.start) * 100}%`, height: STRIP_HEIGHT }} />
      <div aria-hidden className="absolute top-5 right-0 bg-paper-deep/75" style={{ left: `${share(cut.end) * 100}%`, height: STRIP_HEIGHT }} />
      <div aria-hidden className="absolute top-5 border-y-3 border-curtain" style={{ left: `${share(cut.start) * 100}%`, width: `${share(cut.end - cut.start) * 100}%`, height: STRIP_HEIGHT }} />
      <div aria-hidden className="absolute top-3 w-0.5 bg-ink" style={{ left: `${Math.min(share(cut.end), playhead) * 100}%`, height: STRIP_HEIGHT + 12 }} />
      {handle('start')}
      {handle('end')}
    </div>
  )
}
