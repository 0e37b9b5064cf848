import type { Size } from '../fit/cover'
import type { Definition } from './Definition'
import { elementsOf } from './elements'
import { prepare } from './prepare'

/**
 * A digest of all that is seen of a definition at some times, of every bit of every figure: by it
 * engines are compared. (FNV-1a over 32 bits.)
 */
export function digestOf(definition: Definition, area: Size, times: readonly number[]): string {
  const figures = new Float64Array(6)
  const bytes = new Uint8Array(figures.buffer)
  let digest = 0x811c9dc5
  const elements = elementsOf(prepare(definition), area)
  for (const time of times)
    for (const element of elements) {
      element.look(time)
      const { x, y, size, opacity, turn, colour } = element
      figures.set([x, y, size, opacity, turn, colour])
      for (const byte of bytes) digest = Math.imul(digest ^ byte, 0x01000193)
    }
  return (digest >>> 0).toString(16).padStart(8, '0')
}
