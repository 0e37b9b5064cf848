import { useRef, type KeyboardEvent, type PointerEvent } from 'react'
import { insideView, type View } from '../../../core/kinds/image/Image'
import { zoomed } from './zoomed'

/** Two views between which a picture is panned. */
export interface Pan {
  readonly from: View
  readonly to: View
}

/** Takes a changed view; `gesture` is the same during one drag. */
export type ChangePan = (pan: Pan, gesture: string | null) => void

/** Start and end views as frames on the stage: dragged by the middle, sized by a corner. */
export function PanFrames({
  pan,
  width,
  height,
  onChange,
}: {
  pan: Pan
  width: number
  height: number
  onChange: ChangePan
}) {
  return (
    <div className="pointer-events-none absolute top-0 left-0" style={{ width, height }}>
      <ViewFrame
        name="Start view"
        view={pan.from}
        className="border-white"
        onChange={(from, gesture) => onChange({ ...pan, from }, gesture)}
      />
      <ViewFrame
        name="End view"
        view={pan.to}
        className="border-dashed border-white"
        onChange={(to, gesture) => onChange({ ...pan, to }, gesture)}
      />
    </div>
  )
}

const STEP = 0.01
const ZOOM_STEP = 0.05

/** A view as a frame. */
function ViewFrame({
  name,
  view,
  className,
  onChange,
}: {
  name: string
  view: View
  className: string
  onChange: (view: View, gesture: string) => void
}) {
  const gesture = useRef('')
  const held = useRef<{ view: View; x: number; y: number } | null>(null)
  const begin = (event: PointerEvent<HTMLElement>): void => {
    gesture.current = crypto.randomUUID()
    event.currentTarget.setPointerCapture(event.pointerId)
    held.current = { view, x: event.clientX, y: event.clientY }
  }
  /** How far the pointer has come, in shares of the region. */
  const moved = (event: PointerEvent<HTMLElement>): readonly [number, number] | null => {
    if (!held.current || !event.currentTarget.hasPointerCapture(event.pointerId)) return null
    const box = event.currentTarget.closest('[data-frame]')!.parentElement!.getBoundingClientRect()
    return [
      (event.clientX - held.current.x) / box.width,
      (event.clientY - held.current.y) / box.height,
    ]
  }
  const drag = (event: PointerEvent<HTMLElement>): void => {
    const by = moved(event)
    if (!by) return
    const { view: from } = held.current!
    onChange(insideView({ ...from, x: from.x + by[0], y: from.y + by[1] }), gesture.current)
  }
  const size = (event: PointerEvent<HTMLElement>): void => {
    const by = moved(event)
    if (!by) return
    const { view: from } = held.current!
    // The corner opposite stays: only the size changes.
    const share = Math.max(0.05, 1 / from.zoom + Math.max(by[0], by[1]))
    onChange(insideView({ ...from, zoom: 1 / Math.min(1, share) }), gesture.current)
  }
  const press = (event: KeyboardEvent): void => {
    const step = event.shiftKey ? 10 * STEP : STEP
    const next = {
      ArrowLeft: { ...view, x: view.x - step },
      ArrowRight: { ...view, x: view.x + step },
      ArrowUp: { ...view, y: view.y - step },
      ArrowDown: { ...view, y: view.y + step },
      '+': zoomed(view, view.zoom + ZOOM_STEP),
      '=': zoomed(view, view.zoom + ZOOM_STEP),
      '-': zoomed(view, view.zoom - ZOOM_STEP),
    }[event.key]
    if (!next) return
    event.preventDefault()
    onChange(insideView(next), gesture.current)
  }
  const side = `${100 / view.zoom}%`
  return (
    <div
      data-frame
      className={`absolute border-2 shadow-[0_0_0_1px_rgb(0_0_0/0.5),inset_0_0_0_1px_rgb(0_0_0/0.5)] ${className}`}
      style={{ left: `${view.x * 100}%`, top: `${view.y * 100}%`, width: side, height: side }}
    >
      <button
        type="button"
        aria-label={`${name}, ${Math.round(view.x * 100)} % from the left, ${Math.round(view.y * 100)} % from the top, ${view.zoom.toFixed(2)} times. Arrow keys move it, plus and minus zoom.`}
        className={`pointer-events-auto absolute cursor-move touch-none rounded bg-black/70 px-2 py-1 text-xs text-white ${name === 'Start view' ? 'top-1 left-1' : 'right-1 bottom-1'}`}
        onPointerDown={begin}
        onPointerMove={drag}
        onFocus={() => (gesture.current = crypto.randomUUID())}
        onKeyDown={press}
      >
        {name}
      </button>
      <span
        aria-hidden
        className="pointer-events-auto absolute -right-1 -bottom-1 size-4 cursor-nwse-resize touch-none border-2 border-black/50 bg-white"
        onPointerDown={begin}
        onPointerMove={size}
      />
    </div>
  )
}
