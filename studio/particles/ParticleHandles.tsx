import type { Point } from '../../core/fit/cover'
import type { Definition } from '../../core/particles/Definition'
import type { HandlesProps } from '../kinds/KindView'
import { Handle } from '../ui/Handle'
import { useParticles } from './useParticles'

/** How long an arrow is for a speed, in shares of the region's width: the fastest fits into it. */
const LENGTH = 0.28
/** The speed whose arrow is half as long. */
const HALF_SPEED = 160
const MAX_SPEED = 2000
/** Steps of the arrow keys. */
const DEGREES = 5
const FASTER = 1.1

const round = (value: number, digits = 0): number => Math.round(value * 10 ** digits) / 10 ** digits
const turned = (degrees: number): number => ((round(degrees) % 360) + 360) % 360

/** Of particles on the stage: direction and speed as an arrow, and the ends of their band. */
export function ParticleHandles({ document, width, height }: HandlesProps) {
  const { particles } = document
  if (!particles) return null
  const { definition } = particles
  return (
    <div className="pointer-events-none absolute top-0 left-0" style={{ width, height }}>
      <Arrow definition={definition} width={width} height={height} />
      <Band definition={definition} width={width} height={height} />
      <Depth definition={definition} width={width} height={height} />
    </div>
  )
}

interface Props {
  readonly definition: Definition
  readonly width: number
  readonly height: number
}

/** The arrow points where elements go; the longer, the faster. */
function Arrow({ definition, width, height }: Props) {
  const { move } = useParticles(definition)
  const { direction, speed } = definition.motion
  const middle = { x: width * 0.62, y: height * 0.5 }
  const reach = LENGTH * width
  const length = (reach * speed.to) / (speed.to + HALF_SPEED)
  const angle = (direction * Math.PI) / 180
  const tip = { x: middle.x + Math.sin(angle) * length, y: middle.y - Math.cos(angle) * length }
  const set = (degrees: number, fastest: number, gesture: string): void => {
    const to = round(Math.min(MAX_SPEED, Math.max(1, fastest)))
    // The slowest keep their share of the fastest.
    const from = speed.to > 0 ? round((speed.from * to) / speed.to) : to
    move({ direction: turned(degrees), speed: { from, to } }, gesture)
  }
  const drag = ({ x, y }: Point, gesture: string): void => {
    const [right, down] = [x - middle.x, y - middle.y]
    const away = Math.min(0.92, Math.hypot(right, down) / reach)
    const degrees = (Math.atan2(right, -down) * 180) / Math.PI
    set(degrees, (HALF_SPEED * away) / (1 - away), gesture)
  }
  return (
    <>
      <svg aria-hidden className="absolute inset-0 size-full overflow-visible">
        <line {...ends(middle, tip)} stroke="#000" strokeOpacity={0.5} strokeWidth={4} />
        <line {...ends(middle, tip)} stroke="#fff" strokeWidth={2} />
        <circle cx={middle.x} cy={middle.y} r={4} fill="#fff" />
      </svg>
      <Handle
        name={`Direction ${round(direction)} degrees, up to ${round(speed.to)} pixels a second. Left and right turn it, up and down make it faster or slower.`}
        place={tip}
        onDrag={drag}
        onKey={([x, y], gesture) =>
          set(
            direction + Math.sign(x) * (Math.abs(x) > 0.05 ? 9 : 1) * DEGREES,
            speed.to * FASTER ** -Math.sign(y),
            gesture,
          )
        }
      >
        <span className="size-5 rounded-full border-2 border-white bg-curtain shadow-[0_0_0_1px_rgb(0_0_0/0.6)]" />
      </Handle>
      <span
        aria-hidden
        className="absolute -translate-x-1/2 rounded bg-black/60 px-1.5 font-mono text-xs whitespace-nowrap text-white"
        style={{ left: tip.x, top: tip.y - 34 }}
      >
        {round(speed.to)} px/s
      </span>
    </>
  )
}

const ends = (from: Point, to: Point) => ({ x1: from.x, y1: from.y, x2: to.x, y2: to.y })

/** Planes that depth begins with where there is only one. */
const FIRST_PLANES = 4
/** Radius of the circle that stands for near elements, in pixels of the stage. */
const NEAR_RADIUS = 15

/** Near and far as two circles: the farther they are apart, the smaller are far elements. */
function Depth({ definition, width, height }: Props) {
  const { define } = useParticles(definition)
  const { depth } = definition
  const near = { x: width * 0.56, y: height * 0.85 }
  const way = width * 0.24
  const set = (size: number, gesture: string): void =>
    define(
      {
        depth: {
          ...depth,
          planes: depth.planes > 1 ? depth.planes : FIRST_PLANES,
          size: round(Math.min(1, Math.max(0, size)), 2),
        },
      },
      gesture,
    )
  // Behind the handle there is still a circle to be seen.
  const far = { x: near.x + 24 + way * depth.size, y: near.y }
  const radius = Math.max(2, NEAR_RADIUS * (1 - depth.size))
  return (
    <>
      <svg aria-hidden className="absolute inset-0 size-full overflow-visible">
        <line {...ends(near, far)} stroke="#000" strokeOpacity={0.5} strokeWidth={3} />
        <line {...ends(near, far)} stroke="#fff" strokeWidth={1} strokeDasharray="3 3" />
        <circle cx={near.x} cy={near.y} r={NEAR_RADIUS} fill="none" stroke="#fff" strokeWidth={2} />
      </svg>
      <Handle
        name={`Depth: far ones are ${round(depth.size * 100)} % smaller. Arrow keys change it.`}
        place={far}
        onDrag={({ x }, gesture) => set((x - near.x - 24) / way, gesture)}
        onKey={([x, y], gesture) => set(depth.size + x - y, gesture)}
      >
        <span
          className="rounded-full border-2 border-white bg-black/60"
          style={{ width: 2 * radius, height: 2 * radius }}
        />
      </Handle>
      <span
        aria-hidden
        className="absolute rounded bg-black/60 px-1.5 font-mono text-xs whitespace-nowrap text-white"
        style={{ left: near.x - NEAR_RADIUS, top: near.y + 20 }}
      >
        far ones {round(depth.size * 100)} % smaller
      </span>
    </>
  )
}

/** The ends of a band, as lines across the region. */
function Band({ definition, width, height }: Props) {
  const { define } = useParticles(definition)
  const { where } = definition
  if (!where) return null
  const isAcross = where.edge === 'left' || where.edge === 'right'
  const isFar = where.edge === 'right' || where.edge === 'bottom'
  const along = (share: number): number => (isFar ? 1 - share : share) * (isAcross ? width : height)
  const shareAt = ({ x, y }: Point): number => {
    const share = isAcross ? x / width : y / height
    return round(Math.min(1, Math.max(0, isFar ? 1 - share : share)), 3)
  }
  const set = (end: 'from' | 'to', share: number, gesture: string): void => {
    const clamped = end === 'from' ? Math.min(share, where.to) : Math.max(share, where.from)
    define({ where: { ...where, [end]: round(Math.min(1, Math.max(0, clamped)), 3) } }, gesture)
  }
  return (['from', 'to'] as const).map((end) => {
    const at = along(where[end])
    const place = isAcross ? { x: at, y: height * 0.85 } : { x: width * 0.85, y: at }
    return (
      <div key={end} className="contents">
        <span
          aria-hidden
          className="absolute border-white/80 mix-blend-difference"
          style={
            isAcross
              ? { left: at, top: 0, height, borderLeftWidth: 1, borderStyle: 'dashed' }
              : { top: at, left: 0, width, borderTopWidth: 1, borderStyle: 'dashed' }
          }
        />
        <Handle
          name={`The band ${end === 'from' ? 'begins' : 'ends'} at ${round(where[end] * 100)} % from the ${where.edge}. Arrow keys move it.`}
          place={place}
          onDrag={(to, gesture) => set(end, shareAt(to), gesture)}
          onKey={([x, y], gesture) =>
            set(end, where[end] + (isFar ? -1 : 1) * (isAcross ? x : y), gesture)
          }
        >
          <span className="size-4 rotate-45 border-2 border-white bg-black/60" />
        </Handle>
      </div>
    )
  })
}
