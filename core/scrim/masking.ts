import { blendOver } from '../picture/blend'
import { parseHex, type Rgb } from '../picture/srgb'
import { coverageSpread, meanCoverage, tileOfTexture } from '../texture/patterns'
import type { ScrimLayer } from './Scrim'

/** What a texture makes of small errors of the picture behind it, such as those of compression. */
export interface Masking {
  /** The share of an error that is still seen, 0 to 1 (above 1 where a blend mode enlarges it). */
  readonly left: number
  /** How far the pattern's own pixels are from their mean: a root mean square of luma, 0 to 255. */
  readonly pattern: number
}

/** Of 255: as large as errors of a file of 38 dB are. */
export const TYPICAL_ERROR = 255 / 10 ** (38 / 20)

const lumaOf = ({ r, g, b }: Rgb): number => 0.2126 * r + 0.7152 * g + 0.0722 * b

const moved = ({ r, g, b }: Rgb, by: number): Rgb => {
  const within = (value: number): number => Math.min(255, Math.max(0, value + by))
  return { r: within(r), g: within(g), b: within(b) }
}

/**
 * How a texture hides errors in front of a ground: less of them comes through where it covers, and
 * its own pattern is louder than they are. Source: docs/method.md (textures).
 */
export function maskingOf(layer: ScrimLayer, ground: Rgb): Masking {
  const { blend, strength, stops, texture, angleDeg } = layer
  const over = { ...parseHex(stops[0]!.color), alpha: strength }
  const seen = (under: Rgb): number => lumaOf(blendOver(blend, over, under))
  const [low, high] = [moved(ground, -TYPICAL_ERROR), moved(ground, TYPICAL_ERROR)]
  const through = Math.abs(seen(high) - seen(low)) / (lumaOf(high) - lumaOf(low))
  const tile = tileOfTexture(texture, angleDeg)
  return {
    left: 1 + meanCoverage(tile) * (through - 1),
    pattern: Math.abs(seen(ground) - lumaOf(ground)) * coverageSpread(tile),
  }
}
