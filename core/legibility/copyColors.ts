import { convertOklabToHex } from '../picture/convertOklabToHex'
import { convertSrgbToOklab, type Oklab } from '../picture/convertSrgbToOklab'
import type { ShownPicture } from './pictureCost'

/** Lightness of tints that copy may have: nearly white, and nearly black. */
const TINTS = [0.96, 0.2]
/** How much of the picture's own chroma they keep. */
const CHROMA = 0.35

/** Where between its hues the mean of pictures (RGBA) is in OKLab; null without any. */
export function meanTint(
  pictures: readonly Pick<ShownPicture, 'data'>[],
): Pick<Oklab, 'a' | 'b'> | null {
  let [a, b, count] = [0, 0, 0]
  for (const { data } of pictures)
    for (let at = 0; at < data.length; at += 4) {
      const color = convertSrgbToOklab(data[at]!, data[at + 1]!, data[at + 2]!)
      a += color.a
      b += color.b
      count += 1
    }
  return count === 0 ? null : { a: a / count, b: b / count }
}

/**
 * Colours for copy in front of pictures: white, black, and a light and a dark tint of the picture's
 * mean colour. Without the one that the copy has.
 */
export function copyColors(pictures: readonly ShownPicture[], now: string): string[] {
  const mean = meanTint(pictures)
  const tints = mean
    ? TINTS.map((lightness) =>
        convertOklabToHex({ lightness, a: mean.a * CHROMA, b: mean.b * CHROMA }),
      )
    : []
  return [...new Set(['#ffffff', '#000000', ...tints])].filter((color) => color !== now)
}
