import type { KeyboardEvent } from 'react'

/** How far the arrow keys move, in shares of what is moved over; ten times that with Shift. */
const STEP = 0.01

/** Where an arrow key moves to, in shares; null for any other key. */
export function arrowStep({
  key,
  shiftKey,
}: Pick<KeyboardEvent, 'key' | 'shiftKey'>): readonly [across: number, down: number] | null {
  const step = shiftKey ? 10 * STEP : STEP
  switch (key) {
    case 'ArrowLeft':
      return [-step, 0]
    case 'ArrowRight':
      return [step, 0]
    case 'ArrowUp':
      return [0, -step]
    case 'ArrowDown':
      return [0, step]
    default:
      return null
  }
}
