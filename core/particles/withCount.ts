import type { Size } from '../fit/cover'
import { MAX_ELEMENTS, type Definition } from './Definition'

/** A definition with another number of elements in an area of CSS pixels. */
export function withCount(definition: Definition, area: Size, count: number): Definition {
  const megapixels = (area.width * area.height) / 1e6
  return {
    ...definition,
    // As many as wanted, however it is rounded later: a half more would be one more.
    perMegapixel: Math.min(4000, Math.max(0.5, (count - 0.5) / megapixels)),
    most: Math.min(MAX_ELEMENTS, Math.max(1, Math.floor(count + 0.5))),
  }
}
