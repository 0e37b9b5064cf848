import { channelBlend } from '../../picture/blend'
import { parseHex } from '../../picture/srgb'
import { colorTable, tableIndex } from './gradientColors'
import type { Gradient, Paint } from './Paint'
import { paintTransform, placeAtRest } from './paintMotion'

/** The share of a gradient's way at a place, in pixels of a `width` × `height` region. */
function alongOf(
  { shape, angleDeg, centre, radius }: Gradient,
  width: number,
  height: number,
): (x: number, y: number) => number {
  const angle = (angleDeg * Math.PI) / 180
  const [sin, cos] = [Math.sin(angle), Math.cos(angle)]
  if (shape === 'linear') {
    // CSS Images Module Level 3, clause 3.1.1: corner to corner along the angle.
    const length = Math.abs(width * sin) + Math.abs(height * cos)
    return (x, y) => ((x - width / 2) * sin - (y - height / 2) * cos) / length + 0.5
  }
  const [cx, cy] = [centre.x * width, centre.y * height]
  if (shape === 'radial')
    return (x, y) => Math.hypot((x - cx) / (radius * width), (y - cy) / (radius * height))
  return (x, y) => {
    const turned = Math.atan2(x - cx, cy - y) - angle
    return (((turned / (2 * Math.PI)) % 1) + 1) % 1
  }
}

/** The colour of a paint at a place in pixels of the region, 0 to 255 each, not rounded. */
export type PaintSampler = (x: number, y: number) => readonly [number, number, number]

/**
 * A paint in a `width` × `height` region as browsers draw it, place by place; `progress` is how far
 * its motion has come, 0 to 1.
 */
export function paintSampler(
  paint: Paint,
  width: number,
  height: number,
  progress = 0,
): PaintSampler {
  const ground = parseHex(paint.color)
  const transform = paintTransform(paint)
  const layers = paint.gradients.map((gradient, index) => ({
    along: alongOf(gradient, width, height),
    table: colorTable(gradient),
    opacity: gradient.opacity,
    blend: channelBlend(index === 1 ? paint.blend : 'normal'),
  }))
  return (x, y) => {
    const at = placeAtRest(transform, progress, x, y, width, height)
    let [r, g, b] = [ground.r, ground.g, ground.b]
    for (const { along, table, opacity, blend } of layers) {
      const index = tableIndex(along(at.x, at.y))
      const over = (under: number, value: number): number =>
        under + (blend(under / 255, value / 255) * 255 - under) * opacity
      r = over(r, table[index]!)
      g = over(g, table[index + 1]!)
      b = over(b, table[index + 2]!)
    }
    return [r, g, b]
  }
}

/** A paint as pixels, RGBA row after row. */
export function paintPixels(
  paint: Paint,
  width: number,
  height: number,
  progress = 0,
): Uint8ClampedArray<ArrayBuffer> {
  const data = new Uint8ClampedArray(width * height * 4)
  const sample = paintSampler(paint, width, height, progress)
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const at = (y * width + x) * 4
      data.set(sample(x + 0.5, y + 0.5), at)
      data[at + 3] = 255
    }
  }
  return data
}
