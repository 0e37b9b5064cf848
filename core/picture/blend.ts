import type { Rgb } from './srgb'

/*
 * Blend modes as browsers draw them, in sRGB. Source: W3C Compositing and Blending Level 1, clause
 * 9. Colour dodge, colour burn and hue are not here: browsers differ in them by up to 79 of 255.
 */

/** Modes that work on each channel alone, then those that need all of them. */
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
] as const
export type BlendMode = (typeof BLEND_MODES)[number]

/** Modes by their places: millions of pixels are blended, and numbers are told apart faster. */
const codeOf = (mode: BlendMode): number => BLEND_MODES.indexOf(mode)
const FIRST_OF_COLORS = codeOf('color')

/** Blends a channel by a mode that works on each alone, on 0 to 1. */
function mixChannel(code: number, under: number, over: number): number {
  switch (code) {
    case 1:
      return under * over
    case 2:
      return under < over ? under : over
    case 3:
      return under + over - under * over
    case 4:
      return under > over ? under : over
    case 5:
      return hardLight(over, under)
    case 6:
      return softLight(under, over)
    case 7:
      return hardLight(under, over)
    case 8:
      return under > over ? under - over : over - under
    case 9:
      return under + over - 2 * under * over
    default:
      return over
  }
}

const hardLight = (under: number, over: number): number =>
  over <= 0.5 ? under * 2 * over : under + (2 * over - 1) - under * (2 * over - 1)

function softLight(under: number, over: number): number {
  if (over <= 0.5) return under - (1 - 2 * over) * under * (1 - under)
  const lifted = under <= 0.25 ? ((16 * under - 12) * under + 4) * under : Math.sqrt(under)
  return under + (2 * over - 1) * (lifted - under)
}

/** Whether a mode works on each channel alone: only then is its range known. */
export const isOfChannels = (mode: BlendMode): boolean => codeOf(mode) < FIRST_OF_COLORS

/** The function of a mode that works on each channel alone, on 0 to 1. */
export function channelBlend(
  mode: Exclude<BlendMode, 'color' | 'saturation' | 'luminosity'>,
): (under: number, over: number) => number {
  const code = codeOf(mode)
  return (under, over) => mixChannel(code, under, over)
}

const UNIT = 1 / 255

/** Steps of a table: quarters of a byte, so that modes bend where a table has a value. */
const STEPS = 4
/** One more than there are: a value is looked up with the one after it. */
const ENTRIES = 255 * STEPS + 2

/** What a colour makes of red at each step, then of green, then of blue; 0 to 255. */
interface BlendTable {
  readonly code: number
  readonly color: readonly number[]
  readonly values: Float32Array
}

/** The same layer lies over frame after frame; a few may take turns. */
const kept: BlendTable[] = []
const MOST_KEPT = 8

function tableOf(code: number, color: readonly [r: number, g: number, b: number]): Float32Array {
  const known = kept.find(
    (each) => each.code === code && each.color.every((value, index) => value === color[index]),
  )
  if (known) return known.values
  const values = Float32Array.from({ length: 3 * ENTRIES }, (_, entry) => {
    const under = Math.min(255, (entry % ENTRIES) / STEPS)
    return mixChannel(code, under * UNIT, color[Math.floor(entry / ENTRIES)]! * UNIT) * 255
  })
  kept.unshift({ code, color, values })
  kept.length = Math.min(kept.length, MOST_KEPT)
  return values
}

type Samples = Float32Array | Float64Array

/** Whether all samples have the colour of the first; their opacity may differ. */
function isOfOneColor(over: Samples, count: number): boolean {
  for (let top = 4; top < 4 * count; top += 4)
    if (over[top] !== over[0] || over[top + 1] !== over[1] || over[top + 2] !== over[2])
      return false
  return true
}

/** Fewer are blended faster than a table is made for them. */
const FEW = 256

/**
 * Blends colours over opaque ones. `seen` has red, green and blue of each, 0 to 255, and is written
 * into, not rounded; `over` the same with an opacity of 0 to 1 after each.
 */
export function blendSamples(seen: Samples, mode: BlendMode, over: Samples, count: number): void {
  const code = codeOf(mode)
  if (code >= FIRST_OF_COLORS) blendColors(seen, code, over, count)
  else if (count >= FEW && isOfOneColor(over, count)) blendByTable(seen, code, over, count)
  else blendChannels(seen, code, over, count)
}

function blendChannels(seen: Samples, code: number, over: Samples, count: number): void {
  for (let at = 0, top = 0; at < 3 * count; at += 3, top += 4) {
    const alpha = over[top + 3]!
    if (alpha === 0) continue
    for (let channel = 0; channel < 3; channel++) {
      const under = seen[at + channel]!
      const mixed = mixChannel(code, under * UNIT, over[top + channel]! * UNIT) * 255
      seen[at + channel] = under + (mixed - under) * alpha
    }
  }
}

function blendByTable(seen: Samples, code: number, over: Samples, count: number): void {
  const table = tableOf(code, [over[0]!, over[1]!, over[2]!])
  // The channels one by one: a loop over them takes twice as long.
  for (let at = 0, top = 3; at < 3 * count; at += 3, top += 4) {
    const alpha = over[top]!
    const r = seen[at]!
    const g = seen[at + 1]!
    const b = seen[at + 2]!
    const stepR = (r * STEPS) | 0
    const stepG = ENTRIES + ((g * STEPS) | 0)
    const stepB = 2 * ENTRIES + ((b * STEPS) | 0)
    const mixedR = table[stepR]! + (table[stepR + 1]! - table[stepR]!) * (r * STEPS - stepR)
    const mixedG =
      table[stepG]! + (table[stepG + 1]! - table[stepG]!) * (g * STEPS + ENTRIES - stepG)
    const mixedB =
      table[stepB]! + (table[stepB + 1]! - table[stepB]!) * (b * STEPS + 2 * ENTRIES - stepB)
    seen[at] = r + (mixedR - r) * alpha
    seen[at + 1] = g + (mixedG - g) * alpha
    seen[at + 2] = b + (mixedB - b) * alpha
  }
}

/**
 * Blends by a mode that needs all channels: a colour is given a luminosity, and drawn towards grey
 * as far as it would leave 0 to 255. In one function: calls would take several times as long.
 */
function blendColors(seen: Samples, code: number, over: Samples, count: number): void {
  const isColor = code === FIRST_OF_COLORS
  const isSaturation = code === FIRST_OF_COLORS + 1
  for (let at = 0, top = 0; at < 3 * count; at += 3, top += 4) {
    const alpha = over[top + 3]!
    if (alpha === 0) continue
    const ur = seen[at]!
    const ug = seen[at + 1]!
    const ub = seen[at + 2]!
    const or = over[top]!
    const og = over[top + 1]!
    const ob = over[top + 2]!
    let r = isColor ? or : ur
    let g = isColor ? og : ug
    let b = isColor ? ob : ub
    let least = r < g ? (r < b ? r : b) : g < b ? g : b
    let most = r > g ? (r > b ? r : b) : g > b ? g : b
    if (isSaturation) {
      const low = or < og ? (or < ob ? or : ob) : og < ob ? og : ob
      const high = or > og ? (or > ob ? or : ob) : og > ob ? og : ob
      const part = most === least ? 0 : (high - low) / (most - least)
      r = (r - least) * part
      g = (g - least) * part
      b = (b - least) * part
      most = (most - least) * part
      least = 0
    }
    const wanted =
      isColor || isSaturation ? 0.3 * ur + 0.59 * ug + 0.11 * ub : 0.3 * or + 0.59 * og + 0.11 * ob
    const shift = wanted - (0.3 * r + 0.59 * g + 0.11 * b)
    least += shift
    most += shift
    const part =
      least < 0 ? wanted / (wanted - least) : most > 255 ? (255 - wanted) / (most - wanted) : 1
    seen[at] = ur + (wanted + (r + shift - wanted) * part - ur) * alpha
    seen[at + 1] = ug + (wanted + (g + shift - wanted) * part - ug) * alpha
    seen[at + 2] = ub + (wanted + (b + shift - wanted) * part - ub) * alpha
  }
}

/** One colour blended over an opaque one; 0 to 255, the opacity 0 to 1. */
export function blendOver(
  mode: BlendMode,
  over: Rgb & { readonly alpha: number },
  under: Rgb,
): Rgb {
  // Most layers are not blended, and many cells are looked at on the stage's own thread.
  if (mode === 'normal') {
    const left = 1 - over.alpha
    return {
      r: over.r * over.alpha + under.r * left,
      g: over.g * over.alpha + under.g * left,
      b: over.b * over.alpha + under.b * left,
    }
  }
  const seen = Float64Array.of(under.r, under.g, under.b)
  blendSamples(seen, mode, Float64Array.of(over.r, over.g, over.b, over.alpha), 1)
  return { r: seen[0]!, g: seen[1]!, b: seen[2]! }
}

/** Modes in which the mean of blended pixels is what blending makes of their mean. */
const LINEAR: readonly BlendMode[] = ['normal', 'multiply', 'screen', 'hard-light', 'exclusion']

/** Whether pixels may be averaged before they are blended. */
export const isLinear = (mode: BlendMode): boolean => LINEAR.includes(mode)

const [DIFFERENCE, EXCLUSION] = [codeOf('difference'), codeOf('exclusion')]

/** Least and most. */
export type Range = readonly [least: number, most: number]

/**
 * Between what a channel lies after blending, 0 to 255, when it and what is blended over it lie
 * between least and most; so does the opacity. Never too narrow.
 */
export function blendRange([low, high]: Range, mode: BlendMode, over: Range, alpha: Range): Range {
  const code = codeOf(mode)
  let [least, most] = [0, 255]
  if (code < FIRST_OF_COLORS) {
    const at = (under: number, top: number): number =>
      mixChannel(code, under / 255, top / 255) * 255
    ;[least, most] = [at(low, over[0]), at(high, over[1])]
    // These two do not grow with both of what they blend.
    if (code === DIFFERENCE || code === EXCLUSION) {
      const corners = [least, most, at(low, over[1]), at(high, over[0])]
      ;[least, most] = [Math.min(...corners), Math.max(...corners)]
      // A difference is nothing where both may be equal.
      if (code === DIFFERENCE && over[0] <= high && over[1] >= low) least = 0
    }
  }
  // The more of it, the farther towards what is blended: whichever end that is.
  return [
    low + (least - low) * alpha[least < low ? 1 : 0],
    high + (most - high) * alpha[most > high ? 1 : 0],
  ]
}

/** Straight lines over what a channel is before: at least and at most so much after. */
export interface Envelope {
  readonly least: { readonly added: number; readonly left: number }
  readonly most: { readonly added: number; readonly left: number }
}

/** One step of blending: how, what lies over, and how strongly. */
export interface BlendStep {
  readonly mode: BlendMode
  readonly over: Range
  readonly alpha: Range
}

/** Steps in which what comes out is looked at, where it is no straight line. */
const PARTS = 32

/**
 * What several steps of blending make of a channel, between two lines that rise: bounds of many
 * pictures then cost no more than without blending. Never too narrow.
 */
export function blendEnvelope(steps: readonly BlendStep[]): Envelope {
  const through = (range: Range): Range =>
    steps.reduce((seen, { mode, over, alpha }) => blendRange(seen, mode, over, alpha), range)
  const [dark, bright] = [through([0, 0]), through([255, 255])]
  const rise = (from: number, to: number): number => Math.max(0, (to - from) / 255)
  const left = { least: rise(dark[0], bright[0]), most: rise(dark[1], bright[1]) }
  // The least of lines bends down between its ends, the most of lines bends up.
  if (steps.every(({ mode }) => isLinear(mode) && mode !== 'exclusion'))
    return {
      least: { added: dark[0], left: left.least },
      most: { added: dark[1], left: left.most },
    }
  let [least, most] = [Infinity, -Infinity]
  for (let part = 0; part < PARTS; part++) {
    const [from, to] = [(part * 255) / PARTS, ((part + 1) * 255) / PARTS]
    const [low, high] = through([from, to])
    least = Math.min(least, low - left.least * to)
    most = Math.max(most, high - left.most * from)
  }
  return { least: { added: least, left: left.least }, most: { added: most, left: left.most } }
}
