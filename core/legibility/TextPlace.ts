import type { Layer } from '../scrim/scrimAt'
import type { Box } from '../scrim/frameContrast'

/** A text or control in front of a backdrop, as it is laid out on a screen. */
export interface TextPlace {
  /** What it is called where figures of it are told. */
  readonly label: string
  /** Where it is in the region, in CSS pixels; of what is read against its surroundings these. */
  readonly boxes: readonly Box[]
  /** `#rrggbb`. */
  readonly color: string
  /** The contrast that it needs (WCAG 2.2). */
  readonly needed: number
  /** What a control has behind what is read of it, over the scrim; null for nothing. */
  readonly plate: Layer | null
}

/** A region on a screen and what lies in front of it, in CSS pixels. */
export interface ScreenLayout {
  readonly region: { readonly width: number; readonly height: number }
  readonly texts: readonly TextPlace[]
}

/** What surrounds a control: a frame of so many CSS pixels around its box. */
export function surroundings({ x, y, width, height }: Box, px = 8): Box[] {
  return [
    { x: x - px, y: y - px, width: width + 2 * px, height: px },
    { x: x - px, y: y + height, width: width + 2 * px, height: px },
    { x: x - px, y, width: px, height },
    { x: x + width, y, width: px, height },
  ]
}
