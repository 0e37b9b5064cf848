import type { Rgb } from './srgb'

/*
 * Blend modes as browsers draw them, in sRGB. Source: W3C Compositing and Blending Level 1, clause
 * 9. Colour dodge, colour burn and hue are not here: browsers differ in them by up to 79 of 255.
 */

/** Modes that work on each channel alone. */
const CHANNEL_BLENDS = {
  normal: (_: number, over: number) => over,
  multiply: (under: number, over: number) => under * over,
  darken: Math.min,
  screen: (under: number, over: number) => under + over - under * over,
  lighten: Math.max,
  overlay: (under: number, over: number) => hardLight(over, under),
  'soft-light': (under: number, over: number) => {
    if (over <= 0.5) return under - (1 - 2 * over) * under * (1 - under)
    const lifted = under <= 0.25 ? ((16 * under - 12) * under + 4) * under : Math.sqrt(under)
    return under + (2 * over - 1) * (lifted - under)
  },
  'hard-light': hardLight,
  difference: (under: number, over: number) => Math.abs(under - over),
  exclusion: (under: number, over: number) => under + over - 2 * under * over,
} as const

function hardLight(under: number, over: number): number {
  return over <= 0.5 ? under * 2 * over : under + (2 * over - 1) - under * (2 * over - 1)
}

type Channels = readonly [r: number, g: number, b: number]

/** Modes that need all channels of both. */
const COLOR_BLENDS = {
  color: (under: Channels, over: Channels) => withLuminosity(over, luminosity(under)),
  saturation: (under: Channels, over: Channels) =>
    withLuminosity(withSaturation(under, saturation(over)), luminosity(under)),
  luminosity: (under: Channels, over: Channels) => withLuminosity(under, luminosity(over)),
} as const

const luminosity = ([r, g, b]: Channels): number => 0.3 * r + 0.59 * g + 0.11 * b

const saturation = (color: Channels): number => Math.max(...color) - Math.min(...color)

/** A colour of another lightness, drawn towards grey as far as it would leave 0 to 1. */
function withLuminosity(color: Channels, wanted: number): Channels {
  const shift = wanted - luminosity(color)
  const moved = color.map((channel) => channel + shift)
  const [least, most] = [Math.min(...moved), Math.max(...moved)]
  const part = least < 0 ? wanted / (wanted - least) : most > 1 ? (1 - wanted) / (most - wanted) : 1
  const [r, g, b] = moved.map((channel) => wanted + (channel - wanted) * part)
  return [r!, g!, b!]
}

function withSaturation(color: Channels, wanted: number): Channels {
  const [least, own] = [Math.min(...color), saturation(color)]
  if (own === 0) return [0, 0, 0]
  const [r, g, b] = color.map((channel) => ((channel - least) * wanted) / own)
  return [r!, g!, b!]
}

type ChannelBlend = keyof typeof CHANNEL_BLENDS
export type BlendMode = ChannelBlend | keyof typeof COLOR_BLENDS

export const BLEND_MODES = [
  'normal',
  'multiply',
  'darken',
  'screen',
  'lighten',
  'overlay',
  'soft-light',
  'hard-light',
  'difference',
  'exclusion',
  'color',
  'saturation',
  'luminosity',
] as const satisfies readonly BlendMode[]

const isOfChannels = (mode: BlendMode): mode is ChannelBlend => mode in CHANNEL_BLENDS

/** The function of a mode that works on each channel alone, on 0 to 1. */
export const channelBlend = (mode: ChannelBlend): ((under: number, over: number) => number) =>
  CHANNEL_BLENDS[mode]

/**
 * A colour blended over an opaque one by its opacity, both 0 to 255, not rounded. Writes red, green
 * and blue into `under`, which holds what is below.
 */
export function blendInto(
  under: [r: number, g: number, b: number],
  mode: BlendMode,
  r: number,
  g: number,
  b: number,
  alpha: number,
): void {
  if (alpha === 0) return
  const [ur, ug, ub] = under
  if (isOfChannels(mode)) {
    const blend = CHANNEL_BLENDS[mode]
    under[0] = ur + (blend(ur / 255, r / 255) * 255 - ur) * alpha
    under[1] = ug + (blend(ug / 255, g / 255) * 255 - ug) * alpha
    under[2] = ub + (blend(ub / 255, b / 255) * 255 - ub) * alpha
    return
  }
  const mixed = COLOR_BLENDS[mode]([ur / 255, ug / 255, ub / 255], [r / 255, g / 255, b / 255])
  under[0] = ur + (mixed[0] * 255 - ur) * alpha
  under[1] = ug + (mixed[1] * 255 - ug) * alpha
  under[2] = ub + (mixed[2] * 255 - ub) * alpha
}

/** The same for colours; `over` has its opacity. */
export function blendOver(
  mode: BlendMode,
  over: Rgb & { readonly alpha: number },
  under: Rgb,
): Rgb {
  const seen: [number, number, number] = [under.r, under.g, under.b]
  blendInto(seen, mode, over.r, over.g, over.b, over.alpha)
  return { r: seen[0], g: seen[1], b: seen[2] }
}

/** Modes in which the mean of blended pixels is what blending makes of their mean. */
const LINEAR: readonly BlendMode[] = ['normal', 'multiply', 'screen', 'hard-light', 'exclusion']

/** Whether pixels may be averaged before they are blended. */
export const isLinear = (mode: BlendMode): boolean => LINEAR.includes(mode)

/** Modes that do not grow with both of what they blend. */
const FALLING: readonly BlendMode[] = ['difference', 'exclusion']

/**
 * Between what a channel lies after blending, 0 to 255, when it and what is blended over it lie
 * between `least` and `most`; so does the opacity. Never too narrow; writes into `range`, which
 * holds the least and most of what is below.
 */
export function blendRange(
  range: [least: number, most: number],
  mode: BlendMode,
  over: readonly [least: number, most: number],
  alpha: readonly [least: number, most: number],
): void {
  const [low, high] = range
  let [least, most] = [0, 255]
  if (isOfChannels(mode)) {
    const blend = CHANNEL_BLENDS[mode]
    const at = (under: number, top: number): number => blend(under / 255, top / 255) * 255
    least = at(low, over[0])
    most = at(high, over[1])
    if (FALLING.includes(mode)) {
      const [rising, falling] = [at(low, over[1]), at(high, over[0])]
      ;[least, most] = [
        Math.min(least, most, rising, falling),
        Math.max(least, most, rising, falling),
      ]
      // A difference is nothing where both may be equal.
      if (mode === 'difference' && over[0] <= high && over[1] >= low) least = 0
    }
  }
  // The more of it, the farther towards what is blended: whichever end that is.
  range[0] = low + (least - low) * alpha[least < low ? 1 : 0]
  range[1] = high + (most - high) * alpha[most > high ? 1 : 0]
}
