import type { Size } from '../fit/cover'
import { elementsOf, type Seen } from './elements'
import { sine } from './exact'
import { type Prepared } from './Prepared'

/*
 * Drawing of particles onto a 2D canvas. This is delivered to visitors: names of fields take bytes,
 * names within a function do not.
 */

/** A 2D context of a page or a worker. */
export type Context = CanvasRenderingContext2D | OffscreenCanvasRenderingContext2D

/** The pictures of sprites, in their order: those that have been loaded. */
export type Images = readonly (CanvasImageSource | undefined)[]

/** Where an element is: what links and pointers need of it. */
export type Point = Pick<Seen, 'x' | 'y' | 'opacity'>

/**
 * What is drawn with the elements, before them: links, what a pointer does. It is given how a
 * colour is faded, since parts of the script do not import from each other.
 */
export type Extra = (
  seen: Point[],
  context: Context,
  prepared: Prepared,
  fade: typeof faded,
) => void

/**
 * Clears a context and draws what is seen at a time; of all elements this share, from the
 * nearest. Returns how many these are.
 */
export type Draw = (context: Context, seconds: number, share?: number) => number

/** Shapes are drawn once at sizes that double from here, and scaled down from the next larger. */
const LEAST_SIDE = 8
const MOST_SIDE = 512
/** The share of a sprite's side that its shape takes: the rest is for its soft edge. */
const SPRITE_SHARE = 0.7
/** Radius of the blur of the softest, as a share of the shape's diameter. */
const BLUR = 0.07
/** Fainter elements would not change a byte. */
const FAINTEST = 0.002

/** A colour as `#rrggbb` with an opacity. */
const faded = (colour: string, opacity: number): string =>
  colour + (256 + Math.floor(opacity * 255 + 0.5)).toString(16).slice(1)

/**
 * How the elements of an area are drawn. `area` in CSS pixels, `density` in pixels of the canvas
 * for each of them; of pictures only those in `images` are drawn.
 */
export function painterOf(
  prepared: Prepared,
  area: Size,
  density: number,
  extras: readonly (Extra | undefined)[],
  images: Images = [],
): Draw {
  const elements = elementsOf(prepared, area)
  const [palette, , core, operation, shapes] = prepared[0]
  const sprites: Record<string, OffscreenCanvas> = {}

  /** A shape in a colour, at least as large as it is needed. */
  const spriteOf = (
    shape: number,
    colour: number,
    diameter: number,
    soft: number,
  ): OffscreenCanvas => {
    let side = LEAST_SIDE
    while (side < diameter && side < MOST_SIDE) side *= 2
    const key = `${[shape, colour, side, soft]}`
    if (!sprites[key]) {
      const room = side / SPRITE_SHARE
      const context = new OffscreenCanvas(room, room).getContext('2d')!
      sprites[key] = context.canvas
      const tint = palette[colour]!
      const [, ...steps] = shapes[shape]!
      // The unit is the shape's radius, about its middle.
      context.setTransform(side / 2, 0, 0, side / 2, room / 2, room / 2)
      // Browsers that know no filters draw it sharp.
      context.filter = `blur(${soft * side * BLUR}px)`
      for (const [path, width = 0, ink = 0, opacity = 1, light] of steps) {
        const image = images[path as unknown as number]
        const hue = [tint, core || tint][+ink] ?? `${ink}`
        let paint: string | CanvasGradient = faded(hue, opacity)
        if (light) {
          const [x, y, from, to, ...stops] = light
          paint = context.createRadialGradient(x!, y!, from!, x!, y!, to!)
          while (stops.length)
            paint.addColorStop(stops.shift()!, faded(hue, opacity * stops.shift()!))
        }
        // A second colour stays where the shape is.
        context.globalCompositeOperation = ink ? 'source-atop' : 'source-over'
        context.fillStyle = context.strokeStyle = paint
        context.lineCap = 'round'
        context.lineWidth = width
        if (image) context.drawImage(image, -1, -1, 2, 2)
        else context[width ? 'stroke' : 'fill'](new Path2D(path))
      }
    }
    return sprites[key]
  }

  return (context, seconds, share = 1) => {
    const shown = elements.slice(Math.floor(elements.length * (1 - share)))
    for (const { look } of shown) look(seconds)
    context.setTransform(density, 0, 0, density, 0, 0)
    context.clearRect(0, 0, area.width, area.height)
    context.globalCompositeOperation = operation
    const points: Point[] = [...shown]
    for (const extra of extras) extra?.(points, context, prepared, faded)
    for (const { x, y, size, opacity, turn, colour, shape, soft } of shown) {
      if (opacity < FAINTEST) continue
      const sprite = spriteOf(shape, colour, size * density, soft)
      const scale = (size * density) / (sprite.width * SPRITE_SHARE)
      const [right, down] = [sine(turn) * scale, sine(turn + 0.25) * scale]
      context.globalAlpha = opacity
      context.setTransform(down, right, -right, down, x * density, y * density)
      context.drawImage(sprite, -sprite.width / 2, -sprite.width / 2)
    }
    context.globalAlpha = 1
    return shown.length
  }
}
