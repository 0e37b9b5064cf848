import { useCallback, useLayoutEffect, useRef, useState } from 'react'
import type { ClipSource } from '../../../../core/api/wire'
import type { FootageDocument } from '../FootageDocument'
import { toNumber } from '../../../../core/Fraction'
import type { Footage } from '../../../../core/kinds/footage/Footage'
import { loopOf } from '../../../../core/kinds/footage/footageSequence'
import {
  plannedFrame,
  snapCut,
  sourceSeconds,
  type Cut,
  type LoopSettings,
} from '../../../../core/loop/framePlan'
import { mediaUrl } from '../../../api/client'
import {
  useClipIndex,
  useScrubber,
  useScrubProxy,
  useStripPictures,
  type ClipIndex,
} from '../../../clip/useClipFrames'
import { useBackdrop } from '../../../state/backdropStore'
import { useStage } from '../../../state/stageStore'
import { usePicture } from '../../../ui/usePicture'
import { CurveRow } from './CurveRow'
import { CutRegion } from './CutRegion'
import { PlayheadSlider } from './PlayheadSlider'
import { StripBar } from './StripBar'
import { StripMarks, useSnapPoints } from './StripMarks'
import { usePointerZoom } from './usePointerZoom'
import {
  clampView,
  panView,
  revealMoment,
  rulerTicks,
  stripCells,
  wholeView,
  zoomView,
  type View,
} from './view'

const STRIP_HEIGHT = 54

/**
 * The filmstrip from the whole clip to single frames, with ruler, marks, curves, playhead and the
 * cut.
 */
export function Filmstrip({ document, source }: { document: FootageDocument; source: ClipSource }) {
  const { index, error } = useClipIndex(source)
  return (
    <div className="flex h-full flex-col px-4 pb-1.5">
      {error && (
        <p role="alert" className="mt-2 text-fix">
          {error}
        </p>
      )}
      {index ? (
        <Track key={source.sha256} document={document} source={source} index={index} />
      ) : (
        !error && (
          <p role="status" className="mt-3 text-muted">
            Reading the clip’s index …
          </p>
        )
      )}
    </div>
  )
}

function Track({
  document,
  source,
  index,
}: {
  document: FootageDocument
  source: ClipSource
  index: ClipIndex
}) {
  const { track, width, view, setView, zoom } = useStripView(index)
  const [snapping, setSnapping] = useState(true)
  const dispatch = useBackdrop((state) => state.dispatch)
  const scrubber = useScrubber(source, document.base.picture)
  const { cut } = document.base.timing
  const making = useScrubProxy(source, index, (cut.start * index.timescale) / cut.timescale)
  const held = useStage((state) => state.held)
  const time = useStage((state) => state.time)
  const playhead =
    held === null
      ? sourceSeconds(loopOf(document.base), time)
      : index.times[held]! / index.timescale
  const points = useSnapPoints(source, index, held === null ? null : playhead)
  const share = (seconds: number): number => (seconds - view.from) / (view.to - view.from)
  const frameCount = index.times.length
  const number = held ?? shownFrame(loopOf(document.base), index, time)

  const park = (frame: number, resting: boolean): void => {
    const bounded = Math.min(frameCount - 1, Math.max(0, frame))
    scrubber.show(bounded)
    useStage.getState().set({ parkedTicks: index.times[bounded]! })
    setView((now) => revealMoment(now, index.times[bounded]! / index.timescale, index))
    if (resting) scrubber.hold()
  }
  const setEnd = (end: 'start' | 'end'): void =>
    dispatch({ type: 'timing/cut', cut: cutAtFrame(cut, index, number, end) })
  return (
    <>
      <StripBar
        playhead={playhead}
        frame={number}
        isParked={held !== null}
        preparing={making}
        isSnapping={snapping}
        onSnapping={setSnapping}
        onResume={() => scrubber.end()}
        onSetEnd={setEnd}
        onZoom={zoom}
        onZoomToCut={() => setView(clampView(aroundCut(cut), index))}
        onShowAll={() => setView(wholeView(index))}
      />
      <div
        ref={track}
        className="relative min-h-0 flex-1 touch-none overflow-x-clip select-none [overflow-clip-margin:10px]"
      >
        <PlayheadSlider
          track={track}
          index={index}
          view={view}
          frame={number}
          seconds={playhead}
          ends={{ start: cut.start / cut.timescale, end: cut.end / cut.timescale }}
          onPark={park}
          onRelease={() => scrubber.hold()}
          onSetEnd={setEnd}
          onResume={() => scrubber.end()}
          onZoom={zoom}
          onShowAll={() => setView(wholeView(index))}
        />
        <StripMarks source={source} share={share} />
        <Ruler ticks={rulerTicks(view, index, width)} />
        <Pictures source={source} index={index} view={view} width={width} />
        {source.analysis && <CurveRow analysis={source.analysis} view={view} width={width} />}
        <CutRegion
          document={document}
          index={index}
          view={view}
          width={width}
          stripTop={32}
          stripHeight={STRIP_HEIGHT}
          points={snapping ? points : []}
          scrubber={scrubber}
          onView={setView}
        />
        <span
          aria-hidden
          className="pointer-events-none absolute top-4 bottom-0 w-0.5 bg-ink"
          style={{ left: `${share(playhead) * 100}%` }}
        >
          <span className="absolute -top-0.5 -left-[4px] h-2.5 w-2.5 rounded-[2px] bg-ink" />
        </span>
      </div>
    </>
  )
}

/** The cut with an end at a frame: it becomes the first of the loop, or its last. */
function cutAtFrame(cut: Cut, index: ClipIndex, frame: number, end: 'start' | 'end'): Cut {
  const boundary = end === 'end' ? (index.times[frame + 1] ?? index.length) : index.times[frame]!
  const moved = { ...cut, [end]: (boundary * cut.timescale) / index.timescale }
  return snapCut(moved, { ...index, order: [] }, end)
}

/** The source frame that the loop shows at a moment of its own time, in seconds. */
function shownFrame(loop: LoopSettings, index: ClipIndex, seconds: number): number {
  const k = Math.floor(seconds * toNumber(loop.frameRate) + 1e-6)
  return plannedFrame(loop, index, k).show.frame
}

/** The part of the clip that the strip shows, its width in px, and zooming by wheel and pinch. */
function useStripView(index: ClipIndex) {
  const track = useRef<HTMLDivElement>(null)
  const [width, setWidth] = useState(0)
  const [view, setView] = useState<View>(() => wholeView(index))
  useLayoutEffect(() => {
    const observer = new ResizeObserver(() => setWidth(track.current?.clientWidth ?? 0))
    observer.observe(track.current!)
    return () => observer.disconnect()
  }, [])
  const zoom = useCallback(
    (factor: number, share = 0.5) => setView((now) => zoomView(now, factor, share, index)),
    [index],
  )
  usePointerZoom(
    track,
    zoom,
    useCallback((share: number) => setView((now) => panView(now, share, index)), [index]),
  )
  return { track, width, view, setView, zoom }
}

/** The clip's frames along the strip. */
function Pictures({
  source,
  index,
  view,
  width,
}: {
  source: ClipSource
  index: ClipIndex
  view: View
  width: number
}) {
  const { displayWidth, displayHeight } = source.facts.video
  const picturePx = Math.max(24, (STRIP_HEIGHT * displayWidth) / displayHeight)
  const { step, cells } = stripCells(view, index, width, picturePx)
  const pictures = useStripPictures(
    source,
    cells.map((cell) => cell.frame),
    step,
  )
  return (
    <div
      className="pointer-events-none relative overflow-hidden rounded-sm bg-ink/15"
      style={{ height: STRIP_HEIGHT }}
    >
      {cells.map((cell) => (
        <Cell
          key={`${step} ${cell.frame}`}
          cell={cell}
          picture={pictures.get(cell.frame) ?? null}
          source={source}
          moment={index.times[cell.frame]! / index.length}
        />
      ))}
    </div>
  )
}

/** Seconds or frames along the strip. */
function Ruler({ ticks }: { ticks: ReturnType<typeof rulerTicks> }) {
  return (
    <div
      aria-hidden
      className="pointer-events-none relative h-4 font-mono text-[0.66rem] text-muted"
    >
      {ticks.map((tick) => (
        <span
          key={tick.left}
          className={`absolute bottom-0 border-l border-line-strong ${tick.label ? 'h-full pl-1 leading-none whitespace-nowrap' : 'h-1.5'}`}
          style={{ left: `${tick.left * 100}%` }}
        >
          {tick.left < 0.97 && tick.label}
        </span>
      ))}
    </div>
  )
}

/** A cut with a little of the clip on both sides. */
function aroundCut({ start, end, timescale }: Footage['timing']['cut']): View {
  const air = (end - start) / timescale / 12
  return { from: start / timescale - air, to: end / timescale + air }
}

/**
 * A picture of the strip: its frame, or until that has come the nearest one of the shelf's strip.
 */
function Cell({
  cell,
  picture,
  source,
  moment,
}: {
  cell: { left: number; width: number }
  picture: ImageBitmap | null
  source: ClipSource
  moment: number
}) {
  const canvas = usePicture(picture)
  const { strip } = source
  const place = strip ? Math.min(strip.cells - 1, Math.floor(moment * strip.cells)) : 0
  const standIn =
    strip && !picture
      ? {
          backgroundImage: `url(${mediaUrl(strip.sha256, 'image/webp')})`,
          backgroundSize: `${strip.cells * 100}% 100%`,
          backgroundPosition: `${strip.cells > 1 ? (place / (strip.cells - 1)) * 100 : 0}% 0`,
        }
      : {}
  return (
    <span
      className="absolute inset-y-0 border-r border-paper-deep"
      style={{ left: `${cell.left * 100}%`, width: `${cell.width * 100}%`, ...standIn }}
    >
      <canvas ref={canvas} aria-hidden className="size-full object-cover" hidden={!picture} />
    </span>
  )
}
