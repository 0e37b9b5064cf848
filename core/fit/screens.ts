/** Screens the stage offers, in CSS pixels, with the class of rendition each one is served. */
export const SCREENS = {
  phone: { width: 390, height: 844, label: 'Phone', serves: 'phone' },
  tablet: { width: 820, height: 1180, label: 'Tablet', serves: 'laptop' },
  laptop: { width: 1280, height: 800, label: 'Laptop', serves: 'laptop' },
  wide: { width: 1920, height: 1080, label: 'Wide', serves: 'wide' },
} as const

export type ScreenName = keyof typeof SCREENS

/** Narrow to wide. */
export const SCREEN_NAMES = Object.keys(SCREENS) as ScreenName[]

/** Classes of screens that get a rendition each, narrow to wide. */
export const SCREEN_CLASSES = ['phone', 'laptop', 'wide'] as const
export type ScreenClass = (typeof SCREEN_CLASSES)[number]

/** The widest windows, in CSS pixels, that count as phone and as laptop. */
export interface Breakpoints {
  readonly phone: number
  readonly laptop: number
}

/**
 * The largest common window of a class, in CSS pixels, for which its file is made, and how many
 * device pixels moving pictures get for each: visually lossless above this behind copy.
 */
export interface ClassScreen {
  readonly width: number
  readonly height: number
  readonly density: number
}

/** Stands for the picture of a base that has no size of its own, or whose source is not known. */
export const USUAL_PICTURE = { width: 1920, height: 1080 } as const

/** What files are made for where a project says nothing else. */
export const CLASS_SCREENS: Readonly<Record<ScreenClass, ClassScreen>> = {
  phone: { width: 412, height: 892, density: 1.25 },
  laptop: { width: 1280, height: 800, density: 1 },
  wide: { width: SCREENS.wide.width, height: SCREENS.wide.height, density: 1 },
}

/**
 * The narrowest window, in CSS pixels, to which a class's clip goes; 0 for every window. Classes
 * that are not delivered hand their screens to the next wider one.
 */
export function minWindowWidth(
  screenClass: ScreenClass,
  delivered: readonly ScreenClass[],
  phoneShowsPoster: boolean,
  breakpoints: Breakpoints,
): number {
  const narrower = SCREEN_CLASSES.slice(0, SCREEN_CLASSES.indexOf(screenClass)).filter(
    (each): each is keyof Breakpoints => delivered.includes(each),
  )
  const below = narrower[narrower.length - 1]
  if (below !== undefined) return breakpoints[below] + 1
  return phoneShowsPoster ? breakpoints.phone + 1 : 0
}
