import type { BrandColor } from '../brand/Brand'
import { inkOn } from '../copy/inkOn'
import { convertOklabToHex } from '../picture/convertOklabToHex'
import { convertSrgbToOklab, deltaE } from '../picture/convertSrgbToOklab'
import { parseHex } from '../picture/srgb'
import { contrastRatio, ratioOfLuminances, relativeLuminance } from '../scrim/contrast'
import { meanTint } from './copyColors'

/*
 * Colours for a button, from the picture that it stands in front of: at a lightness at which its
 * label is read on it, and it is told from what surrounds it in every frame.
 */

/** Relative luminances that count as the darkest and the brightest around a button (WCAG 2.2). */
export interface Surrounds {
  readonly darkest: number
  readonly brightest: number
}

/** A colour in OKLCH: lightness 0 to 1, chroma, hue in degrees. */
interface Oklch {
  readonly lightness: number
  readonly chroma: number
  readonly hue: number
}

/** Colours of a button at rest, under the pointer, and of the ring around it when it has focus. */
export interface ButtonColors {
  readonly color: string
  readonly hover: string
  readonly focus: string
}

/** Colours with where they come from. */
export interface ButtonSuggestion extends ButtonColors {
  readonly origin: 'opposite' | 'neighbouring' | 'brand'
  /** What a brand colour is called. */
  readonly name: string | null
  /** Whether it is the brand's own colour, unchanged. */
  readonly isExact: boolean
  /** Of the label on the button. */
  readonly labelRatio: number
  /** Of the button against what surrounds it, at least. */
  readonly aroundRatio: number
}

/** What a label needs on a button, and a button against what is around it (WCAG 2.2). */
const LABEL_NEEDS = 4.5
const BUTTON_NEEDS = 3
/** Colours have whole bytes, and samples are averages: so much more than is needed. */
const MARGIN = 1.02

/** Chroma of colours that are taken from the picture. */
const CHROMA = 0.15
/** A picture with less of it has no hue. */
const LEAST_CHROMA = 0.008
/** How far the button moves in lightness under the pointer. */
const HOVER_STEPS = [0.06, -0.06, 0.04, -0.04, 0.025, -0.025]
/** Neighbouring hues, in degrees from the picture's own. */
const NEIGHBOURS = [-35, 35]
/** Colours that are offered of a brand. */
const MOST_OF_BRAND = 6

/**
 * The luminances that surround a button, from the worst contrast of black and of white in its
 * place: with each the brightest or the darkest counts alone.
 */
export const surroundsOf = (worstOfBlack: number, worstOfWhite: number): Surrounds => ({
  darkest: Math.max(0, worstOfBlack * 0.05 - 0.05),
  brightest: Math.min(1, 1.05 / worstOfWhite - 0.05),
})

/**
 * The least contrast with what surrounds a button; null for a colour between the darkest and the
 * brightest, because nothing is known of what is between them: it may be lost somewhere.
 */
export function aroundRatio(color: string, { darkest, brightest }: Surrounds): number | null {
  const own = relativeLuminance(parseHex(color))
  if (own > brightest) return ratioOfLuminances(own, brightest)
  return own < darkest ? ratioOfLuminances(own, darkest) : null
}

const labelRatio = (color: string): number => contrastRatio(parseHex(inkOn(color)), parseHex(color))

const isTold = (color: string, surrounds: Surrounds): boolean =>
  (aroundRatio(color, surrounds) ?? 1) >= BUTTON_NEEDS * MARGIN

const isRead = (color: string): boolean => labelRatio(color) >= LABEL_NEEDS * MARGIN

/**
 * The hue of a picture in degrees, by the mean of its colours in OKLab; null where it has none.
 * `data` are RGBA bytes.
 */
export function hueOf(pictures: readonly { readonly data: Uint8ClampedArray }[]): number | null {
  const mean = meanTint(pictures)
  if (!mean || Math.hypot(mean.a, mean.b) < LEAST_CHROMA) return null
  return degreesOf(mean.a, mean.b)
}

const degreesOf = (a: number, b: number): number => ((Math.atan2(b, a) * 180) / Math.PI + 360) % 360

/**
 * Colours for a button: the hue opposite to the picture's, its neighbours, and the brand's own.
 * Each passes against its label and its surroundings, at rest and under the pointer; colours for
 * which no lightness does are left out.
 */
export function buttonColors(
  surrounds: Surrounds,
  hue: number | null,
  brand: readonly BrandColor[],
): ButtonSuggestion[] {
  const found: ButtonSuggestion[] = []
  const add = (
    wanted: Oklch | string,
    origin: ButtonSuggestion['origin'],
    name: string | null,
  ): void => {
    const exact = typeof wanted === 'string' ? wanted.toLowerCase() : null
    const lch = typeof wanted === 'string' ? oklchOf(wanted) : wanted
    const color = exact && passes(exact, surrounds) ? exact : lightened(lch, surrounds)
    if (!color || found.some((each) => each.color === color)) return
    found.push({
      origin,
      name,
      isExact: color === exact,
      ...withStates(color, surrounds),
      labelRatio: labelRatio(color),
      aroundRatio: aroundRatio(color, surrounds) ?? 1,
    })
  }
  for (const { name, color } of brand.slice(0, MOST_OF_BRAND)) add(color, 'brand', name)
  if (hue !== null) {
    const of = (turn: number): Oklch => ({ lightness: 0.7, chroma: CHROMA, hue: hue + turn })
    add(of(180), 'opposite', null)
    for (const turn of NEIGHBOURS) add(of(turn), 'neighbouring', null)
  }
  return found
}

const passes = (color: string, surrounds: Surrounds): boolean =>
  isTold(color, surrounds) && isRead(color) && hoverOf(color, surrounds) !== null

/** A colour with those of its states. */
function withStates(color: string, surrounds: Surrounds): ButtonColors {
  return { color, hover: hoverOf(color, surrounds)!, focus: focusOf(surrounds) }
}

/** What the ring around a button is read against: the picture on both of its sides. */
const focusOf = (surrounds: Surrounds): string =>
  (aroundRatio('#ffffff', surrounds) ?? 1) >= (aroundRatio('#000000', surrounds) ?? 1)
    ? '#ffffff'
    : '#000000'

/** Another lightness for the pointer, at which the same ink is read; null where there is none. */
function hoverOf(color: string, surrounds: Surrounds): string | null {
  const own = oklchOf(color)
  for (const step of HOVER_STEPS) {
    const hover = hexOf({ ...own, lightness: own.lightness + step })
    if (hover && inkOn(hover) === inkOn(color) && isRead(hover) && isTold(hover, surrounds))
      return hover
  }
  return null
}

/**
 * A colour of that hue at the lightness nearest to its own at which it passes, as much of its
 * chroma as sRGB has there; null where no lightness does.
 */
function lightened({ lightness, chroma, hue }: Oklch, surrounds: Surrounds): string | null {
  const offers = Array.from({ length: 81 }, (_, step) => 0.15 + step / 100)
    .map((each) => ({ each, away: Math.abs(each - lightness) }))
    .sort((one, other) => one.away - other.away)
  for (const { each } of offers) {
    const color = hexOf({ lightness: each, chroma, hue })
    if (color && passes(color, surrounds)) return color
  }
  return null
}

function oklchOf(hex: string): Oklch {
  const { r, g, b } = parseHex(hex)
  const color = convertSrgbToOklab(r, g, b)
  return {
    lightness: color.lightness,
    chroma: Math.hypot(color.a, color.b),
    hue: degreesOf(color.a, color.b),
  }
}

/** How far a colour may be from the one that is meant: a byte's rounding is less. */
const NEAR = 0.4

/** `#rrggbb`, with less chroma where sRGB has not as much; null beyond black and white. */
function hexOf({ lightness, chroma, hue }: Oklch): string | null {
  if (lightness < 0 || lightness > 1) return null
  const angle = (hue * Math.PI) / 180
  for (let share = 1; share > 0; share -= 0.02) {
    const [a, b] = [chroma * share * Math.cos(angle), chroma * share * Math.sin(angle)]
    const hex = convertOklabToHex({ lightness, a, b })
    const { r, g, b: blue } = parseHex(hex)
    if (deltaE(convertSrgbToOklab(r, g, blue), { lightness, a, b }) <= NEAR) return hex
  }
  return convertOklabToHex({ lightness, a: 0, b: 0 })
}
