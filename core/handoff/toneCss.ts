import type { BackdropDocument } from '../backdrop/BackdropDocument'
import { rendersClips, styleTone } from '../backdrop/delivered'
import { PLAIN_TONE, toneSchema, type Tone } from '../tone/Tone'
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
