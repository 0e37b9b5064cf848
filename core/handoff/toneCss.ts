import type { BackdropDocument } from '../backdrop/BackdropDocument'
import { rendersClips, styleTone } from '../backdrop/delivered'
import { PLAIN_TONE, toneSchema, type Tone } from '../tone/Tone'
import { TONE_LUMA } from '../tone/applyTone'
import { parseHex } from '../picture/srgb'
import { cssNumber } from './cssNumber'

/**
 * Elements of each kind that stand still or are drawn by the style: all that is seen of the base.
 */
const ELEMENTS = {
  footage: ':is(.tln-video, .tln-poster)',
  slideshow: '.tln-slides',
  image: '.tln-image',
  paint: '.tln-paint',
} as const

/** A tone as filter functions of CSS, which cannot tint. */
export const toneFilter = ({ brightness, contrast, saturation }: Tone): string =>
  `brightness(${cssNumber(brightness)}) contrast(${cssNumber(contrast)}) saturate(${cssNumber(saturation)})`

/** The rule of the tone that browsers make; none where the files have it. */
export function toneRules(own: string, document: BackdropDocument): string[] {
  const tone = styleTone(document)
  return tone ? [`.tln-region${own} ${toneElement(document)} { filter: ${toneFilter(tone)}; }`] : []
}

/** What selects the elements that show a document's base. */
export const toneElement = (document: BackdropDocument): string =>
  ELEMENTS[rendersClips(document) ? 'footage' : document.base.kind]

/**
 * What `toneFilter` has written, as browsers tell it; null for no filter, undefined for another.
 */
export function toneFromFilter(computed: string): Tone | null | undefined {
  if (computed === 'none') return null
  const found = /^brightness\(([\d.]+)\) contrast\(([\d.]+)\) saturate\(([\d.]+)\)$/.exec(computed)
  if (!found) return undefined
  const [brightness, contrast, saturation] = found.slice(1).map(Number)
  const tone = toneSchema.safeParse({ ...PLAIN_TONE, brightness, contrast, saturation })
  return tone.success ? tone.data : undefined
}

/** The tint of a tone as a filter, for the stage: not all browsers take filters from addresses. */
export function tintFilter({ tint: { color, strength } }: Tone): string {
  if (strength === 0) return ''
  const { r, g, b } = parseHex(color)
  const weights = [TONE_LUMA.r, TONE_LUMA.g, TONE_LUMA.b]
  const own = TONE_LUMA.r * r + TONE_LUMA.g * g + TONE_LUMA.b * b
  const rows = [r, g, b].map((channel, row) => [
    ...weights.map((weight, column) => strength * weight + (row === column ? 1 - strength : 0)),
    0,
    (strength * (channel - own)) / 255,
  ])
  const values = [...rows, [0, 0, 0, 1, 0]].flat().map((value) => value.toFixed(4))
  const svg = `<svg xmlns='http://www.w3.org/2000/svg'><filter id='t' color-interpolation-filters='sRGB'><feColorMatrix values='${values.join(' ')}'/></filter></svg>`
  return `url("data:image/svg+xml,${encodeURIComponent(svg)}#t")`
}
