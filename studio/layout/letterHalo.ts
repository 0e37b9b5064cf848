import type { Plate } from '../../core/scrim/Plate'
import { haloAround } from '../../core/legibility/haloAround'
import { layerOf } from './layerOf'

/** What letters have around them: how opaque it is next to them, and over all of their box. */
export interface LetterHalo {
  readonly plate: Plate
  /** 0 to 1. */
  readonly covered: number
}

/** Pixels of the drawing for each CSS pixel: small letters are drawn larger. */
const densityOf = (fontPx: number): number => (fontPx < SMALL_PX ? 2 : 1)
const SMALL_PX = 32
/** So many letters stand for a text. */
const LETTERS = 24
/** Beside letters, in CSS pixels: what is farther is not what they are told from. */
const EDGE_PX = 2
/** Beyond letters, in CSS pixels: as far as the widest shadow reaches. */
const MARGIN = 30
/** Drawings are moved away by more than any is wide: only their shadows are left. */
const AWAY = 20_000
/** Different letters and faces that are remembered. */
const MAX_KNOWN = 60

const known = new Map<string, LetterHalo | null>()

/** What the letters of an element have around them: a plate, or their shadows; null for nothing. */
export function aroundLetters(style: CSSStyleDeclaration, element: HTMLElement): LetterHalo | null {
  const ground = layerOf(style.backgroundColor)
  return ground.alpha > 0
    ? { plate: { layer: ground }, covered: ground.alpha }
    : letterHalo(style, element.textContent ?? '')
}

/**
 * The shadows of a text by its computed style, as the browser draws them in its typeface; null
 * without any. Source: docs/method.md (letters).
 */
function letterHalo(style: CSSStyleDeclaration, text: string): LetterHalo | null {
  const { textShadow, fontStyle, fontWeight, fontSize, fontFamily, letterSpacing } = style
  if (textShadow === 'none') return null
  const words = text.replaceAll(/\s+/g, ' ').trim().slice(0, LETTERS)
  const key = [textShadow, fontStyle, fontWeight, fontSize, fontFamily, letterSpacing, words].join()
  const found = known.get(key)
  if (found !== undefined) return found
  const fontPx = parseFloat(fontSize)
  const density = densityOf(fontPx)
  const face = {
    font: `${fontStyle} ${fontWeight} ${fontPx * density}px ${fontFamily}`,
    letterSpacing: `${(parseFloat(letterSpacing) || 0) * density}px`,
    height: fontPx * 1.3,
    density,
  }
  const halo = measured(words, face, shadowsOf(textShadow))
  known.set(key, halo)
  for (const oldest of known.keys()) if (known.size > MAX_KNOWN) known.delete(oldest)
  return halo
}

/** A shadow of a text, in CSS pixels. */
interface Shadow {
  readonly color: string
  readonly x: number
  readonly y: number
  readonly blur: number
}

/** A computed `text-shadow`: the first is in front. */
function shadowsOf(computed: string): Shadow[] {
  const each = /(rgba?\([^)]*\)|color\([^)]*\)) (-?[\d.]+)px (-?[\d.]+)px ([\d.]+)px/g
  return [...computed.matchAll(each)].map(([, color, x, y, blur]) => ({
    color: color!,
    x: Number(x),
    y: Number(y),
    blur: Number(blur),
  }))
}

/** The typeface of a drawing. */
interface DrawnFace {
  readonly font: string
  readonly letterSpacing: string
  /** Of a line, in CSS pixels. */
  readonly height: number
  readonly density: number
}

function measured(
  words: string,
  { density, ...face }: DrawnFace,
  shadows: readonly Shadow[],
): LetterHalo | null {
  const [front] = shadows
  if (!front || words === '') return null
  const margin = MARGIN * density
  const height = Math.ceil(face.height * density) + 2 * margin
  const prepared = (width: number): OffscreenCanvasRenderingContext2D => {
    const context = new OffscreenCanvas(width, height).getContext('2d', {
      willReadFrequently: true,
    })!
    context.font = face.font
    context.letterSpacing = face.letterSpacing
    context.textBaseline = 'middle'
    return context
  }
  const width = Math.ceil(prepared(1).measureText(words).width) + 2 * margin
  const alphasOf = (draw: (context: OffscreenCanvasRenderingContext2D) => void): Uint8Array => {
    const context = prepared(width)
    draw(context)
    const { data } = context.getImageData(0, 0, width, height)
    return Uint8Array.from({ length: width * height }, (_, pixel) => data[4 * pixel + 3]!)
  }
  const letters = alphasOf((context) => context.fillText(words, margin, height / 2))
  const halo = alphasOf((context) => {
    for (const { color, x, y, blur } of shadows.toReversed()) {
      context.shadowColor = color
      context.shadowBlur = blur * density
      context.shadowOffsetX = x * density + AWAY
      context.shadowOffsetY = y * density
      context.fillText(words, margin - AWAY, height / 2)
    }
  })
  const around = haloAround(letters, halo, width, height, EDGE_PX * density)
  if (!around) return null
  const { near, opacities, mean } = around
  return { plate: { layer: { ...layerOf(front.color), alpha: near }, opacities }, covered: mean }
}
