import { indexedPng, pngAddress, type IndexedColor } from '../../picture/indexedPng'
import { formatHex, parseHex } from '../../picture/srgb'
import { evenLayer, type ScrimLayer } from '../../scrim/Scrim'
import { isAngled, lineAngle, tileOfTexture } from '../../texture/patterns'
import { FULL_LEVEL, PATTERNS, textureSchema, type Tile } from '../../texture/Texture'
import { cssNumber } from '../cssNumber'

/** The custom property that holds the size of a device pixel. */
export const DEVICE_PIXEL = '--tln-device-pixel'

type Textured = Pick<ScrimLayer, 'texture' | 'angleDeg' | 'strength' | 'stops'>

/** Two bits a pixel: a tile has four levels. */
const BITS = 2
const PIXELS_A_BYTE = 8 / BITS

/**
 * A texture as a CSS image: a PNG of four colours, as large as its tile. What it is of is told
 * after the data, where browsers ignore it and people can read it.
 */
export function textureImage(layer: Textured): string {
  const { texture, angleDeg, strength, stops } = layer
  const tile = tileOfTexture(texture, angleDeg)
  const { color } = stops[0]!
  const { r, g, b } = parseHex(color)
  const colors = Array.from({ length: FULL_LEVEL + 1 }, (_, level): IndexedColor => [
    ...([r, g, b] as const),
    Math.round((255 * strength * level) / FULL_LEVEL),
  ])
  const { width, height } = tile
  const png = indexedPng(width, height, BITS, colors, packed(tile))
  const angle = isAngled(texture.pattern) ? [lineAngle(angleDeg)] : []
  const told = [
    texture.pattern,
    ...angle,
    `x${texture.scale}`,
    color.slice(1).toLowerCase(),
    cssNumber(strength),
  ]
  return `url("${pngAddress(png)}#${told.join('_')}")`
}

/** The size in which a texture is repeated, in device pixels; null for layers of other shapes. */
export function textureSize(layer: Textured & Pick<ScrimLayer, 'shape'>): string | null {
  if (layer.shape !== 'texture') return null
  const { texture, angleDeg } = layer
  const { width, height } = tileOfTexture(texture, angleDeg)
  return [width, height]
    .map((side) => `calc(${side * texture.scale} * var(${DEVICE_PIXEL}, 1px))`)
    .join(' ')
}

/** Bytes that a texture takes in the style sheet. */
export const textureBytes = (layer: Textured): number => textureImage(layer).length

function packed({ width, height, levels }: Tile): Uint8Array {
  const stride = Math.ceil(width / PIXELS_A_BYTE)
  const rows = new Uint8Array(stride * height)
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const shift = BITS * (PIXELS_A_BYTE - 1 - (x % PIXELS_A_BYTE))
      rows[y * stride + Math.floor(x / PIXELS_A_BYTE)]! |= Number(levels[y * width + x]) << shift
    }
  return rows
}

const WRITTEN =
  /^\s*url\(["']?data:image\/png;base64,([A-Za-z0-9+/=]+)#([a-z-]+)(?:_(\d+))?_x([1-8])_([0-9a-f]{6})_([\d.]+)["']?\)\s*$/

/** What `textureImage` has written, read again; null for anything else. */
export function textureFrom(text: string): ScrimLayer | null {
  const found = WRITTEN.exec(text)
  if (!found) return null
  const [, data, name, angle, scale, color, strength] = found
  const pattern = [...PATTERNS, 'own' as const].find((each) => each === name)
  if (!pattern) return null
  const tile = pattern === 'own' ? tileFrom(data!) : null
  const texture = textureSchema.safeParse({ pattern, scale: Number(scale), tile })
  const layer = evenLayer(formatHex(parseHex(`#${color}`)), Number(strength))
  return texture.success
    ? { ...layer, shape: 'texture', angleDeg: Number(angle ?? 90), texture: texture.data }
    : null
}

/** Where a PNG of `indexedPng` has its size, and the rows of two bits begin. */
const [WIDTH_AT, HEIGHT_AT, ROWS_AT] = [19, 23, 33 + (12 + 12) + (12 + 4) + 8 + 7]

/** The tile of a PNG that `textureImage` has written; null for any other. */
function tileFrom(base64: string): Tile | null {
  let png: string
  try {
    png = atob(base64)
  } catch {
    return null
  }
  const [width, height] = [png.charCodeAt(WIDTH_AT), png.charCodeAt(HEIGHT_AT)]
  const stride = 1 + Math.ceil(width / PIXELS_A_BYTE)
  if (!(png.length >= ROWS_AT + stride * height)) return null
  const levelAt = (x: number, y: number): number => {
    const byte = png.charCodeAt(ROWS_AT + y * stride + 1 + Math.floor(x / PIXELS_A_BYTE))
    return (byte >> (BITS * (PIXELS_A_BYTE - 1 - (x % PIXELS_A_BYTE)))) & FULL_LEVEL
  }
  const levels = Array.from({ length: width * height }, (_, at) =>
    levelAt(at % width, Math.floor(at / width)),
  ).join('')
  return { width, height, levels }
}
