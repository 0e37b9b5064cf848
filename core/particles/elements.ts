import type { Size } from '../fit/cover'
import type { Definition, Shape } from './Definition'
import { chance, sine } from './exact'

/*
 * Where elements are at any time, without history. Each has several lives within the period, one
 * after another, and is elsewhere in each. A fast element crosses the whole area in a life, from
 * outside to outside; a slow one goes a part of the way and fades at both ends. All that swings
 * does so in whole rounds a period, so that everything is as it was at its end.
 */

/** What an element is throughout. */
export interface Element {
  readonly index: number
  /** 0 for the farthest plane, 1 for the nearest. */
  readonly nearness: number
  readonly shape: Shape
  /** CSS pixels. */
  readonly size: number
  /** 0 for sharp, 1 for a glow. */
  readonly softness: number
  readonly opacity: number
  /** Its place in the palette; null where that follows from its age. */
  readonly colour: number | null
  /** Where it goes: an angle in turns, and a step of one pixel. */
  readonly angle: number
  readonly right: number
  readonly down: number
  /** How many lives it has in a period, and how far it goes in one, in CSS pixels. */
  readonly lives: number
  readonly way: number
  /** Whether it comes from outside and leaves again: then it does not fade. */
  readonly crosses: boolean
  /** Where in its first life it begins, 0 to 1. */
  readonly phase: number
  /** Turns of its own in a period. */
  readonly spins: number
}

/** What is seen of an element at a time. */
export interface Seen {
  x: number
  y: number
  /** CSS pixels. */
  size: number
  /** 0 where it is not seen. */
  opacity: number
  /** In turns, to the right. */
  turn: number
  /** Its place in the palette. */
  colour: number
}

/** What chances are drawn for; lives come after these. */
const enum Use {
  Shape,
  Size,
  Opacity,
  Colour,
  Angle,
  Speed,
  Phase,
  Spin,
  Sway,
  Twinkle,
  Flow,
  Lives = 16,
}

/** Lives that have chances of their own: more would begin anew. */
const MAX_LIVES = 1024
/** An element that gets so far across the area in its life crosses all of it. */
const CROSSING = 0.6
/** The share of a life in which a slow element comes and goes. */
const FADE = 0.2

const between = ({ from, to }: { readonly from: number; readonly to: number }, share: number) =>
  from + (to - from) * share
const within = (value: number): number => Math.min(1, Math.max(0, value))
const smooth = (share: number): number => share * share * (3 - 2 * share)
/** Whole rounds in a period, at least one. */
const rounds = (period: number, seconds: number): number =>
  Math.max(1, Math.floor(period / seconds + 0.5))

/** The place in a list that a chance falls on, by weights. */
function weighted(entries: readonly { readonly weight: number }[], share: number): number {
  let left = share * entries.reduce((sum, { weight }) => sum + weight, 0)
  return Math.max(
    0,
    entries.findIndex(({ weight }) => (left -= weight) < 0),
  )
}

/** How many elements an area of CSS pixels has. */
export function elementCount(
  { perMegapixel, most }: Pick<Definition, 'perMegapixel' | 'most'>,
  { width, height }: Size,
): number {
  const wanted = Math.floor((perMegapixel * width * height) / 1e6 + 0.5)
  return Math.min(most, Math.max(1, wanted))
}

/** The elements of an area, the farthest first. Sides in CSS pixels. */
export function elementsOf(definition: Definition, area: Size): Element[] {
  const count = elementCount(definition, area)
  return Array.from({ length: count }, (_, index) => elementOf(definition, area, index, count))
}

function elementOf(
  { seed, period, shapes, size, depth, colours, opacity, motion }: Definition,
  { width, height }: Size,
  index: number,
  count: number,
): Element {
  const draw = (use: Use): number => chance(seed, index, use)
  const plane = Math.floor((index * depth.planes) / count)
  const nearness = depth.planes > 1 ? plane / (depth.planes - 1) : 1
  const far = 1 - nearness
  const diameter = between(size, draw(Use.Size)) * (1 - depth.size * far)
  const angle = (motion.direction + (draw(Use.Angle) - 0.5) * motion.spread) / 360
  const [right, down] = [sine(angle), -sine(angle + 0.25)]
  const speed = between(motion.speed, draw(Use.Speed)) * (1 - depth.speed * far)
  const across = Math.abs(right) * width + Math.abs(down) * height + 2 * diameter
  const crosses = speed * period >= CROSSING * across
  const lives = crosses ? rounds(period * speed, across) : rounds(period, motion.life)
  return {
    index,
    nearness,
    shape: shapes[weighted(shapes, draw(Use.Shape))]!.shape,
    size: diameter,
    softness: depth.softness * nearness,
    opacity: between(opacity, draw(Use.Opacity)),
    colour:
      colours.by === 'random'
        ? weighted(colours.palette, draw(Use.Colour))
        : colours.by === 'depth'
          ? Math.floor(nearness * (colours.palette.length - 1) + 0.5)
          : null,
    angle,
    right,
    down,
    lives: Math.min(MAX_LIVES, lives),
    way: crosses ? across : (speed * period) / lives,
    crosses,
    phase: draw(Use.Phase),
    spins: Math.floor((between(motion.spin, draw(Use.Spin)) * period) / 60 + 0.5),
  }
}

/**
 * Sets `seen` to what is seen of an element at a time, in seconds from the beginning of a period
 * (later ones are the same again). `area` as for `elementsOf`.
 */
export function look(
  element: Element,
  { seed, period, motion, where, colours }: Definition,
  area: Size,
  seconds: number,
  seen: Seen,
): void {
  const { index, right, down, lives } = element
  const share = seconds / period - Math.floor(seconds / period)
  const lived = share * lives + element.phase
  const life = Math.floor(lived) % lives
  const age = lived - Math.floor(lived)
  const middle = 4 * age * (1 - age)
  const swing = (use: Use, count: number, shift = 0): number =>
    sine(count * share + chance(seed, index, use) + shift)

  const place = (age - 0.5) * element.way
  const [one, other] = [
    chance(seed, index, Use.Lives + life),
    chance(seed, index, Use.Lives + MAX_LIVES + life),
  ]
  let x = right * place
  let y = down * place
  let opacity = element.opacity
  if (element.crosses) {
    const aside = (one - 0.5) * (Math.abs(down) * area.width + Math.abs(right) * area.height)
    x += area.width / 2 - down * aside
    y += area.height / 2 + right * aside
  } else {
    x += one * area.width
    y += other * area.height
    opacity *= smooth(within(Math.min(age, 1 - age) / FADE))
  }
  const { sway, wander, twinkle } = motion
  if (sway) {
    const aside = sway.distance * swing(Use.Sway, rounds(period, sway.seconds))
    x -= down * aside
    y += right * aside
  }
  if (wander) {
    // Neighbours have nearly the same phase; a second, quicker swing makes paths irregular.
    const count = rounds(period, wander.seconds)
    const own = 0.2 * chance(seed, index, Use.Flow)
    const flow = (shift: number): number =>
      sine(count * share + shift + own) + 0.45 * sine((2 * count + 1) * share + 1.7 * shift)
    const reach = wander.distance / 1.45
    const [shiftX, shiftY] = [y / 640, x / 520 + 0.3]
    x += reach * flow(shiftX)
    y += reach * flow(shiftY)
  }
  y -= motion.rise * middle
  if (twinkle) {
    const swung = swing(Use.Twinkle, rounds(period, twinkle.seconds))
    opacity *= 1 - twinkle.amount * (0.5 + 0.5 * swung)
  }
  const size = element.size * (1 - motion.swell + motion.swell * middle)
  const out = size / 2
  const isOutside = x < -out || y < -out || x > area.width + out || y > area.height + out
  seen.x = x
  seen.y = y
  seen.size = size
  seen.opacity = isOutside ? 0 : opacity * (where ? inBand(where, x, y, area) : 1)
  seen.turn = element.shape === 'streak' ? element.angle : element.spins * share + element.phase
  seen.colour = element.colour ?? Math.floor(age * colours.palette.length)
}

/** How much of an element is seen by its place in a band: 1 inside, less where it fades. */
function inBand(
  { edge, from, to, soft }: NonNullable<Definition['where']>,
  x: number,
  y: number,
  { width, height }: Size,
): number {
  const place = edge === 'left' || edge === 'right' ? x / width : y / height
  const at = edge === 'right' || edge === 'bottom' ? 1 - place : place
  const fade = (inside: number): number =>
    soft > 0 ? smooth(within(inside / soft)) : inside >= 0 ? 1 : 0
  // An end at an edge of the area is none.
  return (from > 0 ? fade(at - from) : 1) * (to < 1 ? fade(to - at) : 1)
}
