import type { Size } from '../fit/cover'
import type { Definition } from './Definition'
import { elementsOf, look, type Seen } from './elements'

/**
 * A digest of all that is seen of a definition at some times, of every bit of every figure: by it
 * engines are compared. (FNV-1a over 32 bits.)
 */
export function digestOf(definition: Definition, area: Size, times: readonly number[]): string {
  const seen: Seen = { x: 0, y: 0, size: 0, opacity: 0, turn: 0, colour: 0 }
  const figures = new Float64Array(6)
  const bytes = new Uint8Array(figures.buffer)
  let digest = 0x811c9dc5
  const elements = elementsOf(definition, area)
  for (const time of times)
    for (const element of elements) {
      look(element, definition, area, time, seen)
      figures.set([seen.x, seen.y, seen.size, seen.opacity, seen.turn, seen.colour])
      for (const byte of bytes) digest = Math.imul(digest ^ byte, 0x01000193)
    }
  return (digest >>> 0).toString(16).padStart(8, '0')
}
