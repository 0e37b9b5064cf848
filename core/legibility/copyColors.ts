import { convertOklabToHex } from '../picture/convertOklabToHex'
import { convertSrgbToOklab } from '../picture/convertSrgbToOklab'
import type { ShownPicture } from './pictureCost'

/** Lightness of tints that copy may have: nearly white, and nearly black. */
const TINTS = [0.96, 0.2]
/** How much of the picture's own chroma they keep. */
const CHROMA = 0.35

/**
 * Colours for copy in front of pictures: white, black, and a light and a dark tint of the picture's
 * mean colour. Without the one that the copy has.
 */
export function copyColors(pictures: readonly ShownPicture[], now: string): string[] {
  let [a, b, count] = [0, 0, 0]
  for (const { data } of pictures)
    for (let at = 0; at < data.length; at += 4) {
      const color = convertSrgbToOklab(data[at]!, data[at + 1]!, data[at + 2]!)
      a += color.a
      b += color.b
      count += 1
    }
  const tints =
    count === 0
      ? []
      : TINTS.map((lightness) =>
          convertOklabToHex({ lightness, a: (a / count) * CHROMA, b: (b / count) * CHROMA }),
        )
  return [...new Set(['#ffffff', '#000000', ...tints])].filter((color) => color !== now)
}
