import { useRef, type KeyboardEvent, type PointerEvent, type ReactNode } from 'react'
import type { Point } from '../../core/fit/cover'
import { arrowStep } from './arrowStep'

/**
 * A handle on the stage, at a place in pixels of the region. Arrow keys move by shares of it.
 */
export function Handle({
  name,
  place,
  onOpen,
  onDrag,
  onKey,
  children,
}: {
  name: string
  place: Point
  onOpen?: () => void
  onDrag: (place: Point, gesture: string) => void
  onKey: (by: readonly [number, number], gesture: string) => void
  children: ReactNode
}) {
  const gesture = useRef('')
  const begin = (): void => {
    gesture.current = crypto.randomUUID()
    onOpen?.()
  }
  const move = (event: PointerEvent<HTMLButtonElement>): void => {
    if (!event.currentTarget.hasPointerCapture(event.pointerId)) return
    const box = event.currentTarget.parentElement!.getBoundingClientRect()
    onDrag({ x: event.clientX - box.left, y: event.clientY - box.top }, gesture.current)
  }
  const press = (event: KeyboardEvent): void => {
    const by = arrowStep(event)
    if (!by) return
    event.preventDefault()
    onKey(by, gesture.current)
  }
  return (
    <button
      type="button"
      aria-label={name}
      className="pointer-events-auto absolute grid size-8 -translate-x-1/2 -translate-y-1/2 cursor-move touch-none place-items-center rounded-full"
      style={{ left: place.x, top: place.y }}
      onPointerDown={(event) => {
        begin()
        event.currentTarget.setPointerCapture(event.pointerId)
      }}
      onPointerMove={move}
      onFocus={begin}
      onKeyDown={press}
    >
      {children}
    </button>
  )
}
