import type { Size } from '../fit/cover'

/** The nearest even number, at least 2: 4:2:0 pictures have even sides. */
export const even = (value: number): number => Math.max(2, 2 * Math.round(value / 2))

/**
 * The size of a rendition asked to be `width` wide: never above the source, both sides even, shape
 * kept.
 */
export function renditionSize(source: Size, width: number): Size {
  const wide = Math.min(even(width), 2 * Math.floor(source.width / 2))
  return { width: wide, height: even((wide * source.height) / source.width) }
}
