import type { Definition } from './Definition'
import { REACTIONS, type Prepared } from './Prepared'
import { DRAWINGS, pictured } from './shapes'

/** How far the two swings of a flow go together. */
const FLOW_REACH = 1.45

/** Up to which chance each entry is drawn; the last one has all that is left. */
function chancesOf(entries: readonly { readonly weight: number }[]): number[] {
  const all = entries.reduce((sum, { weight }) => sum + weight, 0)
  let sum = 0
  return entries.map(({ weight }, index) =>
    index === entries.length - 1 ? 1 : (sum += weight) / all,
  )
}

/** Where an end of a band is that is none: at an edge nothing fades. */
const OUTSIDE = 9

/** A band by its axis, its ends and its fades; everywhere without one. */
function bandOf(
  where: Definition['where'],
): readonly [axis: number, from: number, to: number, soft: number] {
  if (!where) return [0, -OUTSIDE, OUTSIDE, 1]
  const isFar = where.edge === 'right' || where.edge === 'bottom'
  const [from, to] = isFar ? [1 - where.to, 1 - where.from] : [where.from, where.to]
  return [
    where.edge === 'left' || where.edge === 'right' ? 0 : 1,
    from > 0 ? from : -OUTSIDE,
    to < 1 ? to : OUTSIDE,
    // One that is not soft still has no jump.
    Math.max(where.soft, 1e-6),
  ]
}

/** The addresses of a definition's pictures. */
export const spritesOf = ({ shapes }: Pick<Definition, 'shapes'>): string[] =>
  shapes.flatMap(({ sprite }) => sprite ?? [])

/** A definition as it is delivered: six digits are more than a screen shows. */
export const particleData = (definition: Definition): string =>
  JSON.stringify(prepare(definition), (_, value: unknown) =>
    typeof value === 'number' && !Number.isInteger(value) ? Number(value.toPrecision(6)) : value,
  )

/** A definition as it is drawn. */
export function prepare(definition: Definition): Prepared {
  const { seed, period, perMegapixel, most, size, depth, opacity, motion, where } = definition
  const { colours, blend, shapes, links, pointer } = definition
  const sprites = spritesOf(definition)
  const { sway, wander, twinkle, speed, spin } = motion
  const rounds = (seconds: number): number => Math.max(1, Math.floor(period / seconds + 0.5))
  return [
    [
      colours.palette.map(({ colour }) => colour),
      chancesOf(colours.palette),
      colours.core ?? 0,
      blend === 'add' ? 'lighter' : 'source-over',
      shapes.map(({ shape, sprite, tinted }) =>
        shape ? DRAWINGS[shape] : pictured(sprites.indexOf(sprite!), tinted === true),
      ),
      chancesOf(shapes),
      links ? [links.distance, links.most, links.width, links.opacity, links.filled ? 1 : 0] : 0,
      pointer ? [REACTIONS.indexOf(pointer.reaction), pointer.radius, pointer.strength] : 0,
      sprites,
    ],
    seed,
    period,
    perMegapixel / 1e6,
    most,
    size.from,
    size.to,
    depth.planes,
    depth.size,
    depth.speed,
    depth.softness,
    opacity.from,
    opacity.to,
    motion.direction / 360,
    motion.spread / 360,
    speed.from,
    speed.to,
    rounds(motion.life),
    sway?.distance ?? 0,
    sway ? rounds(sway.seconds) : 0,
    (wander?.distance ?? 0) / FLOW_REACH,
    wander ? rounds(wander.seconds) : 0,
    (spin.from * period) / 60,
    (spin.to * period) / 60,
    motion.rise,
    motion.swell,
    twinkle?.amount ?? 0,
    twinkle ? rounds(twinkle.seconds) : 0,
    ...bandOf(where),
    colours.by === 'random' ? 0 : colours.by === 'depth' ? 1 : 2,
  ]
}
