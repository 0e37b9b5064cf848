import type { Shape } from './Definition'
import { sine } from './exact'

/** A 2D context of a page or a worker. */
export type Context = CanvasRenderingContext2D | OffscreenCanvasRenderingContext2D

const FULL_TURN = 2 * Math.PI

/** A point at a distance from the middle; `turns` as on a clock, from the top to the right. */
const at = (turns: number, distance: number): [number, number] => [
  sine(turns) * distance,
  -sine(turns + 0.25) * distance,
]

/** A colour as `#rrggbb` with an opacity. */
export const faded = (colour: string, opacity: number): string =>
  `${colour}${Math.floor(opacity * 255 + 0.5)
    .toString(16)
    .padStart(2, '0')}`

/** A round light that is brightest in its middle; its stops follow a bell curve. */
function glow(context: Context, colour: string, radius: number, core = 0): void {
  const light = context.createRadialGradient(0, 0, radius * core, 0, 0, radius)
  for (const [place, opacity] of [
    [0, 1],
    [0.2, 0.82],
    [0.4, 0.46],
    [0.6, 0.18],
    [0.8, 0.05],
    [1, 0],
  ] as const)
    light.addColorStop(place, faded(colour, opacity))
  context.fillStyle = light
  context.fillRect(-radius, -radius, 2 * radius, 2 * radius)
}

function fillPath(context: Context, draw: () => void): void {
  context.beginPath()
  draw()
  context.fill()
}

const circle = (context: Context, radius: number): void => {
  context.arc(0, 0, radius, 0, FULL_TURN)
}

/** Six arms with two pairs of twigs each. */
function flake(context: Context, radius: number): void {
  context.lineWidth = radius * 0.13
  context.lineCap = 'round'
  context.beginPath()
  for (let arm = 0; arm < 6; arm++) {
    const along = arm / 6
    context.moveTo(0, 0)
    context.lineTo(...at(along, radius * 0.93))
    for (const [from, length] of [
      [0.42, 0.3],
      [0.66, 0.22],
    ] as const)
      for (const side of [-1, 1]) {
        const [x, y] = at(along, radius * from)
        const [right, down] = at(along + side / 6, radius * length)
        context.moveTo(x, y)
        context.lineTo(x + right, y + down)
      }
  }
  context.stroke()
}

/** A pointed leaf with its rib. */
function leaf(context: Context, colour: string, radius: number): void {
  fillPath(context, () => {
    context.moveTo(0, -radius)
    context.bezierCurveTo(radius * 0.75, -radius * 0.5, radius * 0.6, radius * 0.5, 0, radius * 0.8)
    context.bezierCurveTo(-radius * 0.6, radius * 0.5, -radius * 0.75, -radius * 0.5, 0, -radius)
  })
  context.globalCompositeOperation = 'source-atop'
  context.strokeStyle = 'rgb(0 0 0 / 0.22)'
  context.lineWidth = radius * 0.06
  context.beginPath()
  context.moveTo(0, -radius)
  context.lineTo(0, radius)
  for (const place of [-0.35, 0, 0.35])
    for (const side of [-1, 1]) {
      context.moveTo(0, place * radius)
      context.lineTo(side * radius * 0.5, (place - 0.3) * radius)
    }
  context.stroke()
  context.globalCompositeOperation = 'source-over'
  context.strokeStyle = colour
  context.lineWidth = radius * 0.09
  context.beginPath()
  context.moveTo(0, radius * 0.75)
  context.lineTo(0, radius)
  context.stroke()
}

/** A petal with a notch, paler at its foot. */
function petal(context: Context, radius: number): void {
  fillPath(context, () => {
    context.moveTo(0, radius * 0.95)
    context.bezierCurveTo(
      radius,
      radius * 0.4,
      radius * 0.85,
      -radius,
      radius * 0.18,
      -radius * 0.9,
    )
    context.lineTo(0, -radius * 0.66)
    context.lineTo(-radius * 0.18, -radius * 0.9)
    context.bezierCurveTo(-radius * 0.85, -radius, -radius, radius * 0.4, 0, radius * 0.95)
  })
  context.globalCompositeOperation = 'source-atop'
  const pale = context.createLinearGradient(0, -radius, 0, radius)
  pale.addColorStop(0.2, 'rgb(255 255 255 / 0)')
  pale.addColorStop(1, 'rgb(255 255 255 / 0.55)')
  context.fillStyle = pale
  context.fillRect(-radius, -radius, 2 * radius, 2 * radius)
  context.globalCompositeOperation = 'source-over'
}

/** A bent slip of paper: one half is in the shade. */
function paper(context: Context, radius: number): void {
  const [wide, high] = [radius * 0.9, radius * 0.5]
  fillPath(context, () => {
    context.moveTo(-wide, -high)
    context.quadraticCurveTo(0, -high * 0.5, wide, -high)
    context.lineTo(wide, high)
    context.quadraticCurveTo(0, high * 1.5, -wide, high)
    context.closePath()
  })
  context.globalCompositeOperation = 'source-atop'
  const shade = context.createLinearGradient(-wide, 0, wide, 0)
  shade.addColorStop(0.3, 'rgb(0 0 0 / 0)')
  shade.addColorStop(0.55, 'rgb(0 0 0 / 0.3)')
  shade.addColorStop(0.8, 'rgb(0 0 0 / 0.05)')
  context.fillStyle = shade
  context.fillRect(-radius, -radius, 2 * radius, 2 * radius)
  context.globalCompositeOperation = 'source-over'
}

/** A point of light with four rays. */
function star(context: Context, colour: string, radius: number): void {
  context.globalAlpha = 0.55
  glow(context, colour, radius * 0.55)
  context.globalAlpha = 1
  context.fillStyle = colour
  fillPath(context, () => {
    context.moveTo(...at(0, radius))
    for (let ray = 1; ray <= 4; ray++)
      context.quadraticCurveTo(...at((ray - 0.5) / 4, radius * 0.06), ...at(ray / 4, radius))
  })
}

/** A thin skin that is brighter at its rim, with the light of a window in it. */
function bubble(context: Context, colour: string, radius: number): void {
  const skin = context.createRadialGradient(0, 0, radius * 0.5, 0, 0, radius * 0.96)
  skin.addColorStop(0, faded(colour, 0.04))
  skin.addColorStop(0.8, faded(colour, 0.16))
  skin.addColorStop(0.96, faded(colour, 0.75))
  skin.addColorStop(1, faded(colour, 0))
  context.fillStyle = skin
  fillPath(context, () => circle(context, radius))
  context.lineWidth = radius * 0.09
  context.lineCap = 'round'
  context.strokeStyle = faded(colour, 0.8)
  context.beginPath()
  context.arc(0, 0, radius * 0.7, 3.5, 4.3)
  context.stroke()
}

/** A soft, uneven patch. */
function blob(context: Context, radius: number): void {
  fillPath(context, () => {
    context.moveTo(...at(0, radius * 0.8))
    for (let part = 1; part <= 5; part++) {
      const out = radius * (part % 2 === 0 ? 1.05 : 0.82)
      context.quadraticCurveTo(
        ...at((part - 0.5) / 5, out),
        ...at(part / 5, radius * (part === 5 ? 0.8 : 0.7 + 0.06 * part)),
      )
    }
  })
}

/** Draws a shape about the middle of a context: as large as a circle of `radius`, pointing up. */
export function drawShape(context: Context, shape: Shape, colour: string, radius: number): void {
  context.fillStyle = colour
  context.strokeStyle = colour
  switch (shape) {
    case 'disc':
      return fillPath(context, () => circle(context, radius))
    case 'glow':
      return glow(context, colour, radius)
    case 'ring':
      context.lineWidth = radius * 0.16
      context.beginPath()
      circle(context, radius * 0.9)
      return context.stroke()
    case 'streak': {
      // It comes from behind: its tail fades.
      const tail = context.createLinearGradient(0, -radius, 0, radius)
      tail.addColorStop(0, faded(colour, 0.1))
      tail.addColorStop(0.12, faded(colour, 1))
      tail.addColorStop(1, faded(colour, 0))
      context.fillStyle = tail
      return context.fillRect(-radius * 0.05, -radius, radius * 0.1, 2 * radius)
    }
    case 'flake':
      return flake(context, radius)
    case 'leaf':
      return leaf(context, colour, radius)
    case 'petal':
      return petal(context, radius)
    case 'paper':
      return paper(context, radius)
    case 'star':
      return star(context, colour, radius)
    case 'bubble':
      return bubble(context, colour, radius)
    case 'blob':
      return blob(context, radius)
  }
}
