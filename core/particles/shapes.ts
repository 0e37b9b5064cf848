import type { Shape } from './Definition'

/*
 * Shapes are data: the delivered script knows how to draw steps, and gets those of the shapes that
 * a definition uses. Paths are SVG path data within a circle of radius 1 about the middle, pointing
 * up.
 */

/**
 * One step of drawing a shape: a fill, or a line where it has a width; or a picture, where its path
 * is the place of one among the sprites. Its colour is the element's
 * (0), that of the middle of lights (1), or another one as `#rrggbb`; the last two only where the
 * shape is drawn already. A light is round and takes the place of an even colour: its middle, its
 * inner and outer radius, then pairs of a place from 0 to 1 and the opacity there.
 */
export type Step = readonly [
  path: string,
  width?: number,
  ink?: number | string,
  opacity?: number,
  light?: readonly number[],
]

/**
 * How a shape is turned: by its element's spin (0), to where that goes, or not at all, since it is
 * round: pictures that are not turned are painted faster.
 */
const ALONG = 1
const ROUND = 2

/** A shape as it is drawn: how it is turned, then its steps. */
export type Drawing = readonly [turned: number, ...steps: Step[]]

/** Over all of a shape, with its soft edge. */
const ALL = 'M-2-2H2V2H-2Z'
/** The element's colour, only where something is drawn already: a text, that counts as 0. */
const TINT = '00'

/** A picture as a shape, in its own colours or in the element's. */
export const pictured = (place: number, tinted: boolean): Drawing => [
  0,
  [`${place}`],
  ...(tinted ? [[ALL, 0, TINT] as const] : []),
]

const CIRCLE = circle(1)
const SQUARE = 'M-1-1H1V1H-1Z'
/** A bell curve: light that has no edge. */
const BELL = [0, 1, 0.2, 0.82, 0.4, 0.46, 0.6, 0.18, 0.8, 0.05, 1, 0]

function circle(radius: number): string {
  return `M${radius} 0A${radius} ${radius} 0 1 1-${radius} 0A${radius} ${radius} 0 1 1 ${radius} 0Z`
}

const number = (value: number): string => String(Math.floor(value * 1000 + 0.5) / 1000)
/** The sines of a clock's twelve hours, and of the half hours between them. */
const HOURS = [0, 0.5, 0.866, 1, 0.866, 0.5, 0, -0.5, -0.866, -1, -0.866, -0.5]
const at = (hour: number, distance: number): string =>
  `${number(HOURS[hour % 12]! * distance)} ${number(-HOURS[(hour + 3) % 12]! * distance)}`

/** Six arms with two pairs of twigs each. */
const FLAKE = [0, 2, 4, 6, 8, 10]
  .map((hour) => {
    const [right, down] = [HOURS[hour]!, -HOURS[(hour + 3) % 12]!]
    const twigs = [
      [0.4, 0.3],
      [0.66, 0.2],
    ].flatMap(([from, length]) =>
      [hour + 2, hour + 10].map((way) => {
        const [x, y] = at(way, length!).split(' ').map(Number)
        const foot = [right * from!, down * from!] as const
        return `M${foot.map(number).join(' ')}L${number(foot[0] + x!)} ${number(foot[1] + y!)}`
      }),
    )
    return `M0 0L${at(hour, 0.94)}${twigs.join('')}`
  })
  .join('')

/** Every shape, as it is drawn. */
export const DRAWINGS: Readonly<Record<Shape, Drawing>> = {
  disc: [ROUND, [CIRCLE]],
  glow: [
    ROUND,
    [SQUARE, 0, 0, 1, [0, 0, 0, 1, ...BELL]],
    [circle(0.4), 0, 1, 1, [0, 0, 0, 0.36, 0, 1, 0.3, 0.85, 0.7, 0.2, 1, 0]],
  ],
  ring: [ROUND, [circle(0.96), 0.05]],
  // It comes from behind: its tail fades.
  streak: [
    ALONG,
    ['M0-1Q.045-.9.03 0L0 1-.03 0Q-.045-.9 0-1Z', 0, 0, 1, [0, -1, 0, 2, 0, 1, 0.3, 0.6, 1, 0]],
  ],
  flake: [0, [FLAKE, 0.1]],
  leaf: [
    0,
    ['M0-1C.5-.66.72-.1.5.34.36.62.14.72 0 .78-.14.72-.36.62-.5.34-.72-.1-.5-.66 0-1Z'],
    // One half lies in the shade; then the ribs, and the stalk.
    ['M0-1C.5-.66.72-.1.5.34.36.62.14.72 0 .78Z', 0, '#000000', 0.2],
    [
      'M0-.9V1M0-.3L.42-.62M0-.3L-.42-.62M0 .1L.52-.25M0 .1L-.52-.25M0 .46L.44.16M0 .46L-.44.16',
      0.045,
      '#000000',
      0.22,
    ],
    ['M0 .74V1', 0.09],
  ],
  petal: [
    0,
    ['M0 .96C.9.5.98-.7.3-.94Q.12-1 0-.78-.12-1-.3-.94C-.98-.7-.9.5 0 .96Z'],
    [SQUARE, 0, '#ffffff', 1, [0, 1, 0, 1.7, 0, 0.6, 0.6, 0.15, 1, 0]],
    ['M0 .9Q.1 0 .05-.6M0 .9Q-.3.2-.34-.4M0 .9Q.4.2.4-.4', 0.03, '#000000', 0.09],
  ],
  paper: [
    0,
    ['M-.95-.42Q-.3-.1 .1-.4T.95-.36V.42Q.4.1 0 .42T-.95.4Z'],
    [SQUARE, 0, '#000000', 1, [0.25, 0, 0, 0.9, 0, 0.34, 0.5, 0.1, 1, 0]],
    [SQUARE, 0, '#ffffff', 1, [-0.6, -0.2, 0, 0.6, 0, 0.35, 1, 0]],
  ],
  star: [
    0,
    [SQUARE, 0, 0, 0.5, [0, 0, 0, 0.6, ...BELL]],
    ['M0-1Q.035-.035 1 0 .035.035 0 1-.035.035-1 0-.035-.035 0-1Z'],
    [circle(0.3), 0, 1, 1, [0, 0, 0, 0.22, ...BELL]],
  ],
  // A thin skin that is brighter at its rim, with the light of a window in it.
  bubble: [
    0,
    [CIRCLE, 0, 0, 1, [0, 0, 0.4, 0.98, 0, 0.05, 0.75, 0.18, 0.95, 0.7, 1, 0]],
    ['M-.62-.33A.7.7 0 0 1-.3-.63', 0.09, 0, 0.8],
    ['M.5.5A.7.7 0 0 1 .3.63', 0.06, 0, 0.4],
  ],
  // An uneven patch of vapour.
  blob: [
    0,
    [SQUARE, 0, 0, 0.55, [0, 0, 0, 1, ...BELL]],
    [SQUARE, 0, 0, 0.4, [-0.34, 0.12, 0, 0.62, ...BELL]],
    [SQUARE, 0, 0, 0.4, [0.3, -0.16, 0, 0.66, ...BELL]],
    [SQUARE, 0, 0, 0.3, [0.42, 0.26, 0, 0.5, ...BELL]],
  ],
}
