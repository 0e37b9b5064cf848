import { useRef, useState, type PointerEvent } from 'react'
import type { Cycle, SlideSpan } from '../../../../core/kinds/slideshow/cycle'
import { timingsOf, type Slideshow } from '../../../../core/kinds/slideshow/Slideshow'
import { mediaUrl } from '../../../api/client'
import { useBackdrop } from '../../../state/backdropStore'
import { useStage } from '../../../state/stageStore'
import { addressOf, type ShownSlide } from '../slidesOf'
import { useSlideView } from '../slideView'
import { draggedHold, draggedTransition, placeAt } from './deckGeometry'

interface CellsProps {
  readonly base: Slideshow
  readonly slides: readonly ShownSlide[]
  readonly cycle: Cycle
  readonly pxPerSecond: number
}

/** A pointer that has gone further than this drags a cell; a shorter way chooses it. */
const DRAG_PX = 6

/** The slides as cells, each ramp over the cell before it; at the end the first one again. */
export function SlideCells({ base, slides, cycle, pxPerSecond }: CellsProps) {
  const { spans, seconds } = cycle
  const [dragged, setDragged] = useState<{ id: number; to: number } | null>(null)
  const px = (time: number): number => time * pxPerSecond
  return (
    <div className="relative h-20 overflow-hidden rounded-sm bg-ink/10">
      {slides.map((shown, index) => (
        <Cell
          key={shown.slide.id}
          shown={shown}
          hold={timingsOf(base)[index]!.holdSeconds}
          span={index === 0 ? { ...spans[0]!, appearsAt: 0 } : spans[index]!}
          cycle={cycle}
          pxPerSecond={pxPerSecond}
          isDragged={dragged?.id === shown.slide.id}
          onDrag={setDragged}
        />
      ))}
      {/* The last ramp leads back to the first slide. */}
      <Picture
        shown={slides[0]!}
        left={px(spans[spans.length - 1]!.leavesFrom)}
        width={px(seconds - spans[spans.length - 1]!.leavesFrom)}
        ramp={1}
      />
      {slides.map((shown, index) => (
        <Edges
          key={shown.slide.id}
          base={base}
          shown={shown}
          span={spans[index]!}
          pxPerSecond={pxPerSecond}
        />
      ))}
      {dragged && (
        <span
          aria-hidden
          className="absolute top-0 h-full w-1 bg-curtain"
          style={{ left: px(spans[dragged.to]!.fullFrom) }}
        />
      )}
    </div>
  )
}

interface PictureProps {
  readonly shown: ShownSlide
  readonly left: number
  readonly width: number
  /** The share of its width that is a ramp from the bottom left to the top. */
  readonly ramp: number
}

function Picture({ shown: { source }, left, width, ramp }: PictureProps) {
  const address = source
    ? source.strip
      ? mediaUrl(source.strip.sha256, 'image/webp')
      : addressOf(source)
    : null
  return (
    <span
      aria-hidden
      className="pointer-events-none absolute top-0 h-full bg-ink bg-cover bg-center"
      style={{
        left,
        width,
        clipPath: `polygon(${ramp * 100}% 0, 100% 0, 100% 100%, 0 100%)`,
        ...(address && { backgroundImage: `url(${address})` }),
      }}
    />
  )
}

function Cell({
  shown,
  hold,
  span: { appearsAt, fullFrom, leavesFrom, goneAt },
  cycle,
  pxPerSecond,
  isDragged,
  onDrag,
}: {
  shown: ShownSlide
  hold: number
  span: SlideSpan
  cycle: Cycle
  pxPerSecond: number
  isDragged: boolean
  onDrag: (dragged: { id: number; to: number } | null) => void
}) {
  const { slide, number, source } = shown
  const selected = useSlideView((state) => state.selected)
  const set = useSlideView((state) => state.set)
  const dispatch = useBackdrop((state) => state.dispatch)
  const seek = useStage((state) => state.set)
  const pressed = useRef<{ x: number; to: number | null } | null>(null)
  const isSelected = selected === slide.id
  const left = appearsAt * pxPerSecond
  const width = (goneAt - appearsAt) * pxPerSecond
  const move = (event: PointerEvent<HTMLElement>): void => {
    if (!pressed.current || Math.abs(event.clientX - pressed.current.x) < DRAG_PX) return
    const box = event.currentTarget.parentElement!.parentElement!.getBoundingClientRect()
    const to = placeAt(cycle, (event.clientX - box.left) / pxPerSecond)
    pressed.current.to = to
    onDrag({ id: slide.id, to })
  }
  const release = (): void => {
    const to = pressed.current?.to ?? null
    pressed.current = null
    onDrag(null)
    if (to !== null) return dispatch({ type: 'slides/move', id: slide.id, to })
    set({ selected: isSelected ? null : slide.id })
    seek({ parkedSeconds: fullFrom })
  }
  const cancel = (): void => {
    pressed.current = null
    onDrag(null)
  }
  return (
    <span className={isDragged ? 'opacity-60' : ''}>
      <Picture
        shown={shown}
        left={left}
        width={width}
        ramp={width > 0 ? ((fullFrom - appearsAt) * pxPerSecond) / width : 0}
      />
      <button
        type="button"
        aria-pressed={isSelected}
        aria-label={`Slide ${number}, ${source?.name ?? 'no image'}, held ${hold.toFixed(1)} s`}
        className={`absolute top-0 h-full cursor-grab touch-none ${isSelected ? 'inset-ring-3 inset-ring-curtain' : 'hover:inset-ring-2 hover:inset-ring-white/70'}`}
        style={{ left: fullFrom * pxPerSecond, width: (leavesFrom - fullFrom) * pxPerSecond }}
        onPointerDown={(event) => {
          event.currentTarget.setPointerCapture(event.pointerId)
          pressed.current = { x: event.clientX, to: null }
        }}
        onPointerMove={move}
        onPointerUp={release}
        onPointerCancel={cancel}
        onKeyDown={(event) => {
          if (event.key !== 'Enter' && event.key !== ' ') return
          event.preventDefault()
          release()
        }}
      >
        <span className="absolute bottom-1 left-1/2 -translate-x-1/2 rounded-sm bg-black/60 px-1 font-mono text-[0.7rem] whitespace-nowrap text-white">
          {number} · {hold.toFixed(1)} s
        </span>
      </button>
    </span>
  )
}

/** The end of a hold, and that of the transition after it. */
function Edges({
  base,
  shown: { slide, number },
  span: { leavesFrom, goneAt },
  pxPerSecond,
}: {
  base: Slideshow
  shown: ShownSlide
  span: SlideSpan
  pxPerSecond: number
}) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const { holdSeconds, transitionSeconds } = timingsOf(base)[number - 1]!
  const setTransition = (seconds: number, gesture: string): void =>
    dispatch(
      {
        type: 'slides/transition',
        // One that all share stays shared.
        id: slide.transition ? slide.id : null,
        transition: { seconds },
      },
      gesture,
    )
  return (
    <>
      <Edge
        name={`Hold of slide ${number}`}
        seconds={holdSeconds}
        left={leavesFrom * pxPerSecond}
        pxPerSecond={pxPerSecond}
        className="h-full"
        dragged={draggedHold}
        onChange={(seconds, gesture) =>
          dispatch({ type: 'slides/set', id: slide.id, slide: { holdSeconds: seconds } }, gesture)
        }
      />
      <Edge
        name={`Transition after slide ${number}${slide.transition ? '' : ' and the others'}`}
        seconds={transitionSeconds}
        left={goneAt * pxPerSecond}
        pxPerSecond={pxPerSecond}
        className="h-1/2"
        dragged={draggedTransition}
        onChange={setTransition}
      />
    </>
  )
}

/** A boundary in time: dragged, or moved by arrow keys. */
function Edge({
  name,
  seconds,
  left,
  pxPerSecond,
  className,
  dragged,
  onChange,
}: {
  name: string
  seconds: number
  left: number
  pxPerSecond: number
  className: string
  dragged: (seconds: number, by: number) => number
  onChange: (seconds: number, gesture: string) => void
}) {
  const held = useRef<{ x: number; seconds: number; scale: number; gesture: string } | null>(null)
  const typed = useRef('')
  return (
    <span
      role="slider"
      tabIndex={0}
      aria-label={name}
      aria-valuenow={Math.round(seconds * 100) / 100}
      aria-valuetext={`${seconds.toFixed(2)} s`}
      title={`${name}: ${seconds.toFixed(2)} s`}
      className={`absolute top-0 w-2.5 -translate-x-1/2 cursor-ew-resize touch-none before:absolute before:top-0 before:left-1/2 before:h-full before:w-0.5 before:-translate-x-1/2 before:bg-white/85 hover:before:w-1 ${className}`}
      style={{ left }}
      onFocus={() => (typed.current = crypto.randomUUID())}
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId)
        // The scale as it was: a longer cycle would run away from the pointer.
        held.current = {
          x: event.clientX,
          seconds,
          scale: pxPerSecond,
          gesture: crypto.randomUUID(),
        }
      }}
      onPointerMove={(event) => {
        if (!held.current) return
        const { x, seconds: from, scale, gesture } = held.current
        onChange(dragged(from, (event.clientX - x) / scale), gesture)
      }}
      onPointerUp={() => (held.current = null)}
      onPointerCancel={() => (held.current = null)}
      onKeyDown={(event) => {
        const way = { ArrowRight: 1, ArrowLeft: -1 }[event.key]
        if (!way) return
        event.preventDefault()
        onChange(dragged(seconds, way * (event.shiftKey ? 1 : 0.1)), typed.current)
      }}
    />
  )
}
