import { parseHex } from '../picture/srgb'
import { contrastRatio } from '../scrim/contrast'

/** Nearly black or white, whichever reads better on a colour. */
export function inkOn(background: string): string {
  const ground = parseHex(background)
  return contrastRatio(ground, parseHex('#1a1410')) >= contrastRatio(ground, parseHex('#ffffff'))
    ? '#1a1410'
    : '#ffffff'
}
