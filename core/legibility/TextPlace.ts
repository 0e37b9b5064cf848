import type { Span } from '../kinds/Span'
import type { Plate } from '../scrim/Plate'
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
  /** When it is seen within the loop; absent for always. */
  readonly during?: readonly Span[] | undefined
  /** What a control has behind what is read of it, and letters around them; null for nothing. */
  readonly plate: Plate | null
  /** Of words: how opaque what letters have around them is over all of their boxes, 0 to 1. */
  readonly covered?: number
}

/** A region on a screen and what lies in front of it, in CSS pixels. */
export interface ScreenLayout {
  readonly region: { readonly width: number; readonly height: number }
  readonly texts: readonly TextPlace[]
}

/** The name of a text that is seen with some slides only, by their places from 0. */
export const ofSlides = (label: string, slides: readonly number[]): string =>
  `${label} of slide ${slides.map((slide) => slide + 1).join(', ')}`

/** Whether a text is one of some, of whatever slide it is. */
export const isOneOf = ({ label }: Pick<TextPlace, 'label'>, names: readonly string[]): boolean =>
  names.some((name) => label === name || label.startsWith(`${name} of slide `))

/** What surrounds a control: a frame of so many CSS pixels around its box. */
export function surroundings({ x, y, width, height }: Box, px = 8): Box[] {
  return [
    { x: x - px, y: y - px, width: width + 2 * px, height: px },
    { x: x - px, y: y + height, width: width + 2 * px, height: px },
    { x: x - px, y, width: px, height },
    { x: x + width, y, width: px, height },
  ]
}
