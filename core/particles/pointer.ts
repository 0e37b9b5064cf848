import type { Extra } from './Painter'
import { BRIGHTEN, POINTER } from './Prepared'

/** How quickly a reaction comes and goes, as the share of the way in each frame. */
const EASE = 0.14

/** What is needed of an event of the window. */
export type PointerMove = Pick<
  PointerEvent,
  'type' | 'pointerType' | 'clientX' | 'clientY' | 'relatedTarget'
>

/** What a pointer does to elements. */
export interface Reaction {
  readonly extra: Extra
  /** Takes what pointers do in the window: its moves, and when it leaves. */
  readonly point: (event: PointerMove) => void
}

/**
 * The reaction to a pointer: displacements on top of where elements are, which vanish when it
 * leaves.
 */
export function reactionToPointer(): Reaction {
  let pointX = 0
  let pointY = 0
  let aim = 0
  let force = 0
  return {
    point({ type, pointerType, clientX, clientY, relatedTarget }) {
      if (pointerType !== 'mouse') return
      pointX = clientX
      pointY = clientY
      aim = type === 'pointerout' && !relatedTarget ? 0 : 1
    },
    extra(points, { canvas }, [look]) {
      const { left, top } = (canvas as HTMLCanvasElement).getBoundingClientRect()
      const [reaction, radius, strength] = look[POINTER] || [0, 1, 0]
      force += (aim * strength - force) * EASE
      for (const seen of points) {
        const right = seen.x + left - pointX
        const down = seen.y + top - pointY
        const away = Math.sqrt(right * right + down * down)
        const pull = force * Math.max(0, 1 - away / radius)
        if (reaction === BRIGHTEN) seen.opacity = Math.min(1, seen.opacity * (1 + 3 * pull))
        if (reaction < BRIGHTEN) {
          const way = reaction ? -pull : (pull * radius) / Math.max(1, away)
          seen.x += right * way
          seen.y += down * way
        }
      }
      // Links reach it as they reach an element.
      if (reaction > BRIGHTEN) points.push({ x: pointX - left, y: pointY - top, opacity: force })
    },
  }
}
