import type { Point } from '../fit/cover'
import type { FocalClass } from '../fit/focal'
import type { Breakpoints } from '../fit/screens'
import { cssNumber } from './cssNumber'

/** A point as a CSS position. */
export const positionText = ({ x, y }: Point): string =>
  `${cssNumber(x * 100)}% ${cssNumber(y * 100)}%`

/** The windows of the classes that may have a focal point of their own, as media queries. */
export function focalWindows({ phone, laptop }: Breakpoints): Readonly<Record<FocalClass, string>> {
  return {
    laptop: `(min-width: ${phone + 1}px) and (max-width: ${laptop}px)`,
    phone: `(max-width: ${phone}px)`,
  }
}
