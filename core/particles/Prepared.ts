import type { Step } from './shapes'

/** What elements look like, and what is drawn with them. */
export type PreparedLook = readonly [
  palette: readonly string[],
  colourChances: readonly number[],
  /** The colour in the middle of lights; 0 for their own. */
  core: string | 0,
  /** How the canvas composes elements. */
  operation: 'source-over' | 'lighter',
  shapes: readonly (readonly [turned: number, ...steps: Step[]])[],
  shapeChances: readonly number[],
  links:
    readonly [distance: number, most: number, width: number, opacity: number, filled: number] | 0,
  pointer: readonly [reaction: number, radius: number, strength: number] | 0,
  /** Addresses of pictures; a step whose path is the place of one here draws it. */
  sprites: readonly string[],
]

/**
 * What of a definition is delivered and drawn: all that decides what is seen, in an order in place
 * of names, which would take bytes on every page. Lengths are CSS pixels, angles turns; what swings
 * is counted in whole rounds of a period; of two lists of chances the places are looked up.
 */
export type Prepared = readonly [
  look: PreparedLook,
  seed: number,
  period: number,
  /** Elements in a CSS pixel's area, and at most. */
  perPixel: number,
  most: number,
  sizeFrom: number,
  sizeTo: number,
  planes: number,
  smaller: number,
  slower: number,
  softness: number,
  opacityFrom: number,
  opacityTo: number,
  direction: number,
  spread: number,
  speedFrom: number,
  speedTo: number,
  lives: number,
  swayDistance: number,
  swayRounds: number,
  wanderReach: number,
  wanderRounds: number,
  spinFrom: number,
  spinTo: number,
  rise: number,
  swell: number,
  twinkleAmount: number,
  twinkleRounds: number,
  /**
   * Where elements are seen, in shares of the width (0) or the height (1); an end without a fade
   * lies far outside.
   */
  bandAxis: number,
  bandFrom: number,
  bandTo: number,
  bandSoft: number,
  /** 0 by chance, 1 by depth, 2 by age. */
  colouring: number,
]

/** Where links, pointer and sprites are in a look. */
export const LINKS = 6
export const POINTER = 7
export const SPRITES = 8

/** Reactions by their numbers. */
export const REACTIONS = ['part', 'gather', 'brighten', 'link'] as const
export const BRIGHTEN = 2
