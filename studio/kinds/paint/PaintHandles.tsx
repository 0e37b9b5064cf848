import type { DocumentOf } from '../../../core/backdrop/BackdropDocument'
import type { Point } from '../../../core/fit/cover'
import { gradientGeometry } from '../../../core/kinds/paint/gradientGeometry'
import { moveStop } from '../../../core/kinds/paint/editGradient'
import type { Gradient } from '../../../core/kinds/paint/Paint'
import { Handle } from '../../ui/Handle'
import type { HandlesProps } from '../KindView'
import { useSelected } from './paintSelection'
import { usePaint } from './usePaint'

type Props = Omit<HandlesProps, 'document'> & { readonly document: DocumentOf<'paint'> }

/** The open gradient on the stage: its stops, its angle and its centre are dragged. */
export function PaintHandles({ document: { base }, width, height }: Props) {
  const { setGradient } = usePaint(base)
  const { index, stop: open, set } = useSelected(base.gradients)
  const gradient = base.gradients[index]
  if (!gradient) return null
  const geometry = gradientGeometry(gradient, width, height)
  const change = (fields: Partial<Gradient>, gesture: string): void =>
    setGradient(index, { ...gradient, ...fields }, gesture)
  const turn = (by: number, gesture: string): void =>
    change({ angleDeg: (((gradient.angleDeg + by) % 360) + 360) % 360 }, gesture)
  const shift = (x: number, y: number, gesture: string): void =>
    change(
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
          onDrag={(at, gesture) => change({ angleDeg: geometry.angleTo(at) }, gesture)}
          onKey={([x, y], gesture) => turn((x + y) * 100, gesture)}
        >
          <span className="size-3.5 rotate-45 border-2 border-white bg-black/60" />
        </Handle>
      )}
      {gradient.shape !== 'linear' && (
        <Handle
          name={`Centre, ${Math.round(gradient.centre.x * 100)} % across, ${Math.round(gradient.centre.y * 100)} % down. Arrow keys move it.`}
          place={{ x: gradient.centre.x * width, y: gradient.centre.y * height }}
          onDrag={({ x, y }, gesture) =>
            change({ centre: { x: share(x / width), y: share(y / height) } }, gesture)
          }
          onKey={([x, y], gesture) => shift(x, y, gesture)}
        >
          <span className="size-4 rounded-full border-2 border-white shadow-[0_0_0_1px_rgb(0_0_0/0.6),inset_0_0_0_1px_rgb(0_0_0/0.6)]" />
        </Handle>
      )}
      {gradient.stops.map(({ at, color }, stop) => (
        <Handle
          key={stop}
          name={`Stop ${stop + 1} on the stage, ${Math.round(at * 100)} %. Arrow keys move it.`}
          place={geometry.handleOf(at)}
          onOpen={() => set({ stop })}
          onDrag={(place, gesture) =>
            setGradient(index, moveStop(gradient, stop, geometry.alongTo(place)), gesture)
          }
          onKey={([x, y], gesture) =>
            setGradient(index, moveStop(gradient, stop, at + x + y), gesture)
          }
        >
          <span
            className={`size-4 rounded-full border-2 border-white ${stop === open ? 'shadow-[0_0_0_2px_#000]' : 'shadow-[0_0_0_1px_rgb(0_0_0/0.6)]'}`}
            style={{ background: color }}
          />
        </Handle>
      ))}
    </div>
  )
}

const share = (value: number): number => Math.round(Math.min(1, Math.max(0, value)) * 1000) / 1000
const pathOf = (line: readonly Point[]) => ({
  points: line.map(({ x, y }) => `${x},${y}`).join(' '),
  fill: 'none',
})
