import { linearFromSrgb, type Rgb } from '../picture/srgb'

/** Relative luminance, 0 to 1. Source: WCAG 2.2, "relative luminance". */
export function relativeLuminance({ r, g, b }: Rgb): number {
  return 0.2126 * linearFromSrgb(r) + 0.7152 * linearFromSrgb(g) + 0.0722 * linearFromSrgb(b)
}

/** Contrast ratio, 1 to 21, the same both ways round. Source: WCAG 2.2, "contrast ratio". */
export function contrastRatio(one: Rgb, other: Rgb): number {
  return ratioOfLuminances(relativeLuminance(one), relativeLuminance(other))
}

/** Contrast ratio of two luminances. */
export function ratioOfLuminances(one: number, other: number): number {
  return (Math.max(one, other) + 0.05) / (Math.min(one, other) + 0.05)
}
