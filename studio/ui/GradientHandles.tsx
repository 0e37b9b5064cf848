import type { Point } from '../../core/fit/cover'
import { gradientGeometry } from '../../core/kinds/paint/gradientGeometry'
import { Handle } from './Handle'

/** A gradient as far as its handles show it. */
interface Shown {
  readonly shape: 'linear' | 'radial' | 'conic'
  readonly angleDeg: number
  readonly centre: Point
  readonly radius: number
  readonly stops: readonly { readonly at: number; readonly color: string }[]
}

interface GradientHandlesProps {
  readonly gradient: Shown
  /** The region on the stage, in pixels of the screen. */
  readonly width: number
  readonly height: number
  /** Which of its stops is open. */
  readonly open: number
  readonly onOpen: (stop: number) => void
  readonly onChange: (
    fields: Partial<{ readonly angleDeg: number; readonly centre: Point }>,
    gesture: string,
  ) => void
  readonly onMove: (stop: number, at: number, gesture: string) => void
}

/** A gradient on the stage: its stops, its angle and its centre are dragged, or moved by keys. */
export function GradientHandles({
  gradient,
  width,
  height,
  open,
  onOpen,
  onChange,
  onMove,
}: GradientHandlesProps) {
  const geometry = gradientGeometry(gradient, width, height)
  const turn = (by: number, gesture: string): void =>
    onChange({ angleDeg: (((gradient.angleDeg + by) % 360) + 360) % 360 }, gesture)
  const shift = (x: number, y: number, gesture: string): void =>
    onChange(
      { centre: { x: share(gradient.centre.x + x), y: share(gradient.centre.y + y) } },
      gesture,
    )
  const line = Array.from({ length: 21 }, (_, at) => geometry.handleOf(at / 20))
  return (
    <div className="pointer-events-none absolute top-0 left-0" style={{ width, height }}>
      {gradient.shape !== 'conic' && (
        <svg aria-hidden className="absolute inset-0 size-full overflow-visible">
          <polyline {...pathOf(line)} stroke="#000" strokeOpacity={0.5} strokeWidth={3} />
          <polyline {...pathOf(line)} stroke="#fff" strokeWidth={1.5} />
        </svg>
      )}
      {gradient.shape !== 'radial' && (
        <Handle
          name={`Angle, ${Math.round(gradient.angleDeg)} degrees. Arrow keys turn it.`}
          place={geometry.angleHandle}
          onDrag={(at, gesture) => onChange({ angleDeg: geometry.angleTo(at) }, gesture)}
          onKey={([x, y], gesture) => turn((x + y) * 100, gesture)}
        >
          <span className="size-3.5 rotate-45 border-2 border-white bg-black/60" />
        </Handle>
      )}
      {gradient.stops.map(({ at, color }, stop) => (
        <Handle
          key={stop}
          name={`Stop ${stop + 1} on the stage, ${Math.round(at * 100)} %. Arrow keys move it.`}
          place={geometry.handleOf(at)}
          onOpen={() => onOpen(stop)}
          onDrag={(place, gesture) => onMove(stop, geometry.alongTo(place), gesture)}
          onKey={([x, y], gesture) => onMove(stop, at + x + y, gesture)}
        >
          <span
            className={`size-4 rounded-full border-2 border-white ${stop === open ? 'shadow-[0_0_0_2px_#000]' : 'shadow-[0_0_0_1px_rgb(0_0_0/0.6)]'}`}
            style={{ background: color }}
          />
        </Handle>
      ))}
      {/* Over a stop in the middle: who drags there moves the whole. */}
      {gradient.shape !== 'linear' && (
        <Handle
          name={`Centre, ${Math.round(gradient.centre.x * 100)} % across, ${Math.round(gradient.centre.y * 100)} % down. Arrow keys move it.`}
          place={{ x: gradient.centre.x * width, y: gradient.centre.y * height }}
          onDrag={({ x, y }, gesture) =>
            onChange({ centre: { x: share(x / width), y: share(y / height) } }, gesture)
          }
          onKey={([x, y], gesture) => shift(x, y, gesture)}
        >
          <span className="size-4 rounded-full border-2 border-white shadow-[0_0_0_1px_rgb(0_0_0/0.6),inset_0_0_0_1px_rgb(0_0_0/0.6)]" />
        </Handle>
      )}
    </div>
  )
}

const share = (value: number): number => Math.round(Math.min(1, Math.max(0, value)) * 1000) / 1000
const pathOf = (line: readonly Point[]) => ({
  points: line.map(({ x, y }) => `${x},${y}`).join(' '),
  fill: 'none',
})
