import type { Point } from './cover'
import type { Breakpoints, ScreenClass } from './screens'

/** Classes of screens that may have a focal point of their own; the widest has the shared one. */
export const FOCAL_CLASSES = ['phone', 'laptop'] as const
export type FocalClass = (typeof FOCAL_CLASSES)[number]

/** The focal point of all screens, and those of some. */
export interface Focals {
  readonly focal: Point
  readonly ownFocal: Readonly<Record<FocalClass, Point | null>>
}

/** Whether a class may have a focal point of its own. */
export const isFocalClass = (screenClass: ScreenClass): screenClass is FocalClass =>
  screenClass !== 'wide'

/** The class of a window, by its width in CSS pixels. */
export function classOfWindow(width: number, { phone, laptop }: Breakpoints): ScreenClass {
  return width <= phone ? 'phone' : width <= laptop ? 'laptop' : 'wide'
}

/** The point that stays in view on a class of screens, in shares of the picture. */
export function focalOn({ focal, ownFocal }: Focals, screenClass: ScreenClass): Point {
  return (isFocalClass(screenClass) ? ownFocal[screenClass] : null) ?? focal
}

/** The same points with the one of a class, or of all screens (null), somewhere else. */
export const withFocal = (
  { focal, ownFocal }: Focals,
  screenClass: FocalClass | null,
  point: Point,
): { focal: Point; ownFocal: Record<FocalClass, Point | null> } => ({
  focal: screenClass ? focal : point,
  ownFocal: screenClass ? { ...ownFocal, [screenClass]: point } : { ...ownFocal },
})

/** The focal point that some classes have in common; null where they differ. */
export function sharedFocal(focals: Focals, classes: readonly ScreenClass[]): Point | null {
  const [first, ...others] = classes.map((each) => focalOn(focals, each))
  return first && others.every(({ x, y }) => x === first.x && y === first.y) ? first : null
}
