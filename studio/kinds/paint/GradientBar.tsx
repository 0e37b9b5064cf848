import { useRef, type KeyboardEvent, type PointerEvent } from 'react'
import { paintBackground } from '../../../core/handoff/layers/paintCss'
import { addStop, moveStop, removeStop } from '../../../core/kinds/paint/editGradient'
import { createPaint, type Gradient } from '../../../core/kinds/paint/Paint'

const STEP = 0.01

/** A gradient as a bar whose stops are dragged; a double click adds one. */
export function GradientBar({
  gradient,
  open,
  onOpen,
  onChange,
}: {
  gradient: Gradient
  open: number
  onOpen: (stop: number) => void
  onChange: (gradient: Gradient, gesture: string | null) => void
}) {
  const bar = useRef<HTMLDivElement>(null)
  const gesture = useRef('')
  const along: Gradient = { ...gradient, shape: 'linear', angleDeg: 90, opacity: 1 }
  const shareAt = (clientX: number): number => {
    const box = bar.current!.getBoundingClientRect()
    return (clientX - box.left) / box.width
  }
  const drag = (index: number) => (event: PointerEvent<HTMLButtonElement>) => {
    if (event.currentTarget.hasPointerCapture(event.pointerId))
      onChange(moveStop(gradient, index, shareAt(event.clientX)), gesture.current)
  }
  const press = (index: number) => (event: KeyboardEvent) => {
    const step = event.shiftKey ? 10 * STEP : STEP
    const by = { ArrowLeft: -step, ArrowRight: step }[event.key]
    if (by !== undefined) {
      event.preventDefault()
      onChange(moveStop(gradient, index, gradient.stops[index]!.at + by), gesture.current)
    } else if (event.key === 'Delete' || event.key === 'Backspace') {
      event.preventDefault()
      onChange(removeStop(gradient, index), null)
    }
  }
  return (
    <div className="px-3 pt-1 pb-7">
      <div
        ref={bar}
        className="relative h-10 rounded border border-ink/25"
        style={{
          background: paintBackground({ ...createPaint(), gradients: [along] }),
        }}
        onDoubleClick={(event) => {
          const next = addStop(gradient, shareAt(event.clientX))
          onChange(next, null)
        }}
      >
        {gradient.stops.map(({ at, color }, index) => (
          <button
            key={index}
            type="button"
            aria-pressed={index === open}
            aria-label={`Stop ${index + 1}, ${color} at ${Math.round(at * 100)} %. Arrow keys move it, Delete removes it.`}
            className="absolute top-full mt-0.5 size-6 -translate-x-1/2 cursor-ew-resize touch-none rounded-full border-2 border-white shadow-[0_0_0_1px_rgb(0_0_0/0.6)] aria-pressed:shadow-[0_0_0_3px_var(--color-curtain)]"
            style={{ left: `${at * 100}%`, background: color }}
            onDoubleClick={(event) => event.stopPropagation()}
            onPointerDown={(event) => {
              gesture.current = crypto.randomUUID()
              event.currentTarget.setPointerCapture(event.pointerId)
              onOpen(index)
            }}
            onPointerMove={drag(index)}
            onFocus={() => {
              gesture.current = crypto.randomUUID()
              onOpen(index)
            }}
            onKeyDown={press(index)}
          />
        ))}
      </div>
    </div>
  )
}
