import type { Size } from '../fit/cover'
import type { Definition, Shape } from './Definition'
import { elementsOf, look, type Element, type Seen } from './elements'
import { sine } from './exact'
import { linksOf, trianglesOf } from './links'
import { drawShape, faded, type Context } from './shapes'

/** A canvas of a page or a worker. */
export type Canvas = HTMLCanvasElement | OffscreenCanvas

/** Shapes are drawn once at these diameters, and scaled down from the next larger one. */
const SPRITE_SIDES = [8, 16, 32, 64, 128, 256, 512]
/** Softness in so many steps. */
const SOFT_STEPS = 4
/** Links are drawn together where they are about as strong. */
const LINK_STEPS = 4
const FULL_TURN = 2 * Math.PI
const MAX_BYTE = 255

/** How strong an area is beside its links. */
const FILL_SHARE = 0.2

/** The colour of links: the palette's first. */
const linkColour = ({ colours }: Definition): string => colours.palette[0]!.colour

/** Draws the elements of an area at any time. */
export class Painter {
  private readonly definition: Definition
  private readonly area: Size
  private readonly density: number
  private readonly makeCanvas: (side: number) => Canvas
  private readonly elements: readonly Element[]
  private readonly seen: Seen[]
  private readonly sprites = new Map<string, Canvas>()

  /**
   * `area` in CSS pixels, `density` in pixels of the canvas for each of them; `makeCanvas` makes
   * square ones.
   */
  constructor(
    definition: Definition,
    area: Size,
    density: number,
    makeCanvas: (side: number) => Canvas,
  ) {
    this.definition = definition
    this.area = area
    this.density = density
    this.makeCanvas = makeCanvas
    this.elements = elementsOf(definition, area)
    this.seen = this.elements.map(() => ({ x: 0, y: 0, size: 0, opacity: 0, turn: 0, colour: 0 }))
  }

  /** Draws onto a cleared context; of all elements the first `count`, from the nearest. */
  draw(context: Context, seconds: number, count = this.elements.length): void {
    const { elements, definition, area, density } = this
    const first = elements.length - count
    for (let index = first; index < elements.length; index++)
      look(elements[index]!, definition, area, seconds, this.seen[index]!)
    context.globalCompositeOperation = definition.blend === 'add' ? 'lighter' : 'source-over'
    context.setTransform(density, 0, 0, density, 0, 0)
    if (definition.links) this.drawLinks(context, this.seen.slice(first))
    for (let index = first; index < elements.length; index++)
      this.drawElement(context, elements[index]!, this.seen[index]!)
    context.setTransform(1, 0, 0, 1, 0, 0)
    context.globalAlpha = 1
    context.globalCompositeOperation = 'source-over'
  }

  private drawElement(
    context: Context,
    { shape, softness }: Element,
    { x, y, size, opacity, turn, colour }: Seen,
  ): void {
    if (opacity * MAX_BYTE < 0.5) return
    const { density } = this
    const tint = this.definition.colours.palette[colour]!.colour
    context.globalAlpha = opacity
    const soft = Math.floor(softness * SOFT_STEPS + 0.5)
    if (shape === 'disc' && soft === 0) {
      context.setTransform(density, 0, 0, density, 0, 0)
      context.fillStyle = tint
      context.beginPath()
      context.arc(x, y, size / 2, 0, FULL_TURN)
      context.fill()
      return
    }
    const sprite = this.sprite(shape, tint, size * density, soft)
    const scale = (size * density) / (sprite.width * SPRITE_SHARE)
    const [right, down] = [sine(turn) * scale, sine(turn + 0.25) * scale]
    context.setTransform(down, right, -right, down, x * density, y * density)
    context.drawImage(sprite, -sprite.width / 2, -sprite.width / 2)
  }

  /** A shape in a colour, at least as large as it is needed; its softness needs room around. */
  private sprite(shape: Shape, tint: string, diameter: number, soft: number): Canvas {
    const side =
      SPRITE_SIDES.find((each) => each >= diameter) ?? SPRITE_SIDES[SPRITE_SIDES.length - 1]!
    const key = `${shape} ${tint} ${side} ${soft}`
    const known = this.sprites.get(key)
    if (known) return known
    const canvas = this.makeCanvas(side / SPRITE_SHARE)
    const context = canvas.getContext('2d') as Context
    const middle = canvas.width / 2
    context.translate(middle, middle)
    // Browsers that know no filters draw it sharp.
    if (soft > 0) context.filter = `blur(${(soft / SOFT_STEPS) * side * 0.12}px)`
    drawShape(context, shape, tint, side / 2)
    this.sprites.set(key, canvas)
    return canvas
  }

  private drawLinks(context: Context, points: readonly Seen[]): void {
    const { links } = this.definition
    const { pairs, lengths } = linksOf(points, links!)
    const colour = linkColour(this.definition)
    if (links!.filled) {
      context.fillStyle = faded(colour, links!.opacity * FILL_SHARE)
      context.beginPath()
      for (const [first, ...others] of trianglesOf(pairs)) {
        context.moveTo(points[first]!.x, points[first]!.y)
        for (const corner of others) context.lineTo(points[corner]!.x, points[corner]!.y)
        context.closePath()
      }
      context.fill()
    }
    context.lineWidth = links!.width
    for (let step = 0; step < LINK_STEPS; step++) {
      context.beginPath()
      for (let at = 0; at < lengths.length; at++) {
        const [one, other] = [points[pairs[2 * at]!]!, points[pairs[2 * at + 1]!]!]
        const strength = (1 - lengths[at]!) * Math.min(one.opacity, other.opacity)
        if (Math.min(LINK_STEPS - 1, Math.floor(strength * LINK_STEPS)) !== step) continue
        context.moveTo(one.x, one.y)
        context.lineTo(other.x, other.y)
      }
      context.strokeStyle = faded(colour, links!.opacity * ((step + 0.5) / LINK_STEPS))
      context.stroke()
    }
  }
}

/** The share of a sprite's side that its shape takes: the rest is for its soft edge. */
const SPRITE_SHARE = 0.5
