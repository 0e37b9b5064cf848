/** A colour as three bytes, 0 to 255. */
export interface Rgb {
  readonly r: number
  readonly g: number
  readonly b: number
}

/**
 * An sRGB byte (0 to 255) as linear light, 0 to 1. Source: IEC 61966-2-1:1999, with the threshold
 * of WCAG 2.2.
 */
export function linearFromSrgb(byte: number): number {
  const value = byte / 255
  return value <= 0.04045 ? value / 12.92 : ((value + 0.055) / 1.055) ** 2.4
}

/**
 * `#rrggbb` as bytes. Throws RangeError for anything else; documents are checked at the boundary.
 */
export function parseHex(hex: string): Rgb {
  const found = /^#([0-9a-f]{2})([0-9a-f]{2})([0-9a-f]{2})$/i.exec(hex)
  if (!found) throw new RangeError(`"${hex}" is not a colour like #1b2a4c`)
  return { r: parseInt(found[1]!, 16), g: parseInt(found[2]!, 16), b: parseInt(found[3]!, 16) }
}

/** Bytes as `#rrggbb`, each rounded. */
export function formatHex({ r, g, b }: Rgb): string {
  return `#${[r, g, b].map((value) => Math.round(value).toString(16).padStart(2, '0')).join('')}`
}
