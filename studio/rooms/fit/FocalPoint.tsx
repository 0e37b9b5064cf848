import { useRef, type KeyboardEvent, type PointerEvent } from 'react'
import type { Point } from '../../../core/fit/cover'

/** A point on the stage, dragged or moved by the arrow keys. */
export function FocalPoint({
  label,
  point: { x, y },
  width,
  height,
  onMove,
}: {
  /** What it is called; its place is added. */
  label: string
  point: Point
  /** Of the region on the stage, in pixels. */
  width: number
  height: number
  onMove: (point: Point, gesture: string) => void
}) {
  const gesture = useRef('')
  const clamp = (value: number): number => Math.round(Math.min(1, Math.max(0, value)) * 1000) / 1000
  const move = (event: PointerEvent<HTMLButtonElement>): void => {
    if (!event.currentTarget.hasPointerCapture(event.pointerId)) return
    const box = event.currentTarget.parentElement!.getBoundingClientRect()
    onMove(
      {
        x: clamp((event.clientX - box.left) / box.width),
        y: clamp((event.clientY - box.top) / box.height),
      },
      gesture.current,
    )
  }
  const nudge = (event: KeyboardEvent): void => {
    const step = event.shiftKey ? 0.1 : 0.01
    const by = {
      ArrowLeft: [-step, 0],
      ArrowRight: [step, 0],
      ArrowUp: [0, -step],
      ArrowDown: [0, step],
    }[event.key]
    if (!by) return
    event.preventDefault()
    onMove({ x: clamp(x + by[0]!), y: clamp(y + by[1]!) }, gesture.current)
  }
  return (
    <div className="pointer-events-none absolute top-0 left-0" style={{ width, height }}>
      <button
        type="button"
        aria-label={`${label}, ${Math.round(x * 100)} % across, ${Math.round(y * 100)} % down. Arrow keys move it.`}
        className="pointer-events-auto absolute grid size-11 -translate-x-1/2 -translate-y-1/2 cursor-move touch-none place-items-center rounded-full border-2 border-white bg-black/25 shadow-[0_0_0_1px_rgb(0_0_0/0.5)]"
        style={{ left: `${x * 100}%`, top: `${y * 100}%` }}
        onPointerDown={(event) => {
          gesture.current = crypto.randomUUID()
          event.currentTarget.setPointerCapture(event.pointerId)
        }}
        onPointerMove={move}
        onFocus={() => (gesture.current = crypto.randomUUID())}
        onKeyDown={nudge}
      >
        <span className="size-2 rounded-full bg-white shadow-[0_0_0_1px_rgb(0_0_0/0.6)]" />
      </button>
    </div>
  )
}
