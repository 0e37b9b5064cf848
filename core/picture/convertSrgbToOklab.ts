import { linearFromSrgb } from './srgb'

/** Lightness 0 to 1 and two opponent axes, about −0.4 to 0.4. */
export interface Oklab {
  readonly lightness: number
  readonly a: number
  readonly b: number
}

/**
 * sRGB bytes (0 to 255) to OKLab. Source: Björn Ottosson, "A perceptual color space for image
 * processing" (2020), matrices of 2021-01-25.
 */
export function convertSrgbToOklab(red: number, green: number, blue: number): Oklab {
  const [r, g, b] = [linearFromSrgb(red), linearFromSrgb(green), linearFromSrgb(blue)]
  const l = Math.cbrt(0.4122214708 * r + 0.5363325363 * g + 0.0514459929 * b)
  const m = Math.cbrt(0.2119034982 * r + 0.6806995451 * g + 0.1073969566 * b)
  const s = Math.cbrt(0.0883024619 * r + 0.2817188376 * g + 0.6299787005 * b)
  return {
    lightness: 0.2104542553 * l + 0.793617785 * m - 0.0040720468 * s,
    a: 1.9779984951 * l - 2.428592205 * m + 0.4505937099 * s,
    b: 0.0259040371 * l + 0.7827717662 * m - 0.808675766 * s,
  }
}

/** Distance of two colours: Euclidean in OKLab, times 100. Below about 2 is hard to see. */
export function deltaE(one: Oklab, other: Oklab): number {
  return 100 * Math.hypot(one.lightness - other.lightness, one.a - other.a, one.b - other.b)
}
