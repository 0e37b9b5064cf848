import type { Oklab } from './convertSrgbToOklab'
import { formatHex, type Rgb } from './srgb'

/**
 * OKLab as sRGB, 0 to 255 each, clamped and not rounded. Source: Björn Ottosson, "A perceptual
 * color space for image processing" (2020), inverse matrices.
 */
export function convertOklabToSrgb({ lightness, a, b }: Oklab): Rgb {
  const l = (lightness + 0.3963377774 * a + 0.2158037573 * b) ** 3
  const m = (lightness - 0.1055613458 * a - 0.0638541728 * b) ** 3
  const s = (lightness - 0.0894841775 * a - 1.291485548 * b) ** 3
  return {
    r: byteOf(4.0767416621 * l - 3.3077115913 * m + 0.2309699292 * s),
    g: byteOf(-1.2684380046 * l + 2.6097574011 * m - 0.3413193965 * s),
    b: byteOf(-0.0041960863 * l - 0.7034186147 * m + 1.707614701 * s),
  }
}

/** OKLab as `#rrggbb`, clamped to sRGB. */
export function convertOklabToHex(color: Oklab): string {
  return formatHex(convertOklabToSrgb(color))
}

/** Linear light, 0 to 1, on the scale of sRGB bytes. Source: IEC 61966-2-1:1999. */
function byteOf(linear: number): number {
  const clamped = Math.min(1, Math.max(0, linear))
  return 255 * (clamped <= 0.0031308 ? 12.92 * clamped : 1.055 * clamped ** (1 / 2.4) - 0.055)
}
