import { z } from 'zod'
import { colorSchema, count, share } from '../../bounded'
import type { Point } from '../../fit/cover'
import { eased, EASINGS } from '../easing'
import { shuffled } from './shuffle'

/*
 * What is seen of two slides at a moment of a transition, as plain figures: the delivered style
 * (core/handoff/layers/slideFrames.ts) and frames of a clip are made from the same.
 */

/** Ways for one slide to give way to the next. */
export const TRANSITION_STYLES = [
  'crossfade',
  'through-colour',
  'push',
  'slide-over',
  'edge',
  'slats',
  'columns',
  'mosaic',
  'circle',
] as const
export type TransitionStyle = (typeof TRANSITION_STYLES)[number]

/** Where things move to. */
export const DIRECTIONS = ['left', 'right', 'up', 'down'] as const
export type Direction = (typeof DIRECTIONS)[number]

/** The longest transition in seconds. */
export const MAX_TRANSITION_SECONDS = 10

export const transitionSchema = z.object({
  style: z.enum(TRANSITION_STYLES),
  seconds: z.number().min(0).max(MAX_TRANSITION_SECONDS),
  easing: z.enum(EASINGS),
  /** Where what moves goes to; of the styles that have one. */
  direction: z.enum(DIRECTIONS),
  /** The colour between two slides. */
  color: colorSchema,
  /** Of a sweeping edge: how wide its soft zone is, as a share of its way. */
  softness: share(),
  /** Of a sweeping edge: where it goes, as CSS counts angles (0 up, 90 to the right). */
  angleDeg: z.number().min(0).max(360),
  /** Of a mosaic: its order. */
  seed: count(2 ** 31),
})
export type Transition = z.infer<typeof transitionSchema>

/** The transition that a slideshow begins with. */
export const FIRST_TRANSITION: Transition = {
  style: 'crossfade',
  seconds: 1.2,
  easing: 'ease-in-out',
  direction: 'left',
  color: '#14101c',
  softness: 0.2,
  angleDeg: 90,
  seed: 1,
}

/** An edge that sweeps over the region; everything behind it is seen. */
export interface Sweep {
  readonly angleDeg: number
  /** Width of the soft zone as a share of the way. */
  readonly softness: number
  /**
   * Where its middle is, from the region's middle: −1 and 1 are the region's corners, and the soft
   * zone begins and ends so much further out.
   */
  readonly at: number
}

/** What is seen of a slide: shares of the region. */
export interface Look {
  readonly opacity: number
  readonly x: number
  readonly y: number
  /** Corners of what is seen; null for all of it. */
  readonly outline: readonly Point[] | null
  /** Radius of what is seen round the middle, as a share of the way to a corner; null for all. */
  readonly circle: number | null
  readonly sweep: Sweep | null
  /** How much of the transition's colour covers its picture. */
  readonly wash: number
}

/** A slide that is seen whole. */
export const WHOLE: Look = {
  opacity: 1,
  x: 0,
  y: 0,
  outline: null,
  circle: null,
  sweep: null,
  wash: 0,
}

/** Slats, columns, and cells of a mosaic with the moments at which some of them appear. */
const SLATS = 8
const COLUMNS = 6
const CELLS = { across: 6, down: 4 } as const
export const MOSAIC_STEPS = 12
/** The share of a transition that one column takes to grow. */
const COLUMN_SHARE = 0.5

const STEP: Readonly<Record<Direction, Point>> = {
  left: { x: -1, y: 0 },
  right: { x: 1, y: 0 },
  up: { x: 0, y: -1 },
  down: { x: 0, y: 1 },
}

/** What is seen of the next slide, which lies over the other, at a share of the transition. */
export function entering(transition: Transition, time: number): Look {
  const { style, easing, direction, softness, angleDeg, seed } = transition
  const way = eased(easing, time)
  switch (style) {
    case 'crossfade':
      return { ...WHOLE, opacity: way }
    case 'through-colour':
      return {
        ...WHOLE,
        opacity: eased(easing, Math.min(1, 2 * time)),
        wash: 1 - eased(easing, Math.max(0, 2 * time - 1)),
      }
    case 'push':
    case 'slide-over': {
      const { x, y } = STEP[direction]
      return { ...WHOLE, x: -x * (1 - way), y: -y * (1 - way) }
    }
    case 'edge':
      return { ...WHOLE, sweep: { angleDeg, softness, at: (2 * way - 1) * (1 + softness) } }
    case 'slats':
      return { ...WHOLE, outline: turned(slats(way), direction) }
    case 'columns':
      return { ...WHOLE, outline: columns(easing, direction, time) }
    case 'mosaic':
      return { ...WHOLE, outline: mosaic(seed, Math.floor(time * MOSAIC_STEPS + 1e-6)) }
    case 'circle':
      return { ...WHOLE, circle: way }
  }
}

/** What is seen of the slide that gives way, which lies below. */
export function leaving(transition: Transition, time: number): Look {
  if (transition.style !== 'push') return WHOLE
  const { x, y } = STEP[transition.direction]
  const way = eased(transition.easing, time)
  return { ...WHOLE, x: x * way, y: y * way }
}

/** Strips from the left that grow to the right, as one outline: it joins them along the top. */
function slats(way: number): Point[] {
  return Array.from({ length: SLATS }, (_, index) => {
    const [from, to] = [index / SLATS, (index + way) / SLATS]
    return strip(from, to, 0, 1)
  }).flat()
}

/** A rectangle drawn from its top left corner round the bottom to its top right. */
function strip(left: number, right: number, top: number, bottom: number): Point[] {
  return [
    { x: left, y: top },
    { x: left, y: bottom },
    { x: right, y: bottom },
    { x: right, y: top },
  ]
}

/** An outline that grows to the right or down, turned so that it grows elsewhere. */
function turned(outline: readonly Point[], direction: Direction): Point[] {
  const turn: Readonly<Record<Direction, (point: Point) => Point>> = {
    right: (point) => point,
    left: ({ x, y }) => ({ x: 1 - x, y }),
    down: ({ x, y }) => ({ x: y, y: x }),
    up: ({ x, y }) => ({ x: y, y: 1 - x }),
  }
  return outline.map(turn[direction])
}

/** Columns that grow one after another, each in its half of the time. */
function columns(easing: Transition['easing'], direction: Direction, time: number): Point[] {
  const down = Array.from({ length: COLUMNS }, (_, index) => {
    const start = (index / (COLUMNS - 1)) * (1 - COLUMN_SHARE)
    const way = eased(easing, Math.min(1, Math.max(0, (time - start) / COLUMN_SHARE)))
    return strip(index / COLUMNS, (index + 1) / COLUMNS, 0, way)
  }).flat()
  // Of these the growing side is the lower one.
  const turn: Readonly<Record<Direction, (point: Point) => Point>> = {
    down: (point) => point,
    up: ({ x, y }) => ({ x, y: 1 - y }),
    right: ({ x, y }) => ({ x: y, y: x }),
    left: ({ x, y }) => ({ x: 1 - y, y: x }),
  }
  return down.map(turn[direction])
}

/** The cells of a mosaic that are seen after so many of its moments, row by row in one outline. */
function mosaic(seed: number, step: number): Point[] {
  const { across, down } = CELLS
  const cells = across * down
  const order = shuffled(cells + 1, seed).slice(1)
  const seen = new Set(
    order.slice(0, Math.round((cells * Math.min(step, MOSAIC_STEPS)) / MOSAIC_STEPS)),
  )
  return Array.from({ length: down }, (_, row) => {
    const [top, bottom] = [row / down, (row + 1) / down]
    const shown = Array.from({ length: across }, (_, column) => column).filter((column) =>
      seen.has(row * across + column + 1),
    )
    // Along the left edge from row to row: the way there encloses nothing.
    return [
      { x: 0, y: top },
      ...shown.flatMap((column) => strip(column / across, (column + 1) / across, top, bottom)),
      { x: 0, y: top },
    ]
  }).flat()
}
