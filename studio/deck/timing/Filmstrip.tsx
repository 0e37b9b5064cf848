import { Magnet, Maximize2, ZoomIn, ZoomOut } from 'lucide-react'
import {
  useCallback,
  useEffect,
  useLayoutEffect,
  useMemo,
  useRef,
  useState,
  type KeyboardEvent,
  type PointerEvent,
} from 'react'
import type { ClipSource } from '../../../core/api/wire'
import type { BackdropDocument } from '../../../core/backdrop/BackdropDocument'
import { loopOf } from '../../../core/backdrop/recipe'
import { snapCut, sourceSeconds } from '../../../core/loop/framePlan'
import { describeFinding } from '../../../core/material/describeFinding'
import { frameAt } from '../../../core/media/presentation'
import { mediaUrl } from '../../api/client'
import { useBackdrop } from '../../state/backdropStore'
import { useLoopSearch } from '../../state/loopSearchStore'
import { useStage } from '../../state/stageStore'
import { usePicture } from '../../ui/usePicture'
import {
  useClipIndex,
  useScrubber,
  useScrubProxy,
  useStripPictures,
  type ClipIndex,
} from '../useClipFrames'
import { CurveRow } from './CurveRow'
import { CutRegion } from './CutRegion'
import {
  clampView,
  panView,
  revealMoment,
  rulerTicks,
  stripCells,
  wholeView,
  zoomView,
  type SnapPoint,
  type View,
} from './view'

const STRIP_HEIGHT = 54
const ZOOM_STEP = 1.5

/**
 * The filmstrip from the whole clip to single frames, with ruler, marks, curves, playhead and the
 * cut.
 */
export function Filmstrip({
  document,
  source,
}: {
  document: BackdropDocument
  source: ClipSource
}) {
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
  document: BackdropDocument
  source: ClipSource
  index: ClipIndex
}) {
  const track = useRef<HTMLDivElement>(null)
  const [width, setWidth] = useState(0)
  const [view, setView] = useState<View>(() => wholeView(index))
  const [snapping, setSnapping] = useState(true)
  const dispatch = useBackdrop((state) => state.dispatch)
  const scrubber = useScrubber(source, document.picture)
  const { cut } = document.timing
  const making = useScrubProxy(source, index, (cut.start * index.timescale) / cut.timescale)
  const held = useStage((state) => state.held)
  const time = useStage((state) => state.time)
  const playhead =
    held === null ? sourceSeconds(loopOf(document), time) : index.times[held]! / index.timescale
  const points = useSnapPoints(source, index, held === null ? null : playhead)
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

  const { displayWidth, displayHeight } = source.facts.video
  const picturePx = Math.max(24, (STRIP_HEIGHT * displayWidth) / displayHeight)
  const { step, cells } = stripCells(view, index, width, picturePx)
  const pictures = useStripPictures(
    source,
    cells.map((cell) => cell.frame),
    step,
  )
  const share = (seconds: number): number => (seconds - view.from) / (view.to - view.from)
  const frameCount = index.times.length
  const number = held ?? frameAt(index, playhead * index.timescale + 1e-6)

  const park = (frame: number, resting: boolean): void => {
    const bounded = Math.min(frameCount - 1, Math.max(0, frame))
    scrubber.show(bounded)
    useStage.getState().set({ heldTicks: index.times[bounded]! })
    setView((now) => revealMoment(now, index.times[bounded]! / index.timescale, index))
    if (resting) scrubber.hold()
  }
  const momentOf = (event: PointerEvent): number => {
    const box = track.current!.getBoundingClientRect()
    return view.from + ((event.clientX - box.left) / box.width) * (view.to - view.from)
  }
  const seek = (event: PointerEvent): void =>
    park(frameAt(index, momentOf(event) * index.timescale), false)
  const setEnd = (end: 'start' | 'end'): void => {
    // The frame at the playhead is the first of the loop, or its last.
    const boundary =
      end === 'end' ? (index.times[number + 1] ?? index.length) : index.times[number]!
    dispatch({
      type: 'timing/cut',
      cut: snapCut(
        { ...cut, [end]: (boundary * cut.timescale) / index.timescale },
        { ...index, order: [] },
        end,
      ),
    })
  }
  const press = (event: KeyboardEvent): void => {
    const by = { ArrowLeft: -1, ArrowRight: 1, ArrowDown: -1, ArrowUp: 1 }[event.key]
    const acts: Record<string, () => void> = {
      '+': () => zoom(ZOOM_STEP, share(playhead)),
      '=': () => zoom(ZOOM_STEP, share(playhead)),
      '-': () => zoom(1 / ZOOM_STEP, share(playhead)),
      '0': () => setView(wholeView(index)),
      '[': () => setEnd('start'),
      ']': () => setEnd('end'),
      Home: () => park(frameAt(index, (cut.start * index.timescale) / cut.timescale), true),
      End: () => park(frameAt(index, (cut.end * index.timescale) / cut.timescale - 1), true),
      Escape: () => scrubber.end(),
    }
    const act = by ? () => park(number + by * (event.shiftKey ? 10 : 1), true) : acts[event.key]
    if (!act || event.ctrlKey || event.metaKey) return
    event.preventDefault()
    act()
  }

  return (
    <>
      <div className="flex min-h-7 items-center justify-between gap-x-3 text-xs text-muted max-md:flex-wrap">
        <span className="truncate">
          <b className="font-mono font-medium text-ink">
            {playhead.toFixed(3)} s · frame {number}
          </b>
          <span className="max-lg:hidden">
            {' '}
            · arrow keys step a frame, with Shift ten; [ and ] set start and end here
          </span>
          {making !== null && (
            <span role="status"> · preparing quick frames, {Math.round(making * 100)} %</span>
          )}
        </span>
        <span className="flex shrink-0 items-center gap-1">
          {held !== null && (
            <StripButton label="Resume playback" onClick={() => scrubber.end()}>
              Resume
            </StripButton>
          )}
          <StripButton
            label={`Set the start here, frame ${number}`}
            onClick={() => setEnd('start')}
          >
            [ Start here
          </StripButton>
          <StripButton label={`Set the end here, frame ${number}`} onClick={() => setEnd('end')}>
            End here ]
          </StripButton>
          <StripButton
            label="Snap to findings and loops"
            pressed={snapping}
            onClick={() => setSnapping(!snapping)}
          >
            <Magnet className="size-3.5" aria-hidden />
            Snap
          </StripButton>
          <StripButton label="Zoom out" onClick={() => zoom(1 / ZOOM_STEP, 0.5)}>
            <ZoomOut className="size-3.5" aria-hidden />
          </StripButton>
          <StripButton label="Zoom in" onClick={() => zoom(ZOOM_STEP, 0.5)}>
            <ZoomIn className="size-3.5" aria-hidden />
          </StripButton>
          <StripButton
            label="Zoom to the cut"
            onClick={() => setView(clampView(aroundCut(cut), index))}
          >
            Cut
          </StripButton>
          <StripButton label="Show the whole clip" onClick={() => setView(wholeView(index))}>
            <Maximize2 className="size-3.5" aria-hidden />
          </StripButton>
        </span>
      </div>
      <div
        ref={track}
        className="relative min-h-0 flex-1 touch-none overflow-x-clip select-none [overflow-clip-margin:10px]"
      >
        <div
          role="slider"
          tabIndex={0}
          aria-label="Playhead on the clip"
          aria-valuemin={0}
          aria-valuemax={frameCount - 1}
          aria-valuenow={number}
          aria-valuetext={`${playhead.toFixed(2)} seconds, frame ${number}`}
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
          onPointerUp={() => useStage.getState().scrubbing && scrubber.hold()}
          onPointerCancel={() => useStage.getState().scrubbing && scrubber.hold()}
        />
        <Marks source={source} share={share} />
        <div
          aria-hidden
          className="pointer-events-none relative h-4 font-mono text-[0.66rem] text-muted"
        >
          {rulerTicks(view, index, width).map((tick) => (
            <span
              key={tick.left}
              className={`absolute bottom-0 border-l border-line-strong ${tick.label ? 'h-full pl-1 leading-none whitespace-nowrap' : 'h-1.5'}`}
              style={{ left: `${tick.left * 100}%` }}
            >
              {tick.left < 0.97 && tick.label}
            </span>
          ))}
        </div>
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

/** A cut with a little of the clip on both sides. */
function aroundCut({ start, end, timescale }: BackdropDocument['timing']['cut']): View {
  const air = (end - start) / timescale / 12
  return { from: start / timescale - air, to: end / timescale + air }
}

function StripButton({
  label,
  pressed,
  onClick,
  children,
}: {
  label: string
  pressed?: boolean
  onClick: () => void
  children: React.ReactNode
}) {
  return (
    <button
      type="button"
      aria-label={label}
      title={label}
      aria-pressed={pressed}
      onClick={onClick}
      className="inline-flex h-6 items-center gap-1 rounded border border-line-strong/50 bg-sheet px-1.5 text-[0.72rem] text-ink hover:bg-white aria-pressed:border-curtain aria-pressed:bg-white aria-pressed:text-curtain"
    >
      {children}
    </button>
  )
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

/** What was found in the clip and where it happens, and the ends of the loops that were found. */
function Marks({ source, share }: { source: ClipSource; share: (seconds: number) => number }) {
  const search = useLoopSearch((state) => state.search)
  const moments = source.findings.filter((finding) => finding.fromMs !== null)
  const { timescale } = source.facts.video
  const loops = search?.sourceSha256 === source.sha256 ? search.loops : []
  return (
    <div className="pointer-events-none relative h-4 text-[0.66rem] leading-4">
      {moments.map((finding, at) => {
        const [from, to] = [
          share(finding.fromMs! / 1000),
          share((finding.toMs ?? finding.fromMs!) / 1000),
        ]
        return (
          <span
            key={at}
            title={describeFinding(finding).title}
            className={`absolute top-0 h-full overflow-hidden border-l-2 px-1 whitespace-nowrap ${finding.weight === 'fix' ? 'border-fix bg-fix/20 text-fix' : 'border-look bg-look/15 text-look'}`}
            style={{ left: `${from * 100}%`, width: to > from ? `${(to - from) * 100}%` : 'auto' }}
          >
            {MARK_WORDS[finding.code] ?? finding.code}
          </span>
        )
      })}
      {loops.map((loop, at) =>
        [loop.startTicks, loop.endTicks].map((ticks, end) => (
          <span
            key={`${at} ${end}`}
            className="absolute top-0.5 grid size-3 -translate-x-1/2 rotate-45 place-items-center border border-curtain bg-sheet text-[0.55rem] leading-none text-curtain"
            style={{ left: `${share(ticks / timescale) * 100}%` }}
          >
            <span className="-rotate-45">{at + 1}</span>
          </span>
        )),
      )}
    </div>
  )
}

const MARK_WORDS: Partial<Record<string, string>> = {
  'title-card': 'title card',
  'hard-cut': 'cut',
  'black-start': 'black',
  'black-end': 'black',
  'held-start': 'held',
  'held-end': 'held',
  'fade-in': 'fade',
  'fade-out': 'fade',
  flashes: 'flashes',
}

function useSnapPoints(
  source: ClipSource,
  index: ClipIndex,
  parked: number | null,
): readonly SnapPoint[] {
  const search = useLoopSearch((state) => state.search)
  return useMemo(() => {
    const { timescale } = source.facts.video
    const loops = search?.sourceSha256 === source.sha256 ? search.loops : []
    return [
      { seconds: 0, label: 'start of the clip' },
      { seconds: index.length / index.timescale, label: 'end of the clip' },
      ...source.findings.flatMap(({ code, fromMs, toMs }): SnapPoint[] => {
        const word = MARK_WORDS[code] ?? code
        if (fromMs === null) return []
        return toMs === null || toMs === fromMs
          ? [{ seconds: fromMs / 1000, label: word }]
          : [
              { seconds: fromMs / 1000, label: `${word} begins` },
              { seconds: toMs / 1000, label: `${word} ends` },
            ]
      }),
      ...loops.flatMap((loop, at): SnapPoint[] => [
        { seconds: loop.startTicks / timescale, label: `loop ${at + 1} starts` },
        { seconds: loop.endTicks / timescale, label: `loop ${at + 1} ends` },
      ]),
      ...(parked === null ? [] : [{ seconds: parked, label: 'playhead' }]),
    ]
  }, [source, index, search, parked])
}

/** Zooms by wheel and pinch around the pointer, and moves by a sideways wheel. */
function usePointerZoom(
  element: React.RefObject<HTMLDivElement | null>,
  zoom: (factor: number, share: number) => void,
  pan: (share: number) => void,
): void {
  useEffect(() => {
    const target = element.current!
    const shareOf = (x: number): number => {
      const box = target.getBoundingClientRect()
      return (x - box.left) / box.width
    }
    // A listener of the page's own: React's would be passive, and the page would scroll.
    const wheel = (event: WheelEvent): void => {
      event.preventDefault()
      const sideways = event.shiftKey ? event.deltaY : event.deltaX
      if (event.shiftKey || Math.abs(event.deltaX) > Math.abs(event.deltaY))
        pan(sideways / target.clientWidth)
      else zoom(2 ** (-event.deltaY / (event.ctrlKey ? 80 : 240)), shareOf(event.clientX))
    }
    const fingers = new Map<number, number>()
    let distance = 0
    const spread = (): number => {
      const [one, other] = [...fingers.values()]
      return one === undefined || other === undefined ? 0 : Math.abs(one - other)
    }
    const down = (event: globalThis.PointerEvent): void => {
      if (event.pointerType !== 'touch') return
      fingers.set(event.pointerId, event.clientX)
      distance = spread()
    }
    const move = (event: globalThis.PointerEvent): void => {
      if (!fingers.has(event.pointerId)) return
      fingers.set(event.pointerId, event.clientX)
      const now = spread()
      if (fingers.size === 2 && distance > 10 && now > 10) {
        const [one, other] = [...fingers.values()]
        zoom(now / distance, shareOf((one! + other!) / 2))
        distance = now
      }
    }
    const up = (event: globalThis.PointerEvent): void => void fingers.delete(event.pointerId)
    target.addEventListener('wheel', wheel, { passive: false })
    target.addEventListener('pointerdown', down)
    target.addEventListener('pointermove', move)
    for (const name of ['pointerup', 'pointercancel'] as const) target.addEventListener(name, up)
    return () => {
      target.removeEventListener('wheel', wheel)
      target.removeEventListener('pointerdown', down)
      target.removeEventListener('pointermove', move)
      for (const name of ['pointerup', 'pointercancel'] as const)
        target.removeEventListener(name, up)
    }
  }, [element, zoom, pan])
}
