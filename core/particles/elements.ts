import type { Size } from '../fit/cover'
import { chance, sine } from './exact'
import type { Prepared } from './Prepared'

/*
 * Where elements are at any time, without history. Each has several lives within the period, one
 * after another, and is elsewhere in each. A fast element crosses the whole area in a life, from
 * outside to outside; a slow one goes a part of the way and fades at both ends. All that swings
 * does so in whole rounds a period, so that everything is as it was at its end.
 *
 * This is delivered to visitors: names of fields take bytes, names within a function do not.
 */

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

/** An element: what is seen of it, since `look` was called the last time. */
export interface Element extends Seen {
  /** Its place in the definition's shapes. */
  readonly shape: number
  /** 0 for sharp, 1 for the softest. */
  readonly soft: number
  /** Finds what is seen at a time, in seconds; after a period it is the same again. */
  readonly look: (seconds: number) => void
}

/* What chances are drawn for; lives come after these. */
const SHAPE = 0
const SIZE = 1
const OPACITY = 2
const COLOUR = 3
const ANGLE = 4
const SPEED = 5
const PHASE = 6
const SPIN = 7
const SWAY = 8
const TWINKLE = 9
const FLOW = 10
const LIVES = 16

/** An element that gets so far across the area in its life crosses all of it. */
const CROSSING = 0.6
/** The share of a life in which a slow element comes and goes. */
const FADE = 0.2

const { abs, ceil, floor, max, min } = Math
const round = (value: number): number => floor(value + 0.5)
/** From 0 to 1 with a soft beginning and end. */
const smooth = (share: number): number => {
  const inside = min(1, max(0, share))
  return inside * inside * (3 - 2 * inside)
}

/** How many elements an area of CSS pixels has. */
export const elementCount = ([, , , perPixel, most]: Prepared, { width, height }: Size): number =>
  min(most, ceil(perPixel * width * height))

/** The elements of an area, the farthest first. Sides in CSS pixels. */
export function elementsOf(prepared: Prepared, area: Size): Element[] {
  const { width, height } = area
  const count = elementCount(prepared, area)
  // prettier-ignore
  const [
    [palette, colourChances, , , shapes, shapeChances], seed, period, , , sizeFrom, sizeTo, planes,
    smaller, slower, softness, opacityFrom, opacityTo, direction, spread, speedFrom, speedTo,
    lifeRounds, swayDistance, swayRounds, wanderReach, wanderRounds, spinFrom, spinTo, rise,
    swell, twinkleAmount, twinkleRounds, bandAxis, bandFrom, bandTo, bandSoft,
    colouring,
  ] = prepared

  return Array.from({ length: count }, (_, index): Element => {
    const draw = (use: number): number => chance(seed, index, use)
    const between = (from: number, to: number, use: number): number =>
      from + (to - from) * draw(use)
    const drawn = (chances: readonly number[], use: number): number =>
      chances.findIndex((upTo) => draw(use) < upTo)
    const near = planes > 1 ? floor((index * planes) / count) / (planes - 1) : 1
    const nearer = (share: number): number => 1 - share * (1 - near)
    const diameter = between(sizeFrom, sizeTo, SIZE) * nearer(smaller)
    const angle = direction + (draw(ANGLE) - 0.5) * spread
    const [right, down] = [sine(angle), -sine(angle + 0.25)]
    const speed = between(speedFrom, speedTo, SPEED) * nearer(slower)
    const across = abs(right) * width + abs(down) * height + 2 * diameter
    const crosses = speed * period >= CROSSING * across
    const lives = crosses ? max(1, round((period * speed) / across)) : lifeRounds
    const way = crosses ? across : (speed * period) / lives
    const phase = draw(PHASE)
    const spins = round(between(spinFrom, spinTo, SPIN))
    const strength = between(opacityFrom, opacityTo, OPACITY)
    const shape = drawn(shapeChances, SHAPE)

    const element = {
      colour: colouring ? round(near * (palette.length - 1)) : drawn(colourChances, COLOUR),
      shape,
      soft: softness * near,
      look(seconds: number) {
        const share = seconds / period - floor(seconds / period)
        const lived = share * lives + phase
        const age = lived - floor(lived)
        const now = LIVES + 2 * (floor(lived) % lives)
        const middle = 4 * age * (1 - age)
        const [one, other] = [draw(now), draw(now + 1)]
        const size = diameter * (1 - swell + swell * middle)
        let opacity = strength
        let aside = swayDistance * sine(swayRounds * share + draw(SWAY))
        let [x, y] = [width / 2, height / 2]
        if (crosses) aside += (one - 0.5) * (abs(down) * width + abs(right) * height)
        else {
          x = one * width
          y = other * height
          opacity *= smooth(min(age, 1 - age) / FADE)
        }
        x += right * (age - 0.5) * way - down * aside
        y += down * (age - 0.5) * way + right * aside
        // Neighbours have nearly the same phase; a second, quicker swing makes paths irregular.
        const flow = (shift: number): number =>
          (sine(wanderRounds * share + shift + 0.2 * draw(FLOW)) +
            0.45 * sine((2 * wanderRounds + 1) * share + 1.7 * shift)) *
          wanderReach
        const flowX = flow(y / 640)
        y += flow(x / 520 + 0.3) - rise * middle
        x += flowX
        opacity *= 1 - twinkleAmount * (0.5 + 0.5 * sine(twinkleRounds * share + draw(TWINKLE)))
        const at = bandAxis ? y / height : x / width
        opacity *= smooth((at - bandFrom) / bandSoft) * smooth((bandTo - at) / bandSoft)
        element.x = x
        element.y = y
        element.size = size
        element.opacity = min(x, y, width - x, height - y) < -size / 2 ? 0 : opacity
        element.turn = [spins * share + phase, angle, 0][shapes[shape]![0]]!
        if (colouring > 1) element.colour = floor(age * palette.length)
      },
    } as Element
    return element
  })
}
