import { converter, parse } from 'culori'
import { cutText, isStorableText } from '../bounded'
import { formatHex } from '../picture/srgb'
import { BRAND_LIMITS, familySchema } from './Brand'

const toRgb = converter('rgb')

/** A colour that a value stands for, or why it stands for none that can be kept. */
export type ColorValue = { readonly color: string } | { readonly why: string }

const CLEAR = 'is not opaque'
const NONE = 'is no colour'

/** Longer values are no colour. */
const MAX_VALUE = 200

/** Any colour that CSS can write; the channels of those outside sRGB are clamped. */
export function colorOf(value: string): ColorValue {
  if (value.length > MAX_VALUE) return { why: NONE }
  // A parser of foreign text: whatever it throws means that this is no colour.
  try {
    return fromCulori(parse(value.trim()))
  } catch {
    return { why: NONE }
  }
}

/** A colour of a Design Tokens file: its colour space by name, and its components. */
export function colorOfComponents(
  space: string,
  components: readonly number[],
  alpha: number,
): ColorValue {
  const mode = SPACES[space]
  if (!mode || components.length !== 3 || !components.every(Number.isFinite)) return { why: NONE }
  // Percent in the file, shares in CSS's own notation.
  const [a, b, c] = components
  const written =
    mode === 'hsl' || mode === 'hwb'
      ? `${mode}(${a} ${b}% ${c}%)`
      : mode.includes('lab') || mode.includes('lch')
        ? `${mode}(${a} ${b} ${c})`
        : `color(${mode} ${a} ${b} ${c})`
  return alpha < 1 ? { why: CLEAR } : colorOf(written)
}

/** Colour spaces of Design Tokens, as CSS writes them. Source: Design Tokens Color Module. */
const SPACES: Readonly<Record<string, string>> = {
  srgb: 'srgb',
  'srgb-linear': 'srgb-linear',
  hsl: 'hsl',
  hwb: 'hwb',
  lab: 'lab',
  lch: 'lch',
  oklab: 'oklab',
  oklch: 'oklch',
  'display-p3': 'display-p3',
  'a98-rgb': 'a98-rgb',
  'prophoto-rgb': 'prophoto-rgb',
  rec2020: 'rec2020',
  'xyz-d65': 'xyz-d65',
  'xyz-d50': 'xyz-d50',
}

function fromCulori(parsed: ReturnType<typeof parse>): ColorValue {
  const rgb = toRgb(parsed)
  if (!rgb) return { why: NONE }
  if ((rgb.alpha ?? 1) < 1) return { why: CLEAR }
  const byte = (value: number): number => Math.min(1, Math.max(0, value)) * 255
  const channels = { r: byte(rgb.r), g: byte(rgb.g), b: byte(rgb.b) }
  return Object.values(channels).every(Number.isFinite)
    ? { color: formatHex(channels) }
    : { why: NONE }
}

/** A list of typefaces without quotes; null where it is none. */
export function familyOf(value: string | readonly string[]): string | null {
  const names = (typeof value === 'string' ? value.split(',') : value)
    .map((each) =>
      each
        .trim()
        .replace(/^(["'])(.*)\1$/s, '$2')
        .trim(),
    )
    .filter((each) => each !== '')
  const family = names.join(', ')
  return familySchema.safeParse(family).success ? family : null
}

/** Weights by their names. Source: Design Tokens Format Module, clause 8.4. */
const WEIGHTS: Readonly<Record<string, number>> = {
  thin: 100,
  hairline: 100,
  'extra-light': 200,
  'ultra-light': 200,
  light: 300,
  normal: 400,
  regular: 400,
  book: 400,
  medium: 500,
  'semi-bold': 600,
  'demi-bold': 600,
  bold: 700,
  'extra-bold': 800,
  'ultra-bold': 800,
  black: 900,
  heavy: 900,
  'extra-black': 950,
  'ultra-black': 950,
}

/** A weight by number or name; null where it is none. */
export function weightOf(value: unknown): number | null {
  const weight = typeof value === 'string' ? (WEIGHTS[value.toLowerCase()] ?? Number(value)) : value
  return typeof weight === 'number' && Number.isInteger(weight) && weight >= 1 && weight <= 1000
    ? weight
    : null
}

/** A name that can be kept. */
export function nameOf(name: string): string {
  const storable = [...name].filter(isStorableText).join('').trim()
  return cutText(storable, BRAND_LIMITS.name).trim() || 'unnamed'
}
