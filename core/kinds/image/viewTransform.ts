import type { View } from './Image'

const rounded = (value: number): string => String(Math.round(value * 10_000) / 10_000)

/** The `transform-origin` that these transforms are about. */
export const VIEW_ORIGIN = '0 0'

/** A view as a CSS transform of the element that shows the image: it then fills the region. */
export function viewTransform({ x, y, zoom }: View): string {
  return `translate(${rounded(-x * zoom * 100)}%, ${rounded(-y * zoom * 100)}%) scale(${rounded(zoom)})`
}
