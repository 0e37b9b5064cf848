import type { Letters } from '../copy/letters'
import { parseHex } from '../picture/srgb'
import { cssNumber } from './cssNumber'

/** Directions in which an outline is drawn. */
const DIRECTIONS = 12

/** What letters have around them as rules of the copy: `own` selects the backdrop. */
export function letterRules(own: string, letters: Letters | null): string {
  if (!letters) return ''
  const { around, size } = letters
  const { r, g, b } = parseHex(letters.color)
  const color = `rgb(${r} ${g} ${b} / ${cssNumber(letters.strength)})`
  const print = (selector: string, values: string): string =>
    `@media print { .tln-region${own} ${selector} { ${values} } }\n`
  if (around === 'plate') {
    const plates = ':is(.tln-heading, .tln-body, .tln-onward, .tln-footer)'
    return (
      `.tln-region${own} ${plates} { box-sizing: border-box; width: fit-content; padding: ${size}px; background: ${color}; }\n` +
      `.tln-region${own} .tln-footer { margin-inline: auto; }\n` +
      print(plates, 'padding: 0; background: none;')
    )
  }
  const words = ':is(.tln-copy, .tln-end)'
  return (
    `.tln-region${own} ${words} { text-shadow: ${shadows(around, size, color)}; }\n` +
    `.tln-region${own} .tln-button:not(.tln-second) { text-shadow: none; }\n` +
    print(words, 'text-shadow: none;')
  )
}

/**
 * Copies of the letters behind them: an outline in all directions and, where it is wider than its
 * letters’ strokes may be, half-way too; a soft shadow three times, so that it is densest at them.
 */
function shadows(around: 'outline' | 'shadow', size: number, color: string): string {
  if (around === 'shadow')
    return [size, size / 2, size / 4].map((blur) => `0 0 ${blur}px ${color}`).join(', ')
  const rings = size > 2 ? [size, size / 2] : [size]
  return rings
    .flatMap((radius) =>
      Array.from({ length: DIRECTIONS }, (_, index) => {
        const angle = (2 * Math.PI * index) / DIRECTIONS
        const [x, y] = [Math.cos(angle) * radius, Math.sin(angle) * radius]
        return `${cssNumber(x)}px ${cssNumber(y)}px 0 ${color}`
      }),
    )
    .join(', ')
}
